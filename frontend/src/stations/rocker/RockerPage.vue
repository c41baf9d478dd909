<script setup lang="ts">
/** The rocker: the mechanism moving to scale, the mark on the tip, and what to change. */
import { t } from '../../kit/words'
import { computed, nextTick, ref, useTemplateRef } from 'vue'
import { useRouter } from 'vue-router'
import { problemOf, type Mark, type Problem } from '../../api/client'
import CautionList from '../../kit/CautionList.vue'
import ChoiceRow from '../../kit/ChoiceRow.vue'
import { fill } from '../../kit/format'
import { useKeys } from '../../kit/keys'
import { usePrefs } from '../../kit/prefs'
import StrikeDialog from '../../kit/StrikeDialog.vue'
import ValveStrip from '../../kit/ValveStrip.vue'
import VerdictNote from '../../kit/VerdictNote.vue'
import { useBuild } from '../builds'
import { sheetWith } from './sheet'
import { useKeeper } from '../useKeeper'
import ArmPlayer from './ArmPlayer.vue'
import BesideTip from './BesideTip.vue'
import DimensionSheet from './DimensionSheet.vue'
import HalfLift from './HalfLift.vue'
import MarkEntry from './MarkEntry.vue'
import RatioEntry from './RatioEntry.vue'
import RockerExplorer from './RockerExplorer.vue'
import TipSeen from './TipSeen.vue'
import { useDraft } from './useDraft'
import { useRocker } from './useRocker'
import { useShown } from './useShown'

const props = defineProps<{ buildId: string; valveId: string }>()
const router = useRouter()
const { unit } = usePrefs()
const { data: build } = useBuild(() => props.buildId)
const { query, motion, mark, strike, restore, photo } = useRocker(
  () => props.buildId,
  () => props.valveId,
  () => tab.value,
)
const arm = query.data
const batch = motion.data
const keeper = useKeeper(() => props.buildId)
const shown = useShown(arm, batch)
const { low, high, from, edges, drag } = useDraft(
  computed(() => arm.value?.figures.stem_in ?? 0.34),
)

const TABS = [
  { value: 'mark', words: t('Mark') },
  { value: 'half', words: t('Half lift') },
  { value: 'ratio', words: t('Ratio') },
  { value: 'sheet', words: t('Dimensions') },
] as const satisfies { value: string; words: string }[]
const tab = ref<(typeof TABS)[number]['value']>('mark')
const entry = useTemplateRef<InstanceType<typeof MarkEntry>>('entry')
function typeMark() {
  tab.value = 'mark'
  void nextTick(() => entry.value?.focus())
}
function dragEdge(side: 'low' | 'high', inches: number) {
  tab.value = 'mark'
  drag(side, inches)
}

const STRIKES = [
  t('Misread'),
  t('Wrong valve'),
  t('Plunger gave way'),
  t('Mark smeared'),
  t('Inboard and outboard swapped'),
]
const problem = ref<Problem | null>(null)
const striking = ref<Mark | null>(null)
async function strikeOut(reason: string) {
  if (striking.value) problem.value = await strike(striking.value.id, reason)
  striking.value = null
}
async function countAgain(tried: Mark) {
  problem.value = await restore(tried.id)
}
const strikeLast = () => (striking.value = arm.value?.marks.findLast((m) => !m.struck) ?? null)

function keepSchool(school: 'mid_lift' | 'centred') {
  if (arm.value) void keeper.keep(sheetWith(arm.value, () => ({ school })))
}

function neighbour(by: number) {
  const valves = build.value?.valves ?? []
  const index = valves.findIndex((v) => v.id === props.valveId)
  const to = valves[(index + by + valves.length) % valves.length]
  if (to)
    void router.replace({ name: 'rocker', params: { buildId: props.buildId, valveId: to.id } })
}

useKeys([
  { key: 'm', does: t('Enter a mark'), run: typeMark },
  { key: 'x', does: t('Strike out the last try'), run: strikeLast },
  { key: 'v', does: t('Next valve'), run: () => neighbour(1) },
  { key: 'b', does: t('Valve before'), run: () => neighbour(-1) },
])
</script>

