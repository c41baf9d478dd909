<script setup lang="ts">
/** The dimension sheet: starting values until measured, the ones worth measuring first on top. */
import { decimal, t } from '../../kit/words'
import { computed } from 'vue'
import type { Rocker, Build, GeometryFigures, ParseField } from '../../api/client'
import ChoiceRow from '../../kit/ChoiceRow.vue'
import FigureEntry from '../../kit/FigureEntry.vue'
import { small, within } from '../../kit/format'
import NumberEntry from '../../kit/NumberEntry.vue'
import { usePrefs } from '../../kit/prefs'
import ProblemNote from '../../kit/ProblemNote.vue'
import type { Keeper } from '../useKeeper'
import { sheetWith } from './sheet'

const props = defineProps<{ build: Build; arm: Rocker; keeper: Keeper }>()
const { unit } = usePrefs()

type Line = Rocker['sheet'][number]
const FIELDS: Partial<Record<Line['name'], ParseField>> = {
  arm_in: 'arm',
  tip_radius_in: 'tip_radius',
  lobe_lift_in: 'lobe_lift',
  film_in: 'film',
}
const TIPS = [
  { value: 'roller', words: t('Roller tip') },
  { value: 'shoe', words: t('Shoe tip') },
] as const satisfies { value: string; words: string }[]

const DESIGN = [
  { value: 'fault', words: t('Fault') },
  { value: 'design', words: t('By design') },
] as const satisfies { value: string; words: string }[]

const lines = computed(() =>
  [...props.arm.sheet].sort((a, b) => (a.setting_u_in ?? 9) - (b.setting_u_in ?? 9)),
)
const now = computed(() => {
  const asked = props.arm.corrections.find((c) => c.school === props.arm.figures.school)
  return asked?.u_in ?? null
})
/** By how much of the setting's uncertainty a line, once measured, would lower it. */
const worth = (line: Line) =>
  now.value && line.setting_u_in !== null && !line.measured
    ? Math.max(0, 1 - line.setting_u_in / now.value)
    : null
function spread(line: Line): string {
  const two = 2 * line.u
  if (line.name.endsWith('_in')) return small(two, unit.value)
  return line.name === 'ratio'
    ? decimal(two.toFixed(2))
    : `${decimal(String(Number(two.toFixed(1))))}°`
}

const keep = (values: Partial<GeometryFigures>) =>
  props.keeper.keep(sheetWith(props.arm, () => values))
function keepLine(line: Line, value: number | null) {
  const own = value === null ? [] : [[line.name, { value, u: line.measured_u }] as const]
  const others = (measured: GeometryFigures['measured']) =>
    Object.entries(measured ?? {}).filter(([name]) => name !== line.name)
  void props.keeper.keep(
    sheetWith(props.arm, ({ measured }) => ({
      measured: Object.fromEntries([...others(measured), ...own]),
    })),
  )
}
</script>

<template>
  <section class="sheet" :aria-label="t('Dimensions')">
    <ChoiceRow
      quiet
      :label="t('Tip')"
      :options="TIPS"
      :model-value="arm.figures.tip"
      @update:model-value="keep({ tip: $event, measured: {} })"
    />
    <div class="pair">
      <NumberEntry
        :label="t('Valve tip’s diameter')"
        field="tip_diameter"
        :model-value="arm.figures.stem_in"
        @update:model-value="keep({ stem_in: $event ?? arm.figures.stem_in })"
      />
      <NumberEntry
        :label="t('Net lift, without a cam card')"
        field="net_lift"
        optional
        :model-value="arm.figures.net_lift_in ?? null"
        @update:model-value="keep({ net_lift_in: $event })"
      />
    </div>
    <div class="pair">
      <NumberEntry
        :label="t('Fulcrum to the stem’s axis')"
        field="arm"
        optional
        :model-value="arm.figures.fulcrum_in ?? null"
        @update:model-value="keep({ fulcrum_in: $event })"
      />
      <ChoiceRow
        :label="t('Off the middle sideways')"
        :options="DESIGN"
        :model-value="arm.figures.across_by_design ? 'design' : 'fault'"
        @update:model-value="keep({ across_by_design: $event === 'design' })"
      />
    </div>
    <ProblemNote :problem="keeper.refusalOf('geometry')" />
    <p class="quiet">
      {{
        t('The most worth measuring stands first; {stud} asked for is known to {now}.', {
          stud: arm.stud ? t('the rod') : t('the shim'),
          now: now === null ? '–' : within(2 * now, unit),
        })
      }}
    </p>
    <div v-for="line in lines" :key="line.name" class="line">
      <NumberEntry
        v-if="FIELDS[line.name]"
        :label="line.words"
        :field="FIELDS[line.name]!"
        optional
        :model-value="line.value"
        @update:model-value="keepLine(line, $event)"
      />
      <FigureEntry
        v-else
        :label="line.words"
        optional
        :suffix="line.name === 'ratio' ? '' : '°'"
        :model-value="line.value"
        @keep-number="keepLine(line, $event)"
      />
      <div class="known">
        <b :class="{ measured: line.measured }">{{ line.measured ? t('measured') : t('start') }}</b>
        ± {{ spread(line) }}
        <span v-if="worth(line) !== null && worth(line)! >= 0.01" class="worth">
          <i :style="{ width: `${Math.min(worth(line)! * 100, 100)}%` }" />
          {{ t('{line} % surer if measured', { line: Math.round(worth(line)! * 100) }) }}
        </span>
        <span class="quiet">{{ line.how }}</span>
      </div>
    </div>
    <div class="pair">
      <FigureEntry
        :label="t('Lifter axis, outboard of the stem')"
        suffix="°"
        :model-value="arm.figures.lifter_deg"
        @keep-number="keep({ lifter_deg: $event ?? 0 })"
      />
      <NumberEntry
        :label="t('Rod’s offset along the fulcrum')"
        field="offset"
        :model-value="arm.figures.offset_in"
        @update:model-value="keep({ offset_in: $event ?? 0 })"
      />
      <NumberEntry
        v-if="!arm.stud"
        :label="t('Shims come in steps of')"
        field="shim_step"
        :model-value="arm.figures.shim_step_in"
        @update:model-value="keep({ shim_step_in: $event ?? 0.005 })"
      />
    </div>
    <p class="quiet">
      {{ t('Starting values and their ± are common practice put into figures by us.') }}
    </p>
  </section>
</template>

<style scoped>
.sheet {
  display: flex;
  flex-direction: column;
  gap: 8px;
}
.pair {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 8px 12px;
}
.line {
  display: grid;
  grid-template-columns: 158px 1fr;
  gap: 12px;
  align-items: end;
}
.line :deep(.reading),
.pair :deep(.reading) {
  display: none;
}
.known {
  display: flex;
  flex-direction: column;
  font-size: 14px;
  line-height: 1.2;
  padding-bottom: 4px;
}
.measured {
  color: var(--good);
}
.worth {
  position: relative;
  padding: 1px 4px;
  background: var(--tag);
  border: 1px solid var(--rule);
  width: fit-content;
}
.worth i {
  position: absolute;
  left: 0;
  bottom: 0;
  height: 3px;
  background: var(--accent);
}
p {
  margin: 0;
}
.quiet {
  font-size: 14px;
  color: var(--quiet);
}
</style>
