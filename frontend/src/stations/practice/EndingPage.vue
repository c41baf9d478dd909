<script setup lang="ts">
/** The practice engine runs: every valve, every fault, and what points were lost for. */
import { t } from '../../kit/words'
import { computed } from 'vue'
import { problemOf } from '../../api/client'
import RunStrips from '../../drawings/RunStrips.vue'
import CurveValues from '../../kit/CurveValues.vue'
import { length, small } from '../../kit/format'
import { usePrefs } from '../../kit/prefs'
import { useEnding, useExercise } from './usePractice'

const props = defineProps<{ exerciseId: string }>()
const { unit } = usePrefs()
const { data: exercise } = useExercise(() => props.exerciseId)
const { data: ending, error } = useEnding(() => props.exerciseId)
const preloads = () =>
  (ending.value?.valves ?? []).map((v) => [
    v.name,
    small(v.cold_in, unit.value),
    small(v.hot_in, unit.value),
    v.runs,
  ])
const off = computed(() => ending.value?.valves.filter((v) => v.runs !== 'right') ?? [])
</script>

<template>
  <p v-if="error" role="alert">{{ problemOf(error).detail }}</p>
  <div v-else-if="ending" class="ending">
    <div class="head">
      <h1>{{ t('{title} runs', { title: ending.title }) }}</h1>
      <span class="quiet">{{
        t('practice, seed {seed}, {person}', {
          seed: ending.exercise.seed,
          person: ending.exercise.person || t('no name'),
        })
      }}</span>
      <strong class="points"
        >{{ ending.points }} <small>{{ t('of 100') }}</small></strong
      >
    </div>
    <p class="verdict" :class="{ bad: off.length }">
      {{
        off.length
          ? t('{off} of {valves} valves are not inside: {a}.', {
              off: off.length,
              valves: ending.valves.length,
              a: off.map((v) => v.name).join(', '),
            })
          : t('All {valves} valves run inside their window.', { valves: ending.valves.length })
      }}
    </p>
    <RunStrips :valves="ending.valves" :unit="unit" :low="ending.low_in" :high="ending.high_in" />
    <div>
      <CurveValues
        :title="t('Preload of every valve')"
        :heads="[t('Valve'), t('Cold'), t('Hot'), t('Runs')]"
        :rows="preloads"
      />
    </div>
    <div class="columns">
      <section>
        <h2>{{ t('What was wrong with it') }}</h2>
        <p v-if="!ending.faults.length">{{ t('Nothing. It was sound.') }}</p>
        <ul>
          <li v-for="f in ending.faults" :key="f.kind + f.where">
            <strong>{{ f.name }}{{ f.where ? `, ${f.where}` : '' }}</strong
            >{{ f.size_in ? ` (${small(f.size_in, unit)})` : '' }}:
            {{ f.found ? t('found') : t('missed') }}.
            {{ f.effect }}
            <span class="quiet">{{
              f.first_deed
                ? t('It first showed at deed {first_deed}.', { first_deed: f.first_deed })
                : t('No deed of yours showed it.')
            }}</span>
          </li>
          <li v-for="n in ending.wrongly_named" :key="n">
            {{ t('{n}: named, and not there.', { n }) }}
          </li>
        </ul>
        <p class="quiet">
          {{ t('The checking rod was {checking_rod}.', { checking_rod: ending.checking_rod }) }}
        </p>
      </section>
      <section>
        <h2>{{ t('Points lost') }}</h2>
        <p v-if="!ending.losses.length">{{ t('None.') }}</p>
        <ul>
          <li v-for="l in ending.losses" :key="l.words">{{ l.words }}: {{ l.points }}</li>
        </ul>
        <p v-if="ending.misread">
          {{
            t('The reading that cost most: {valve}, trial {number}, {off} too {off2}.', {
              valve: ending.misread.valve,
              number: ending.misread.number,
              off: small(Math.abs(ending.misread.off_in), unit),
              off2: ending.misread.off_in > 0 ? t('long') : t('short'),
            })
          }}
        </p>
        <h2>{{ t('Spent') }}</h2>
        <p>
          <template v-for="(s, i) in ending.spent" :key="s.words">{{
            t('{i}{words} {spent} ({best} would do)', {
              i: i ? ' · ' : '',
              words: s.words,
              spent: s.spent,
              best: s.best,
            })
          }}</template>
        </p>
        <h2>{{ t('Rods') }}</h2>
        <table>
          <thead>
            <tr>
              <th>{{ t('Valve') }}</th>
              <th>{{ t('Zero lash') }}</th>
              <th>{{ t('Rod') }}</th>
              <th>{{ t('Cold') }}</th>
              <th>{{ t('Hot') }}</th>
              <th>{{ t('Sweep') }}</th>
              <th>{{ t('To the edge') }}</th>
              <th>{{ t('Runs') }}</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="v in ending.valves" :key="v.name" :class="{ bad: v.runs !== 'right' }">
              <th>{{ v.name }}</th>
              <td>{{ length(v.zero_lash_in, unit) }}</td>
              <td>{{ length(v.rod_in, unit) }}</td>
              <td>{{ small(v.cold_in, unit) }}</td>
              <td>{{ small(v.hot_in, unit) }}</td>
              <td>{{ small(v.sweep_in, unit) }}</td>
              <td>{{ small(v.edge_in, unit) }}</td>
              <td>{{ v.words }}</td>
            </tr>
          </tbody>
        </table>
      </section>
    </div>
    <p>
      <RouterLink class="plain" :to="{ name: 'practice' }">{{
        t('Back to the course')
      }}</RouterLink>
      <a
        class="plain"
        :href="`/api/practice/${exerciseId}/certificate.pdf?unit=${unit}`"
        target="_blank"
        >{{ t('On paper') }}</a
      >
      <span v-if="exercise" class="quiet">
        {{
          t('The same engine again: scenario {code}, seed {seed}.', {
            code: exercise.scenario.code,
            seed: exercise.seed,
          })
        }}</span
      >
    </p>
  </div>
  <p v-else>{{ t('The engine is started…') }}</p>
</template>

<style scoped>
.head {
  display: flex;
  flex-wrap: wrap;
  align-items: baseline;
  gap: 6px 16px;
}
h1 {
  margin: 0;
  font-size: 28px;
}
h2 {
  margin: 8px 0 2px;
  font-size: 18px;
}
.points {
  margin-left: auto;
  font-size: 34px;
}
.points small {
  font-size: 16px;
  font-weight: 400;
}
.quiet {
  color: var(--quiet);
}
.verdict {
  margin: 4px 0 8px;
  font-size: 19px;
  color: var(--good);
  font-weight: 600;
}
.verdict.bad,
tr.bad {
  color: var(--alarm-ink);
}
.columns {
  display: grid;
  grid-template-columns: 1fr 1.2fr;
  gap: 28px;
}
ul {
  margin: 0;
  padding-left: 18px;
}
table {
  border-collapse: collapse;
}
th,
td {
  padding: 2px 12px 2px 0;
  text-align: left;
  font-variant-numeric: tabular-nums;
}
@container station (max-width: 780px) {
  .columns {
    grid-template-columns: 1fr;
  }
}
</style>
