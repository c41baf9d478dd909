<script setup lang="ts">
/** Other rods or shims, looked at before any is made: the sweep over the setting, two pins. */
import { t } from '../../kit/words'
import { computed } from 'vue'
import type { Motion, Rocker } from '../../api/client'
import SettingCurve from '../../drawings/SettingCurve.vue'
import { FLAT_IN } from '../../drawings/scale'
import CurveValues from '../../kit/CurveValues.vue'
import { length, small, within } from '../../kit/format'
import { useKeys } from '../../kit/keys'
import { usePrefs } from '../../kit/prefs'
import type { Shown } from './useShown'

const props = defineProps<{ arm: Rocker; batch: Motion; shown: Shown }>()
const { unit } = usePrefs()
const { setting, away, back, show, step, pins, pin } = props.shown

const asked = computed(() =>
  props.arm.corrections.find((c) => c.school === props.arm.figures.school),
)
const exact = computed(() =>
  asked.value?.exact_in == null
    ? null
    : { at: asked.value.exact_in, spread: 2 * (asked.value.u_in ?? 0) },
)
function showAsked() {
  if (asked.value?.rounded_in != null) show(asked.value.rounded_in)
}
const swept = computed(() => (props.batch.tip === 'roller' ? t('Sweep') : t('Sliding')))
const widths = computed(() =>
  props.batch.tip === 'roller' ? props.batch.settings.width_in : props.batch.settings.slide_in,
)
const written = (at: number) => (props.batch.stud ? length(at, unit.value) : small(at, unit.value))
const values = () =>
  props.batch.settings.setting_in.map((at, i) => [
    written(at),
    small(widths.value[i] ?? 0, unit.value),
    props.batch.settings.refused[i] ?? '',
  ])
const words = computed(() =>
  props.batch.stud
    ? length(setting.value, unit.value)
    : t('shim {setting}', { setting: small(setting.value, unit.value) }),
)

useKeys([
  { key: '+', does: t('Next rod or shim up'), run: () => step(1) },
  { key: '-', shown: '−', does: t('Next rod or shim down'), run: () => step(-1) },
  { key: 'a', does: t('Show what is asked for'), run: showAsked },
  { key: 'o', does: t('Back to what is on the engine'), run: back },
  { key: 'p', does: t('Pin this setting'), run: pin },
])
</script>

<template>
  <section class="explore" :aria-label="t('Explorer')">
    <h2>
      {{ t('Explore: {words}', { words }) }}
      <button type="button" class="plain" @click="pin">{{ t('Pin') }} <kbd>P</kbd></button>
      <CurveValues
        :title="t('{swept} over {stud}', { swept, stud: batch.stud ? t('the rod') : t('shim') })"
        :heads="[batch.stud ? t('Rod') : t('Shim'), swept, t('Remark')]"
        :rows="values"
      />
      <button v-if="away" type="button" class="plain" @click="back">
        {{ t('Back to the engine') }} <kbd>O</kbd>
      </button>
    </h2>
    <SettingCurve
      :unit="unit"
      :stud="batch.stud"
      :settings="batch.settings.setting_in"
      :widths="widths"
      :refused="batch.settings.refused"
      :least="batch.least_in"
      :stocked="batch.stocked_in"
      :now="arm.now_in"
      :chosen="setting"
      :exact="exact"
      :pins="pins.map((p) => ({ at: p.setting, name: p.name }))"
      @choose="show"
    />
    <p class="quiet under">
      {{
        t('{swept}, {unit}, over {stud}; green: within {by} of the best{exact}', {
          swept,
          by: small(FLAT_IN, unit),
          unit: unit === 'in' ? 'thou' : 'mm',
          stud: batch.stud ? t('the rod') : t('shim'),
          exact: exact ? t('; band {within}', { within: within(exact.spread, unit) }) : '',
        })
      }}
    </p>
  </section>
</template>

<style scoped>
h2 {
  display: flex;
  align-items: center;
  gap: 8px;
  margin: 0;
  font-size: 16px;
  min-height: 44px;
  font-variant-numeric: tabular-nums;
}
h2 .plain:first-of-type {
  margin-left: auto;
}
.quiet {
  font-size: 14px;
  color: var(--quiet);
}
.under {
  margin: 0;
}
</style>
