<script setup lang="ts">
/** Measured ratio from lobe and valve lifts, and the lift that the real springs take. */
import { decimal, t } from '../../kit/words'
import { computed, ref } from 'vue'
import type { Rocker, Problem } from '../../api/client'
import { takeOut } from '../../kit/entries'
import FigureButton from '../../kit/FigureButton.vue'
import { small } from '../../kit/format'
import { usePrefs } from '../../kit/prefs'
import ProblemNote from '../../kit/ProblemNote.vue'
import { mended, refusedBy } from '../../kit/refused'
import type { KeepTry } from './useRocker'

const props = defineProps<{
  arm: Rocker
  keep: KeepTry
}>()
const { unit } = usePrefs()
const pairs = ref('')
const light = ref('')
const real = ref('')
const LIFTS = [
  { id: 'light', words: t('Net lift, light springs'), text: light },
  { id: 'real', words: t('Net lift, real springs'), text: real },
]
const problem = ref<Problem | null>(null)

const read = computed(() => props.arm.marks.findLast((m) => !m.struck && m.ratios.length > 0))
const sprung = computed(() => props.arm.marks.findLast((m) => !m.struck && m.lost_in !== null))

async function record() {
  const seen = { lift: light.value, real_lift: real.value, pairs: pairs.value }
  const putBack = takeOut(pairs, light, real)
  problem.value = await props.keep(seen)
  if (problem.value) putBack()
}
function mend(text: string) {
  for (const field of [pairs, light, real]) field.value = mended(field.value, problem.value, text)
  void record()
}
</script>

<template>
  <section class="ratio" :aria-label="t('Ratio')" data-pad>
    <div class="known">
      <FigureButton
        :label="t('R0, near closed')"
        :value="`${decimal(arm.ratio.toFixed(3))} ± ${decimal((2 * arm.ratio_u).toFixed(3))}`"
        :explanation="arm.explanations.ratio"
      />
      <FigureButton :label="t('Catalogue')" :value="String(arm.catalogue)" />
    </div>
    <p class="quiet">
      {{
        arm.ratio_used
          ? t('This R0 is used for gaps, turns and predictions.')
          : t('Gaps and turns still use the catalogue ratio: measure the bend or make a mark.')
      }}
    </p>
    <div>
      <label for="pairs">{{
        t('Lobe and valve lift, light springs: 0.100 0.178; 0.200 0.350')
      }}</label>
      <el-input
        id="pairs"
        v-model="pairs"
        v-bind="refusedBy('ratio', problem, pairs)"
        autocomplete="off"
        @keydown.enter="record"
      />
    </div>
    <div class="pair">
      <div v-for="box in LIFTS" :key="box.id">
        <label :for="box.id">{{ box.words }}</label>
        <el-input
          :id="box.id"
          v-model="box.text.value"
          v-bind="refusedBy('ratio', problem, box.text.value)"
          autocomplete="off"
          @keydown.enter="record"
        >
          <template #suffix>{{ unit }}</template>
        </el-input>
      </div>
    </div>
    <button type="button" class="plain strong" @click="record">
      {{ t('Record') }} <kbd>{{ t('Enter') }}</kbd>
    </button>
    <ProblemNote id="ratio-why" :problem="problem" @use="mend" />
    <table v-if="read">
      <thead>
        <tr>
          <th>{{ t('lobe') }}</th>
          <th>{{ t('valve') }}</th>
          <th>{{ t('ratio') }}</th>
          <th>{{ t('since the last') }}</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="p in read.ratios" :key="p.lobe_in">
          <td>{{ small(p.lobe_in, unit) }}</td>
          <td>{{ small(p.valve_in, unit) }}</td>
          <td>{{ decimal(p.ratio.toFixed(3)) }} ± {{ decimal((2 * p.u).toFixed(3)) }}</td>
          <td>{{ decimal(p.local.toFixed(3)) }}</td>
        </tr>
      </tbody>
    </table>
    <p v-if="sprung">
      {{ t('Real springs take') }} <b>{{ small(sprung.lost_in ?? 0, unit) }}</b> {{ t('of lift.') }}
    </p>
  </section>
</template>

<style scoped>
.ratio {
  display: flex;
  flex-direction: column;
  gap: 8px;
}
.known,
.pair {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 10px;
}
p {
  margin: 0;
}
.quiet,
label {
  font-size: 14px;
  color: var(--quiet);
}
.strong kbd {
  color: inherit;
  border-color: currentColor;
}
</style>
