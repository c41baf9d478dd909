<script setup lang="ts">
/** What the shop's engines have taught: spread, predictions, R0, hands, the gauge study. */
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { answer, api, problemOf } from '../../api/client'
import StudyStrips from '../../drawings/StudyStrips.vue'
import { small, within } from '../../kit/format'
import { usePrefs } from '../../kit/prefs'

const { unit } = usePrefs()
const { data, error, isFetching, refetch } = useQuery({
  queryKey: ['shop', 'learned'],
  staleTime: 0,
  queryFn: () => answer(api.GET('/api/shop/learned')),
})
const KIND = { intake: 'Intakes', exhaust: 'Exhausts' } as const
const groups = computed(() => {
  const study = data.value?.study
  if (!study) return []
  return [
    { words: 'People', rows: study.persons },
    { words: 'Tools', rows: study.tools },
  ]
    .map((g) => ({ ...g, rows: g.rows.filter((own) => own.offset_in ?? own.repeat_in) }))
    .filter((g) => g.rows.length)
})
const share = (value: number) => `${(100 * value).toFixed(1)} %`
</script>

<template>
  <div class="top">
    <h1>What the shop has learned</h1>
    <a class="plain" href="/api/shop/learned.csv" download>As a table (CSV)</a>
  </div>
  <p v-if="error" role="alert">{{ problemOf(error).detail }}</p>
  <template v-if="data">
    <p class="quiet">
      From {{ data.engines }} engines; practice engines and the bin tell nothing.
      <span v-if="data.missing">{{ data.missing }} more are not worked out yet. </span>
      <button
        v-if="data.missing"
        type="button"
        class="plain"
        :disabled="isFetching"
        @click="refetch()"
      >
        Work out more
      </button>
    </p>
    <p v-if="!data.engines">Measure an engine: what it tells stands here.</p>

    <section v-if="data.engines">
      <h2>Gauge study</h2>
      <p class="quiet">{{ data.method }}</p>
      <template v-if="data.study">
        <p>
          {{ data.study.readings }} readings of {{ data.study.valves }} valves scatter by
          <b>{{ small(data.study.gauge_in, unit) }}</b> (1 s) in all.
          <span class="next">{{ data.study.open }}</span>
        </p>
        <div class="study">
          <table>
            <thead>
              <tr>
                <th scope="col">Of this</th>
                <th scope="col">1 s</th>
                <th scope="col">at most (95 %)</th>
              </tr>
            </thead>
            <tbody>
              <tr v-for="v in data.study.variances" :key="v.component">
                <th scope="row">{{ v.words }}</th>
                <td>{{ v.told ? small(v.sd_in, unit) : 'cannot be told yet' }}</td>
                <td>{{ v.told && v.most_in !== null ? small(v.most_in, unit) : '' }}</td>
              </tr>
            </tbody>
          </table>
          <StudyStrips v-if="groups.length" :unit="unit" :groups="groups" />
        </div>
        <p v-if="groups.length" class="quiet">
          Peg: reads longer (right) or shorter than all on the whole, with 95 % limits. Band: the
          same hand or tool again, 1 s.
        </p>
      </template>
    </section>

    <section v-if="data.engines">
      <h2>Valves of a kind, and predictions</h2>
      <div class="scroll" tabindex="0" role="region" aria-label="Valves of a kind, and predictions">
        <table>
          <thead>
            <tr>
              <th scope="col">Kind</th>
              <th scope="col">Engines</th>
              <th scope="col">Spread (1 s)</th>
              <th scope="col">95 %</th>
              <th scope="col">Worst range</th>
              <th scope="col">Predicted</th>
              <th scope="col">Found longer by</th>
              <th scope="col">Off by (rms)</th>
              <th scope="col">Predictions are</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="k in data.kinds" :key="k.kind">
              <th scope="row">{{ KIND[k.kind] }}</th>
              <td>{{ k.spread?.groups ?? 0 }}</td>
              <td>{{ k.spread ? small(k.spread.sd_in, unit) : 'two of a kind are needed' }}</td>
              <td>
                {{
                  k.spread
                    ? `${small(k.spread.low_in, unit)} to ${small(k.spread.high_in, unit)}`
                    : ''
                }}
              </td>
              <td>{{ k.spread ? small(k.spread.worst_in, unit) : '' }}</td>
              <td>{{ k.predicted?.count ?? 0 }}</td>
              <td>{{ k.predicted ? small(k.predicted.mean_in, unit) : '' }}</td>
              <td>{{ k.predicted ? small(k.predicted.rms_in, unit) : '' }}</td>
              <td>{{ k.verdict }}</td>
            </tr>
          </tbody>
        </table>
      </div>
    </section>

    <section v-if="data.factors.length">
      <h2>R0 over the catalogue's ratio</h2>
      <ul>
        <li v-for="f in data.factors" :key="f.mount">
          <b>{{ f.mean.toFixed(3) }}</b> ± {{ share(2 * f.mean_u) }} on rockers: {{ f.words }}. From
          {{ f.engines }} engines, which differ by {{ share(f.spread) }} (1 s).
        </li>
      </ul>
    </section>

    <section v-if="data.hands.length">
      <h2>Hands</h2>
      <ul>
        <li v-for="h in data.hands" :key="h.person">
          <b>{{ h.person }}</b> scatters by {{ small(h.scatter_in, unit) }} and feels zero short by
          {{ small(h.short_in, unit) }} {{ within(2 * h.short_u_in, unit) }}. From {{ h.engines }}
          {{ h.engines === 1 ? 'engine' : 'engines' }} read alone.
        </li>
      </ul>
    </section>
  </template>
</template>

<style scoped>
.top {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 24px;
  align-items: center;
}
h1 {
  margin: 0;
  font-size: 24px;
}
h2 {
  margin: 18px 0 6px;
  font-size: 20px;
}
section {
  max-width: 1240px;
}
.scroll {
  overflow-x: auto;
}
table {
  margin-bottom: 10px;
  border-collapse: collapse;
}
th,
td {
  padding: 6px 14px 6px 0;
  text-align: left;
  vertical-align: top;
  border-bottom: 1px solid var(--rule);
}
th {
  font-weight: 600;
}
.scroll td:not(:last-child) {
  white-space: nowrap;
}
ul {
  padding-left: 20px;
  margin: 0;
}
.next {
  font-weight: 600;
}
.study {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(340px, 1fr));
  gap: 8px 28px;
  align-items: start;
}
</style>
