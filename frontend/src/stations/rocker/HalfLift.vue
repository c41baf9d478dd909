<script setup lang="ts">
/** Half lift: where the gauge must stand, how far it is from there, and the angle looked at there. */
import { t } from '../../kit/words'
import { useQuery } from '@tanstack/vue-query'
import { refDebounced } from '@vueuse/core'
import { computed, ref, watch } from 'vue'
import { answer, api, type Rocker, type Problem } from '../../api/client'
import { length, small } from '../../kit/format'
import { wantGauge } from '../../kit/gauge'
import { takeOut } from '../../kit/entries'
import { usePrefs } from '../../kit/prefs'
import ProblemNote from '../../kit/ProblemNote.vue'
import { mended, refusedBy } from '../../kit/refused'
import { ANGLE_TOOLS, HEIGHTS_EXAMPLE, type AngleTool } from './angleTools'
import type { KeepTry } from './useRocker'
import TermLink from '../../kit/TermLink.vue'
import PickOne from '../../kit/PickOne.vue'

const props = defineProps<{
  arm: Rocker
  keep: KeepTry
}>()
const emit = defineEmits<{ valve: [inches: number] }>()
const { unit } = usePrefs()

const gauge = ref('')
const net = ref('')
const angle = ref('')
const tool = ref<AngleTool>('inclinometer')
const heights = computed(() => tool.value === 'heights')
const problem = ref<Problem | null>(null)

const seen = computed(() => props.arm.marks.findLast((m) => !m.struck && m.lift_in !== null))
const lift = computed(() => seen.value?.lift_in ?? props.arm.figures.net_lift_in ?? null)
const source = computed(() =>
  seen.value
    ? t('try {number}', { number: seen.value.number })
    : props.arm.figures.net_lift_in
      ? t('as entered')
      : t('expected'),
)

/** What stands in the field now; the server reads it and says what to do. */
const typed = refDebounced(gauge, 60)
const { data: said } = useQuery({
  queryKey: computed(() => ['half-lift', lift.value ?? props.arm.lift_in, typed.value, unit.value]),
  queryFn: async () => {
    let gauge_in: number | null = null
    if (typed.value.trim()) {
      const body = { text: typed.value, field: 'lift' as const, unit: unit.value }
      const read = await answer(api.POST('/api/compute/length', { body })).catch(() => null)
      gauge_in = read?.inches ?? null
    }
    const body = { net_lift_in: lift.value ?? props.arm.lift_in, gauge_in }
    return answer(api.POST('/api/compute/mid-lift', { body }))
  },
  placeholderData: (before) => before,
})
watch(said, (now) => {
  if (now && now.off_in != null) emit('valve', now.mid_lift_in - now.off_in)
})
const share = computed(() => {
  const half = said.value?.mid_lift_in ?? 1
  const at = said.value?.off_in == null ? null : half - said.value.off_in
  return at === null ? null : Math.min(Math.max(at / (2 * half), 0), 1)
})

async function record() {
  const entry = {
    angle: heights.value ? '' : angle.value,
    heights: heights.value ? angle.value : '',
    angle_by: tool.value,
    lift: net.value,
  }
  const putBack = takeOut(angle, net)
  problem.value = await props.keep(entry)
  if (problem.value) putBack()
}
function mend(text: string) {
  for (const field of [angle, net]) field.value = mended(field.value, problem.value, text)
  void record()
}
wantGauge()
</script>

<template>
  <section class="half" :aria-label="t('Half lift')" data-pad>
    <div class="top">
      <svg
        viewBox="0 0 60 170"
        role="img"
        :aria-label="
          said ? t('Half lift at {mid_lift}', { mid_lift: small(said.mid_lift_in, unit) }) : ''
        "
      >
        <rect class="tube" x="22" y="8" width="16" height="154" />
        <line class="mid" x1="20" x2="50" y1="85" y2="85" />
        <path
          v-if="share !== null"
          class="needle"
          :class="{ there: said?.there }"
          :d="`M40 ${8 + share * 154} l14 -8 v16 Z`"
        />
        <text x="16" y="16">0</text>
        <text x="16" y="89">½</text>
        <text x="16" y="164">1</text>
      </svg>
      <div>
        <p class="quiet">
          {{ t('Net lift {lift} ({source})', { lift: length(lift ?? arm.lift_in, unit), source }) }}
        </p>
        <p v-if="said" class="target">
          {{ t('Half lift: gauge at') }} <b>{{ length(said.mid_lift_in, unit) }}</b>
        </p>
        <label for="gauge">{{ t('Gauge on the retainer reads') }}</label>
        <el-input id="gauge" v-model="gauge" size="large" autocomplete="off" inputmode="decimal">
          <template #suffix>{{ unit }}</template>
        </el-input>
        <p class="says" :class="{ there: said?.there }" role="status">{{ said?.sentence }}&nbsp;</p>
      </div>
    </div>
    <div class="pair">
      <div>
        <label for="half-angle">{{ t('Angle, tip high +') }}</label>&nbsp;<TermLink term="angle">{{
          t('sign')
        }}</TermLink>
        <el-input
          id="half-angle"
          v-model="angle"
          v-bind="refusedBy('half', problem, angle)"
          autocomplete="off"
          :placeholder="heights ? HEIGHTS_EXAMPLE : ''"
          @keydown.enter="record"
        >
          <template #suffix>{{ heights ? unit : '°' }}</template>
        </el-input>
      </div>
      <div>
        <label for="half-tool">{{ t('read with') }}</label>
        <PickOne
          id="half-tool"
          v-model="tool"
          :label="t('Angle read with')"
          :options="ANGLE_TOOLS"
        />
      </div>
    </div>
    <div class="pair">
      <div>
        <label for="half-net">{{ t('Net lift, light springs') }}</label>
        <el-input
          id="half-net"
          v-model="net"
          v-bind="refusedBy('half', problem, net)"
          autocomplete="off"
          :placeholder="t('if read')"
          @keydown.enter="record"
        >
          <template #suffix>{{ unit }}</template>
        </el-input>
      </div>
      <button type="button" class="plain strong" @click="record">
        {{ t('Record') }} <kbd>{{ t('Enter') }}</kbd>
      </button>
    </div>
    <ProblemNote id="half-why" :problem="problem" @use="mend" />
  </section>
</template>

<style scoped>
.half {
  display: flex;
  flex-direction: column;
  gap: 8px;
}
.top {
  display: grid;
  grid-template-columns: 70px 1fr;
  gap: 12px;
}
.tube {
  fill: var(--tag);
  stroke: var(--ink);
}
.mid {
  stroke: var(--good);
  stroke-width: 3;
}
.needle {
  fill: var(--accent);
}
.needle.there {
  fill: var(--good);
}
text {
  font-size: 13px;
  text-anchor: end;
  fill: var(--quiet);
}
p {
  margin: 0 0 4px;
}
.target {
  font-size: 18px;
}
.target b {
  font-size: 22px;
  font-variant-numeric: tabular-nums;
}
.says {
  margin-top: 4px;
  font-weight: 600;
}
.says.there {
  color: var(--good);
}
.quiet,
label {
  font-size: 14px;
  color: var(--quiet);
}
.pair {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 10px;
  align-items: end;
}
.strong kbd {
  color: inherit;
  border-color: currentColor;
}
</style>
