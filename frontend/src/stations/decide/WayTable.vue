<script setup lang="ts">
/** The ways of buying side by side: how many lengths, and what each costs in preload. */
import { t } from '../../kit/words'
import type { Decision } from '../../api/client'
import { bareLength, small, smallSpan } from '../../kit/format'
import { usePrefs } from '../../kit/prefs'
import TermLink from '../../kit/TermLink.vue'

defineProps<{ decision: Decision }>()
const emit = defineEmits<{ take: [strategy: Decision['strategy']] }>()
const { unit } = usePrefs()
const KEYS = { fewest: '1', kinds: '2', one: '3', best: '4' } as const
const listed = (way: Decision['ways'][number]) =>
  way.lots.length > 4
    ? t('{lots} lengths', { lots: way.lots.length })
    : way.lots.map((l) => `${l.valves.length} × ${bareLength(l.length_in, unit.value)}`).join(', ')
</script>

<template>
  <table>
    <thead>
      <tr>
        <th scope="col">{{ t('Way of buying') }}</th>
        <th scope="col">{{ t('Rods') }}</th>
        <th v-if="decision.mode === 'length'" scope="col">{{ t('Preload') }}</th>
        <th scope="col">
          <TermLink term="worst miss">{{ t('Worst miss') }}</TermLink>
        </th>
        <th scope="col">{{ t('Outside') }}</th>
      </tr>
    </thead>
    <tbody>
      <tr
        v-for="way in decision.ways"
        :key="way.strategy"
        :class="{ taken: way.strategy === decision.strategy }"
      >
        <th scope="row">
          <button
            type="button"
            class="plain"
            :aria-pressed="way.strategy === decision.strategy"
            @click="emit('take', way.strategy)"
          >
            {{ way.words }} <kbd>{{ KEYS[way.strategy] }}</kbd>
          </button>
        </th>
        <td>{{ listed(way) }}</td>
        <td v-if="decision.mode === 'length'">
          {{ smallSpan(way.preload_low_in, way.preload_high_in, unit) }}
        </td>
        <td>{{ small(way.worst_miss_in, unit) }}</td>
        <td :class="{ out: way.outside.length }">
          {{ way.outside.length ? way.outside.slice(0, 4).join(' ') : t('none') }}
          <template v-if="way.outside.length > 4"> +{{ way.outside.length - 4 }}</template>
        </td>
      </tr>
    </tbody>
  </table>
</template>

<style scoped>
table {
  width: 100%;
}
.plain {
  width: 100%;
  justify-content: space-between;
}
.taken .plain {
  border: 3px solid var(--accent);
}
.taken td {
  font-weight: 600;
}
.out {
  color: var(--alarm-ink);
}
</style>
