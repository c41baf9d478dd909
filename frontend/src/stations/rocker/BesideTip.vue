<script setup lang="ts">
/** What stands beside the drawings: what to read next, the schools, what is compared, the tries. */
import { decimal, t } from '../../kit/words'
import { ref, watch } from 'vue'
import type { Mark, Motion, Problem, Rocker } from '../../api/client'
import LiftCurves from '../../drawings/LiftCurves.vue'
import ChoiceRow from '../../kit/ChoiceRow.vue'
import CurveValues from '../../kit/CurveValues.vue'
import { degrees, small } from '../../kit/format'
import { usePrefs } from '../../kit/prefs'
import ProblemNote from '../../kit/ProblemNote.vue'
import CompareTable from './CompareTable.vue'
import LiftHunt from './LiftHunt.vue'
import MarkLog from './MarkLog.vue'
import NextReadings from './NextReadings.vue'
import SchoolsView from './SchoolsView.vue'
import type { Shown } from './useShown'

const props = defineProps<{
  arm: Rocker
  batch: Motion
  shown: Shown
  problem: Problem | null
}>()
const emit = defineEmits<{
  strike: [mark: Mark]
  restore: [mark: Mark]
  school: [school: 'mid_lift' | 'centred']
}>()
const { unit } = usePrefs()
const { read, curve, otherCurve, lift, toValve, show, away, pins, unpin, columns } = props.shown

const TABS = [
  { value: 'next', words: t('Next') },
  { value: 'schools', words: t('Schools') },
  { value: 'tries', words: t('Tries') },
  { value: 'compare', words: t('Compare') },
  { value: 'over', words: t('Over lift') },
  { value: 'hunt', words: t('Lift hunt') },
] as const satisfies { value: string; words: string }[]
const tab = ref<(typeof TABS)[number]['value']>('next')
const overLift = () =>
  (curve.value?.valve ?? []).map((lifted, i) => [
    small(lifted, unit.value),
    small(curve.value?.contact[i] ?? 0, unit.value),
    decimal((curve.value?.ratio[i] ?? 0).toFixed(3)),
    degrees(curve.value?.arm[i] ?? 0),
  ])
watch([away, () => pins.value.length], ([moved, count]) => {
  if (moved || count) tab.value = 'compare'
})
</script>

<template>
  <section class="beside" :aria-label="t('Beside the drawings')">
    <ChoiceRow v-model="tab" quiet :label="t('Show')" :options="TABS" />
    <div class="panel" tabindex="0">
      <NextReadings v-if="tab === 'next'" :arm="arm" />
      <SchoolsView
        v-else-if="tab === 'schools'"
        :arm="arm"
        @show="show"
        @school="emit('school', $event)"
      />
      <div v-else-if="tab === 'tries'" role="group" :aria-label="t('Tries')">
        <ProblemNote :problem="problem" />
        <MarkLog :arm="arm" @strike="emit('strike', $event)" @restore="emit('restore', $event)" />
      </div>
      <CompareTable
        v-else-if="tab === 'compare'"
        :batch="batch"
        :columns="columns"
        @show="show"
        @drop="unpin"
      />
      <LiftHunt v-else-if="tab === 'hunt'" :arm="arm" />
      <template v-else-if="read && curve">
        <LiftCurves
          :unit="unit"
          :curve="curve"
          :other="otherCurve"
          :now="{ ...read, arm: read.line }"
          :half="lift / 2"
          @valve="toValve"
        />
        <CurveValues
          :title="t('Contact, ratio and arm over the lift')"
          :heads="[t('Valve lift'), t('Contact'), t('Ratio'), t('Arm')]"
          :rows="overLift"
        />
      </template>
    </div>
  </section>
</template>

<style scoped>
.beside {
  display: flex;
  flex-direction: column;
  gap: 8px;
  min-height: 0;
}
.beside > :deep(.choices) {
  display: grid;
  grid-template-columns: repeat(3, 1fr);
}
.beside > :deep(.choices .plain) {
  padding: 0 6px;
}
.panel {
  overflow: auto;
  min-height: 0;
}
</style>
