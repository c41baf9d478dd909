<script setup lang="ts">
/** The course of practice engines, and what has been done of it. */
import { t } from '../../kit/words'
import { computed, ref } from 'vue'
import { useQueryClient } from '@tanstack/vue-query'
import { useRoute, useRouter } from 'vue-router'
import { answer, api, problemOf, type Problem } from '../../api/client'
import { day } from '../../kit/format'
import ProgressView from '../../drawings/ProgressView.vue'
import CurveValues from '../../kit/CurveValues.vue'
import ProblemNote from '../../kit/ProblemNote.vue'
import TourButton from './TourButton.vue'
import { useCourse } from './usePractice'

const { data: course, error } = useCourse()
const client = useQueryClient()
const router = useRouter()
const problem = ref<Problem | null>(null)
// A link such as /practice?scenario=stem&seed=12&sealed=1 sets the same engine to a whole class.
const asked = useRoute().query
const seed = ref(String(asked.seed ?? ''))
const sealed = ref(asked.sealed === '1')
const shown = computed(() =>
  (course.value?.scenarios ?? []).filter((s) => !asked.scenario || s.code === asked.scenario),
)
const best = computed(() => {
  const found: Record<string, number> = {}
  for (const e of course.value?.exercises ?? [])
    if (e.points !== null) found[e.scenario] = Math.max(found[e.scenario] ?? 0, e.points)
  return found
})
const titles = computed(() =>
  Object.fromEntries((course.value?.scenarios ?? []).map((s) => [s.code, s.title])),
)
/** What was ended, the first of it first. */
const ended = computed(() =>
  [...(course.value?.exercises ?? [])]
    .filter((e) => e.points !== null && e.ended_at)
    .sort((a, b) => String(a.ended_at).localeCompare(String(b.ended_at)))
    .map((e) => ({
      person: e.person,
      points: e.points ?? 0,
      at: e.ended_at ?? '',
      title: titles.value[e.scenario] ?? '',
      words: `${titles.value[e.scenario]}, ${day(e.ended_at ?? '')}: ${e.points}`,
    })),
)

async function start(code: string) {
  const given = seed.value.trim()
  if (given && !/^\d{1,15}$/.test(given)) {
    problem.value = {
      type: 'about:blank',
      title: t('Seed'),
      status: 422,
      code: 'seed',
      field: 'seed',
      detail: t('The seed is a whole number of up to fifteen digits, or empty for any.'),
      context: {},
    }
    return
  }
  try {
    const made = await answer(
      api.POST('/api/practice', {
        body: {
          id: crypto.randomUUID(),
          scenario: code,
          seed: given ? Number(given) : null,
          sealed: sealed.value,
        },
      }),
    )
    problem.value = null
    const build = await answer(
      api.GET('/api/builds/{build_id}', { params: { path: { build_id: made.build_id } } }),
    )
    await router.push({
      name: 'zero_lash',
      params: { buildId: build.id, valveId: build.valves[0]?.id ?? '' },
    })
  } catch (thrown) {
    problem.value = problemOf(thrown)
  }
}
async function throwAway(id: string) {
  const params = { path: { exercise_id: id } }
  await answer(api.DELETE('/api/practice/{exercise_id}', { params })).catch(
    (thrown: unknown) => (problem.value = problemOf(thrown)),
  )
  await client.invalidateQueries({ queryKey: ['practice'] })
}
</script>

