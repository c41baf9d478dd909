<script setup lang="ts">
/** The practice engine runs: every valve, every fault, and what points were lost for. */
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
      <h1>{{ ending.title }} runs</h1>
      <span class="quiet"
        >practice, seed {{ ending.exercise.seed }}, {{ ending.exercise.person || 'no name' }}</span
      >
      <strong class="points">{{ ending.points }} <small>of 100</small></strong>
    </div>
    <p class="verdict" :class="{ bad: off.length }">
      {{
        off.length
          ? `${off.length} of ${ending.valves.length} valves are not inside: ${off.map((v) => v.name).join(', ')}.`
          : `All ${ending.valves.length} valves run inside their window.`
      }}
    </p>
    <RunStrips :valves="ending.valves" :unit="unit" :low="ending.low_in" :high="ending.high_in" />
    <div>
      <CurveValues
        title="Preload of every valve"
        :heads="['Valve', 'Cold', 'Hot', 'Runs']"
        :rows="preloads"
      />
    </div>
    <div class="columns">
      <section>
        <h2>What was wrong with it</h2>
        <p v-if="!ending.faults.length">Nothing. It was sound.</p>
        <ul>
          <li v-for="f in ending.faults" :key="f.kind + f.where">
            <strong>{{ f.name }}{{ f.where ? `, ${f.where}` : '' }}</strong
            >{{ f.size_in ? ` (${small(f.size_in, unit)})` : '' }}:
            {{ f.found ? 'found' : 'missed' }}.
            {{ f.effect }}
            <span class="quiet">{{
              f.first_deed
                ? `It first showed at deed ${f.first_deed}.`
                : 'No deed of yours showed it.'
            }}</span>
          </li>
          <li v-for="n in ending.wrongly_named" :key="n">{{ n }}: named, and not there.</li>
        </ul>
        <p class="quiet">The checking rod was {{ ending.checking_rod }}.</p>
      </section>
      <section>
        <h2>Points lost</h2>
        <p v-if="!ending.losses.length">None.</p>
        <ul>
          <li v-for="l in ending.losses" :key="l.words">{{ l.words }}: {{ l.points }}</li>
        </ul>
        <p v-if="ending.misread">
          The reading that cost most: {{ ending.misread.valve }}, trial {{ ending.misread.number }},
          {{ small(Math.abs(ending.misread.off_in), unit) }} too
          {{ ending.misread.off_in > 0 ? 'long' : 'short' }}.
        </p>
        <h2>Spent</h2>
        <p>
          <template v-for="(s, i) in ending.spent" :key="s.words"
            >{{ i ? ' · ' : '' }}{{ s.words }} {{ s.spent }} ({{ s.best }} would do)</template
          >
        </p>
        <h2>Rods</h2>
        <table>
          <thead>
            <tr>
              <th>Valve</th>
              <th>Zero lash</th>
              <th>Rod</th>
              <th>Cold</th>
              <th>Hot</th>
              <th>Sweep</th>
              <th>To the edge</th>
              <th>Runs</th>
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
      <RouterLink class="plain" :to="{ name: 'practice' }">Back to the course</RouterLink>
      <a
        class="plain"
        :href="`/api/practice/${exerciseId}/certificate.pdf?unit=${unit}`"
        target="_blank"
        >On paper</a
      >
      <span v-if="exercise" class="quiet">
        The same engine again: scenario {{ exercise.scenario.code }}, seed
        {{ exercise.seed }}.</span
      >
    </p>
  </div>
  <p v-else>The engine is started…</p>
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
