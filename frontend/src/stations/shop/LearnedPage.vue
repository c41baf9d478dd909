<script setup lang="ts">
/** What the shop's engines have taught: spread, predictions, R0, hands, the gauge study. */
import { decimal, t } from '../../kit/words'
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
const KIND = { intake: t('Intakes'), exhaust: t('Exhausts') } as const
const groups = computed(() => {
  const study = data.value?.study
  if (!study) return []
  return [
    { words: t('People'), rows: study.persons },
    { words: t('Tools'), rows: study.tools },
  ]
    .map((g) => ({ ...g, rows: g.rows.filter((own) => own.offset_in ?? own.repeat_in) }))
    .filter((g) => g.rows.length)
})
const share = (value: number) => `${decimal((100 * value).toFixed(1))} %`
</script>

<template>
  <div class="top">
    <h1>{{ t('What the shop has learned') }}</h1>
    <a class="plain" href="/api/shop/learned.csv" download>{{ t('As a table (CSV)') }}</a>
  </div>
  <p v-if="error" role="alert">{{ problemOf(error).detail }}</p>
  <template v-if="data">
    <p class="quiet">
      {{
        t('From {engines} engines; practice engines and the bin tell nothing.', {
          engines: data.engines,
        })
      }}
      <span v-if="data.missing"
        >{{ t('{missing} more are not worked out yet.', { missing: data.missing }) }}
      </span>
      <button
        v-if="data.missing"
        type="button"
        class="plain"
        :disabled="isFetching"
        @click="refetch()"
      >
        {{ t('Work out more') }}
      </button>
    </p>
    <p v-if="!data.engines">{{ t('Measure an engine: what it tells stands here.') }}</p>

    <section v-if="data.engines">
      <h2>{{ t('Gauge study') }}</h2>
      <p class="quiet">{{ data.method }}</p>
      <template v-if="data.study">
        <p>
          {{
            t('{readings} readings of {valves} valves scatter by', {
              readings: data.study.readings,
              valves: data.study.valves,
            })
          }}
          <b>{{ small(data.study.gauge_in, unit) }}</b> {{ t('(1 s) in all.') }}
          <span class="next">{{ data.study.open }}</span>
        </p>
        <div class="study">
          <table>
            <thead>
              <tr>
                <th scope="col">{{ t('Of this') }}</th>
                <th scope="col">1 s</th>
                <th scope="col">{{ t('at most (95 %)') }}</th>
              </tr>
            </thead>
            <tbody>
              <tr v-for="v in data.study.variances" :key="v.component">
                <th scope="row">{{ v.words }}</th>
                <td>{{ v.told ? small(v.sd_in, unit) : t('cannot be told yet') }}</td>
                <td>{{ v.told && v.most_in !== null ? small(v.most_in, unit) : '' }}</td>
              </tr>
            </tbody>
          </table>
          <StudyStrips v-if="groups.length" :unit="unit" :groups="groups" />
        </div>
        <p v-if="groups.length" class="quiet">
          {{
            t(
              'Peg: reads longer (right) or shorter than all on the whole, with 95 % limits. Band: the same hand or tool again, 1 s.',
            )
          }}
        </p>
      </template>
    </section>

    <section v-if="data.engines">
      <h2>{{ t('Valves of a kind, and predictions') }}</h2>
      <div
        class="scroll"
        tabindex="0"
        role="region"
        :aria-label="t('Valves of a kind, and predictions')"
      >
        <table>
          <thead>
            <tr>
              <th scope="col">{{ t('Kind') }}</th>
              <th scope="col">{{ t('Engines') }}</th>
              <th scope="col">{{ t('Spread (1 s)') }}</th>
              <th scope="col">95 %</th>
              <th scope="col">{{ t('Worst range') }}</th>
              <th scope="col">{{ t('Predicted') }}</th>
              <th scope="col">{{ t('Found longer by') }}</th>
              <th scope="col">{{ t('Off by (rms)') }}</th>
              <th scope="col">{{ t('Predictions are') }}</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="k in data.kinds" :key="k.kind">
              <th scope="row">{{ KIND[k.kind] }}</th>
              <td>{{ k.spread?.groups ?? 0 }}</td>
              <td>{{ k.spread ? small(k.spread.sd_in, unit) : t('two of a kind are needed') }}</td>
              <td>
                {{
                  k.spread
                    ? t('{low} to {high}', {
                        low: small(k.spread.low_in, unit),
                        high: small(k.spread.high_in, unit),
                      })
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
      <h2>{{ t("R0 over the catalogue's ratio") }}</h2>
      <ul>
        <li v-for="f in data.factors" :key="f.mount">
          <b>{{ decimal(f.mean.toFixed(3)) }}</b>
          {{
            t(
              '± {u} on rockers: {words}. From {engines} engines, which differ by {spread} (1 s).',
              {
                u: share(2 * f.mean_u),
                words: f.words,
                engines: f.engines,
                spread: share(f.spread),
              },
            )
          }}
        </li>
      </ul>
    </section>

    <section v-if="data.hands.length">
      <h2>{{ t('Hands') }}</h2>
      <ul>
        <li v-for="h in data.hands" :key="h.person">
          <b>{{ h.person }}</b>
          {{
            t(
              'scatters by {scatter} and feels zero short by {short} {a}. From {engines} {engines2} read alone.',
              {
                scatter: small(h.scatter_in, unit),
                short: small(h.short_in, unit),
                a: within(2 * h.short_u_in, unit),
                engines: h.engines,
                engines2: h.engines === 1 ? t('engine') : t('engines'),
              },
            )
          }}
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
