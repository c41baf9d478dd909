<script setup lang="ts">
/** Net lift over the rods, shims or screw settings tried, the best of them, and what it lacks. */
import { t } from '../../kit/words'
import { computed } from 'vue'
import type { Rocker } from '../../api/client'
import HuntCurve from '../../drawings/HuntCurve.vue'
import { turnsWords, length, small } from '../../kit/format'
import { usePrefs } from '../../kit/prefs'

const props = defineProps<{ arm: Rocker }>()
const { unit } = usePrefs()
const hunt = computed(() => props.arm.hunt)
const THING = { rod: t('Rod'), shim: t('Shim'), screw: t('Screw, turns') }
const written = (setting: number) => {
  if (hunt.value?.by === 'screw') return turnsWords(setting)
  return hunt.value?.by === 'rod' ? length(setting, unit.value) : small(setting, unit.value)
}
const goes = computed(() => {
  const h = hunt.value
  if (!h) return ''
  if (h.peak_in != null) return t('Most lift near {peak}.', { peak: written(h.peak_in) })
  if (h.rising)
    return t('Lift still grows beyond {best}: one setting further.', { best: written(h.best_in) })
  return t('Even: the settings tried differ by less than can be read.')
})
</script>

<template>
  <div v-if="hunt" class="hunt">
    <HuntCurve
      :unit="unit"
      :points="hunt.points"
      :expected="hunt.expected_in"
      :peak="hunt.peak_in ?? null"
      :written="written"
    />
    <p class="goes">{{ goes }}</p>
    <table>
      <thead>
        <tr>
          <th>{{ THING[hunt.by] }}</th>
          <th>{{ t('Net lift') }}</th>
          <th>{{ t('To lobe × ratio') }}</th>
        </tr>
      </thead>
      <tbody>
        <tr
          v-for="p in hunt.points"
          :key="p.setting_in"
          :class="{ best: p.setting_in === hunt.best_in }"
        >
          <td>{{ written(p.setting_in) }}</td>
          <td>{{ length(p.lift_in, unit) }}</td>
          <td>{{ small(hunt.expected_in - p.lift_in, unit) }}</td>
        </tr>
      </tbody>
    </table>
  </div>
  <p v-else class="quiet">
    {{
      t('Read the net lift at two settings or more: {stud}. Here they stand side by side.', {
        stud: arm.stud ? t('rods') : t('shims, rods, or the rocker’s screw'),
      })
    }}
  </p>
</template>

<style scoped>
.hunt {
  display: flex;
  flex-direction: column;
  gap: 4px;
}
p {
  margin: 0;
  line-height: 1.25;
}
.goes {
  font-weight: 600;
}
.quiet {
  font-size: 14px;
  color: var(--quiet);
}
table {
  border-collapse: collapse;
  font-variant-numeric: tabular-nums;
}
th {
  font-size: 14px;
  font-weight: 400;
  text-align: left;
  color: var(--quiet);
}
td {
  border-top: 1px solid var(--rule);
  padding: 3px 10px 3px 0;
}
.best td {
  font-weight: 600;
}
</style>