<template>
  <div v-if="build && arm && batch" class="arm-page">
    <ValveStrip :build="build" :valve-id="valveId" step="rocker" bare>
      <span class="which">
        {{
          arm.stud
            ? t('Stud: the rod’s length sets the fulcrum')
            : t('Fixed fulcrum: shims set its height')
        }}
      </span>
    </ValveStrip>
    <div class="bench">
      <div class="drawn">
        <ArmPlayer :batch="batch" :shown="shown" />
        <RockerExplorer :arm="arm" :batch="batch" :shown="shown" />
      </div>
      <div class="told">
        <TipSeen :arm="arm" :batch="batch" :shown="shown" :edges="edges" @edge="dragEdge" />
        <BesideTip
          :arm="arm"
          :batch="batch"
          :shown="shown"
          :problem="problem"
          @strike="striking = $event"
          @restore="countAgain"
          @school="keepSchool"
        />
      </div>
      <section class="entries" :aria-label="t('Verdict and entries')">
        <VerdictNote :verdict="arm.verdict" />
        <VerdictNote v-if="arm.across" :verdict="arm.across" />
        <p v-if="arm.over_lift" class="over-lift">
          {{ fill(arm.over_lift.what, {}, arm.over_lift.smalls, unit) }} {{ arm.over_lift.then }}
        </p>
        <ChoiceRow v-model="tab" quiet :label="t('Enter')" :options="TABS" />
        <MarkEntry
          v-if="tab === 'mark'"
          ref="entry"
          :key="valveId"
          v-model:low="low"
          v-model:high="high"
          v-model:from="from"
          :build="build"
          :arm="arm"
          :keep="mark"
          :upload="photo"
        />
        <HalfLift
          v-else-if="tab === 'half'"
          :key="valveId"
          :arm="arm"
          :keep="mark"
          @valve="shown.toValve"
        />
        <RatioEntry v-else-if="tab === 'ratio'" :key="valveId" :arm="arm" :keep="mark" />
        <DimensionSheet v-else :build="build" :arm="arm" :keeper="keeper" />
      </section>
    </div>
    <CautionList :cautions="arm.cautions" />
    <StrikeDialog
      :title="striking ? t('Strike out try {number}', { number: striking.number }) : null"
      :reasons="STRIKES"
      @strike="strikeOut"
      @close="striking = null"
    />
  </div>
  <p v-else-if="query.error.value || motion.error.value" class="away" role="alert">
    {{ problemOf(query.error.value ?? motion.error.value).detail }}
    <RouterLink class="plain" :to="{ name: 'setup', params: { buildId } }">{{
      t('Set-up')
    }}</RouterLink>
  </p>
  <p v-else class="away">{{ t('Working the rocker out…') }}</p>
</template>

<style scoped>
/* Painted each by itself: what moves in one is not painted again with the others. */
.arm-page > :not(.bench),
.bench :deep(section),
.bench :deep(svg),
.bench :deep(.move) {
  isolation: isolate;
}
.arm-page {
  display: flex;
  flex-direction: column;
  gap: 6px;
}
.which {
  margin-left: auto;
  color: var(--quiet);
}
.over-lift {
  margin: 0;
  color: var(--quiet);
  font-size: 14px;
}
.bench {
  display: grid;
  grid-template-columns: 500px minmax(270px, 330px) minmax(360px, 1fr);
  gap: 10px 20px;
  align-items: start;
}
.drawn,
.told,
.entries {
  display: flex;
  flex-direction: column;
  gap: 8px;
  min-width: 0;
}
@media (min-width: 1181px) {
  .told {
    height: max(600px, calc(100vh - 180px));
  }
}
.entries > :deep(.choices .plain) {
  flex: 1 1 auto;
  padding: 0 8px;
}
.away {
  padding: 40px 0;
}
@container station (max-width: 1140px) {
  .bench {
    grid-template-columns: minmax(0, 1fr) minmax(0, 1fr);
  }
  .entries {
    grid-area: 1 / 2 / span 2;
  }
  .told {
    grid-area: 2 / 1;
  }
}
@container station (max-width: 700px) {
  .bench {
    grid-template-columns: minmax(0, 1fr);
  }
  .entries,
  .told {
    grid-area: auto;
  }
  .entries {
    order: -1;
  }
  .which {
    display: none;
  }
}
</style>