<template>
  <div class="top">
    <h1>{{ t('Practice engines') }}</h1>
    <label
      >{{ t('Seed') }}
      <input v-model="seed" inputmode="numeric" :placeholder="t('any')" maxlength="16"
    /></label>
    <label class="check"
      ><input v-model="sealed" type="checkbox" /> {{ t('sealed, without hints') }}</label
    >
    <TourButton />
    <a class="plain" href="/api/practice/results.csv" download>{{ t('Results as CSV') }}</a>
  </div>
  <p class="lead">
    {{
      t(
        'Each is an engine that keeps its true dimensions to itself. Measure it at the stations as you would a real one; at the end it runs, and shows what was right.',
      )
    }}
  </p>
  <ProblemNote :problem="problem" />
  <p v-if="error" role="alert">{{ problemOf(error).detail }}</p>
  <ol v-if="course" class="course">
    <li v-for="s in shown" :key="s.code">
      <div>
        <h2>{{ s.title }}</h2>
        <span class="quiet">{{
          t('{engine_words}, {valves} valves · {credits} credits', {
            engine_words: s.engine_words,
            valves: s.valves,
            credits: s.credits,
          })
        }}</span>
      </div>
      <p>
        {{ s.story }}<br /><span class="quiet">{{ s.goal }}</span>
      </p>
      <span class="best">{{
        best[s.code] === undefined ? '' : t('best {best}', { best: best[s.code] })
      }}</span>
      <button
        type="button"
        class="plain"
        :aria-label="t('Start {title}', { title: s.title })"
        @click="start(s.code)"
      >
        {{ t('Start') }}
      </button>
    </li>
  </ol>
  <section v-if="ended.length > 1">
    <h2>{{ t('Progress') }}</h2>
    <ProgressView :ended="ended" />
    <CurveValues
      :title="t('Points over time')"
      :heads="[t('Day'), t('Who'), t('Exercise'), t('Points')]"
      :rows="
        () => ended.map((e) => [day(e.at), e.person || t('no name'), e.title, String(e.points)])
      "
    />
  </section>
  <section v-if="course?.exercises.length">
    <h2>{{ t('Started') }}</h2>
    <ul class="started">
      <li v-for="e in course.exercises" :key="e.id">
        <RouterLink
          class="link"
          :to="
            e.ended_at
              ? { name: 'ending', params: { exerciseId: e.id } }
              : { name: 'base_circle', params: { buildId: e.build_id } }
          "
          >{{ titles[e.scenario] }}</RouterLink
        >
        <span class="quiet">{{
          t('seed {seed} · {person} · {started_at}{sealed}', {
            seed: e.seed,
            person: e.person || t('no name'),
            started_at: day(e.started_at),
            sealed: e.sealed ? ` ${t('· sealed')}` : '',
          })
        }}</span>
        <strong>{{
          e.points === null ? t('not run yet') : t('{points} points', { points: e.points })
        }}</strong>
        <button
          type="button"
          class="plain"
          :aria-label="
            t('Throw away {titles}, seed {seed}', { titles: titles[e.scenario], seed: e.seed })
          "
          @click="throwAway(e.id)"
        >
          {{ t('Throw away') }}
        </button>
      </li>
    </ul>
  </section>
</template>

<style scoped>
.top {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 8px 16px;
}
h1 {
  margin: 0 auto 0 0;
  font-size: 28px;
}
h2 {
  margin: 0;
  font-size: 19px;
}
.top input:not([type='checkbox']) {
  width: 110px;
  height: 44px;
  padding: 0 8px;
  color: inherit;
  background: var(--paper);
  border: 1px solid var(--rule);
  font: inherit;
}
.check {
  min-height: 44px;
  display: flex;
  align-items: center;
  gap: 6px;
}
.lead {
  max-width: 760px;
  margin: 4px 0 8px;
}
.quiet {
  color: var(--quiet);
}
.course,
.started {
  list-style: none;
  margin: 0 0 18px;
  padding: 0;
}
.course li {
  display: grid;
  grid-template-columns: minmax(190px, 1fr) minmax(280px, 2.2fr) 80px 90px;
  gap: 20px;
  align-items: center;
  padding: 6px 0;
  border-top: 1px solid var(--rule);
}
.course p {
  margin: 0;
  line-height: 1.3;
}
.started li {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 4px 16px;
  border-top: 1px solid var(--rule);
}
.started .quiet {
  flex: 1;
}
.link {
  display: inline-flex;
  align-items: center;
  min-height: 44px;
}
@container station (max-width: 780px) {
  .course li {
    grid-template-columns: 1fr auto;
  }
  .course p {
    grid-column: 1 / -1;
    order: 3;
  }
}
</style>
