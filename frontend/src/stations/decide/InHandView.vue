<script setup lang="ts">
/** The rods on the engine, read without their length: keep them, or which size. */
import { t } from '../../kit/words'
import type { InHand } from '../../api/client'
import { percent, small, smallSpan } from '../../kit/format'
import { usePrefs } from '../../kit/prefs'
import VerdictNote from '../../kit/VerdictNote.vue'

defineProps<{ found: InHand[] }>()
const { unit } = usePrefs()

const by = (size: InHand['sizes'][number]) => {
  if (Math.abs(size.by_in) < 1e-6) return t('as they are')
  const by = small(Math.abs(size.by_in), unit.value)
  return size.by_in > 0 ? t('{by} longer', { by }) : t('{by} shorter', { by })
}
</script>

<template>
  <div class="hands">
    <section
      v-for="f in found"
      :key="f.kind"
      :aria-label="t('Rods in hand, {kind}', { kind: t(f.kind) })"
    >
      <VerdictNote :verdict="f.verdict" />
      <table>
        <thead>
          <tr>
            <th scope="col">{{ t('Rods') }}</th>
            <th scope="col">{{ t('Preload read') }}</th>
            <th scope="col">{{ t('All inside') }}</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="s in f.sizes" :key="s.by_in" :class="{ own: Math.abs(s.by_in) < 1e-6 }">
            <th scope="row">{{ by(s) }}</th>
            <td>{{ smallSpan(s.low_in, s.high_in, unit) }}</td>
            <td>{{ percent(s.all_inside) }}</td>
          </tr>
        </tbody>
      </table>
      <p class="quiet">
        {{ f.reads.map((r) => `${r.name} ${small(r.preload_in, unit)}`).join(', ') }}
      </p>
    </section>
  </div>
</template>

<style scoped>
.hands {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(340px, 1fr));
  gap: 12px 24px;
  margin-bottom: 12px;
}
table {
  width: 100%;
  margin-top: 6px;
}
.own th,
.own td {
  font-weight: 700;
}
.quiet {
  margin: 4px 0 0;
  color: var(--quiet);
  font-size: 14px;
}
</style>
