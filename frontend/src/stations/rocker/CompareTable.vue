<script setup lang="ts">
/** Settings side by side: what is on the engine, what is shown, and what was pinned. */
import { decimal, t } from '../../kit/words'
import { computed } from 'vue'
import type { Motion } from '../../api/client'
import { placeIn, settingAt } from '../../drawings/frame'
import { length, small, smallSpan, degrees } from '../../kit/format'
import { usePrefs } from '../../kit/prefs'

const props = defineProps<{
  batch: Motion
  columns: { name: string; setting: number; pinned: boolean }[]
}>()
const emit = defineEmits<{ show: [setting: number]; drop: [name: string] }>()
const { unit } = usePrefs()

type Name = Parameters<typeof settingAt>[1]
const figure = (name: Name, setting: number) => settingAt(props.batch, name, setting)
const best = computed(() =>
  Math.max(...props.batch.settings.lift_in.filter((_, i) => !props.batch.settings.refused[i]), 0),
)
/** The lesser distance of the mark's ends from the tip's edge. */
const edge = (s: number) =>
  props.batch.stem_in / 2 - Math.max(-figure('inboard_in', s), figure('outboard_in', s))
const first = computed(() => props.columns[0]?.setting ?? 0)
const refusal = (setting: number) => {
  const { setting_in: list, refused } = props.batch.settings
  return refused[Math.round(placeIn(list, setting))] ?? ''
}
function duration(k: number, setting: number): string {
  const list = props.batch.settings.durations_deg[k] ?? []
  const value = list[Math.round(placeIn(props.batch.settings.setting_in, setting))]
  return value == null ? '–' : degrees(value)
}
const rows = computed(() => {
  const u = unit.value
  const b = props.batch
  return [
    {
      words: t('mark'),
      of: (s: number) => smallSpan(figure('inboard_in', s), figure('outboard_in', s), u),
    },
    { words: t('sweep'), of: (s: number) => small(figure('width_in', s), u) },
    { words: t('to the tip’s edge'), of: (s: number) => small(edge(s), u) },
    { words: t('arm at half lift'), of: (s: number) => degrees(figure('angle_deg', s), 2) },
    { words: t('net lift'), of: (s: number) => length(figure('lift_in', s), u) },
    {
      words: t('lift lost'),
      of: (s: number) => small(Math.max(best.value - figure('lift_in', s), 0), u),
    },
    ...b.valve_lifts_in.map((lift, k) => ({
      words: t('open past {lift}', { lift: small(lift, u) }),
      of: (s: number) => duration(k, s),
    })),
    { words: 'R0', of: (s: number) => decimal(figure('ratio', s).toFixed(3)) },
    b.stud
      ? { words: t('rod against the engine'), of: (s: number) => small(s - first.value, u) }
      : {
          words: t('zero lash moves'),
          of: (s: number) => small(figure('rod_in', s) - figure('rod_in', first.value), u),
        },
    b.tip === 'roller'
      ? { words: t('rolls in a cycle'), of: (s: number) => small(figure('roll_in', s), u) }
      : { words: t('slides in a cycle'), of: (s: number) => small(figure('slide_in', s), u) },
    {
      words: t('side load, 1 at the edge'),
      of: (s: number) => decimal(figure('side_load', s).toFixed(2)),
    },
  ]
})
const written = (s: number) =>
  props.batch.stud ? length(s, unit.value) : t('shim {s}', { s: small(s, unit.value) })
</script>

<template>
  <table>
    <thead>
      <tr>
        <th>
          <span class="unseen">{{ t('Figure') }}</span>
        </th>
        <th v-for="c in columns" :key="c.name" :class="{ pinned: c.pinned }">
          {{ c.name }}
          <button
            v-if="c.pinned"
            type="button"
            :aria-label="t('Take {name} away', { name: c.name })"
            @click="emit('drop', c.name)"
          >
            ✕
          </button>
          <button type="button" class="setting" @click="emit('show', c.setting)">
            {{ written(c.setting) }}
          </button>
        </th>
      </tr>
    </thead>
    <tbody>
      <tr v-for="row in rows" :key="row.words">
        <th>{{ row.words }}</th>
        <td v-for="c in columns" :key="c.name">{{ row.of(c.setting) }}</td>
      </tr>
      <tr v-if="columns.some((c) => refusal(c.setting))">
        <th>{{ t('refused') }}</th>
        <td v-for="c in columns" :key="c.name" class="refusal">{{ refusal(c.setting) }}</td>
      </tr>
    </tbody>
  </table>
</template>

<style scoped>
table {
  width: 100%;
}
td {
  white-space: nowrap;
  vertical-align: top;
  font-size: 14px;
  padding-right: 4px;
}
tbody th {
  font-weight: 400;
  font-size: 13px;
  line-height: 1.1;
  text-align: left;
  color: var(--quiet);
}
thead th {
  font-size: 14px;
  vertical-align: bottom;
}
.pinned {
  color: var(--intake);
}
thead button {
  border: 0;
  background: none;
  font: inherit;
  color: inherit;
  cursor: pointer;
  min-height: 28px;
  padding: 0 4px;
}
thead .setting {
  display: block;
  padding: 0;
  font-size: 14px;
  font-weight: 600;
  white-space: nowrap;
  color: var(--ink);
  text-decoration: underline dotted;
}
.refusal {
  color: var(--alarm-ink);
  font-size: 14px;
}
@media (pointer: coarse) {
  thead button {
    min-height: 44px;
    min-width: 44px;
  }
}
</style>
