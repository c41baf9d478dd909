<script setup lang="ts">
/** What each build waits for, and the next thing to do. */
import { refDebounced } from '@vueuse/core'
import { computed, ref, watch } from 'vue'
import { useRouter } from 'vue-router'
import { useQueryClient } from '@tanstack/vue-query'
import { answer, api, problemOf, type BoardEntry, type Problem } from '../../api/client'
import MiniLadder from '../../drawings/MiniLadder.vue'
import { day } from '../../kit/format'
import { useKeys } from '../../kit/keys'
import { usePrefs } from '../../kit/prefs'
import FilePick from '../../kit/FilePick.vue'
import ProblemNote from '../../kit/ProblemNote.vue'
import { keepBuild, keys, PAGE, useBoard } from '../builds'
import TourButton from '../practice/TourButton.vue'
import BackupNote from './BackupNote.vue'
import NewBuild from './NewBuild.vue'

const { unit } = usePrefs()
const search = ref('')
const settled = refDebounced(search, 200)
const page = ref(0)
const removed = ref(false)
watch([settled, removed], () => (page.value = 0))
const { data: board, error } = useBoard(settled, page, removed)
const builds = computed(() => board.value?.builds)
const pages = computed(() => Math.ceil((board.value?.total ?? 0) / PAGE))
const making = ref(false)
useKeys([{ key: 'n', does: 'New build', run: () => (making.value = true) }])

function next(build: BoardEntry) {
  const { station, valve_id: valveId } = build.next_step
  return {
    name: station,
    params: valveId ? { buildId: build.id, valveId } : { buildId: build.id },
  }
}
const problem = ref<Problem | null>(null)
const client = useQueryClient()
const router = useRouter()
async function put(build: BoardEntry, away: boolean) {
  const params = { path: { build_id: build.id } }
  try {
    if (away) await answer(api.DELETE('/api/builds/{build_id}', { params }))
    else await answer(api.POST('/api/builds/{build_id}/back', { params }))
    problem.value = null
  } catch (thrown) {
    problem.value = problemOf(thrown)
  }
  await client.invalidateQueries({ queryKey: keys.builds })
  if (!away && board.value?.removed === 0) removed.value = false
}
async function bringIn(text: string) {
  try {
    const body = parsed(text)
    const build = await answer(api.POST('/api/builds/file', { body }))
    keepBuild(client, build)
    problem.value = null
    await router.push({ name: 'heads', params: { buildId: build.id } })
  } catch (thrown) {
    problem.value = problemOf(thrown)
  }
}
/** What is no JSON goes to the server as an empty file, which says what it expects. */
function parsed(text: string): Record<string, unknown> {
  try {
    const found: unknown = JSON.parse(text)
    return typeof found === 'object' && found ? (found as Record<string, unknown>) : {}
  } catch {
    return {}
  }
}
const VERB = {
  setup: 'Set up',
  zero_lash: 'Measure',
  rocker: 'Rocker',
  heads: 'Heads',
  decide: 'Decide',
  order: 'Order',
  sign_off: 'Sign off',
} as const
</script>

<template>
  <div class="top">
    <h1>{{ removed ? 'Put away' : 'Builds' }}</h1>
    <el-input
      v-if="search || (board && board.total > 6)"
      v-model="search"
      class="search"
      clearable
      placeholder="Find a build"
      aria-label="Find a build"
    />
    <RouterLink class="plain" :to="{ name: 'practice' }">Practice</RouterLink>
    <FilePick label="From a build file" accept=".json,application/json" @picked="bringIn" />
    <button type="button" class="plain strong" @click="making = true">New build</button>
  </div>
  <ProblemNote :problem="problem" />
  <p v-if="error" role="alert">{{ problemOf(error).detail }}</p>
  <ol v-if="builds" class="board">
    <li v-for="build in builds" :key="build.id">
      <div class="name">
        <RouterLink :to="next(build)">{{ build.name }}</RouterLink>
        <span class="quiet">
          {{ build.engine_words }} · {{ day(build.updated_at) }} ·
          <button
            type="button"
            class="put"
            :aria-label="`Put ${removed ? 'back' : 'away'} ${build.name}`"
            @click="put(build, !removed)"
          >
            {{ removed ? 'Put back' : 'Put away' }}
          </button>
        </span>
      </div>
      <div class="ladders">
        <MiniLadder
          v-for="kind in ['intake', 'exhaust'] as const"
          :key="kind"
          :unit="unit"
          :kind="kind"
          :valve="build.valves[kind] ?? null"
          :taken="build.taken[kind] ?? null"
          :lifter="{
            low: build.preload_low_in,
            high: build.preload_high_in,
            travel: build.travel_in,
          }"
        />
      </div>
      <p class="waits" :class="build.next_step.station">
        {{ build.next_step.sentence }}
        <span v-if="build.fault" class="quiet">{{ build.fault }}</span>
      </p>
      <RouterLink class="plain" :to="next(build)">{{ VERB[build.next_step.station] }}</RouterLink>
    </li>
  </ol>
  <nav v-if="pages > 1" class="pages" aria-label="Pages">
    <button type="button" class="plain" :disabled="page === 0" @click="page -= 1">Newer</button>
    <span>{{ page + 1 }} of {{ pages }} · {{ board?.total }} builds</span>
    <button type="button" class="plain" :disabled="page + 1 >= pages" @click="page += 1">
      Older
    </button>
  </nav>
  <p v-if="board && (removed || board.removed)" class="away">
    <button type="button" class="put" @click="removed = !removed">
      {{ removed ? 'Back to the builds' : `${board.removed} put away` }}
    </button>
  </p>
  <BackupNote v-if="builds" />
  <p v-if="builds && !builds.length && removed" class="none">Nothing is put away.</p>
  <p v-else-if="builds && !builds.length && settled" class="none">No build is called that.</p>
  <p v-else-if="builds && !builds.length" class="none">
    No build yet. Make one, set a checking rod, and start with one intake and one exhaust.<br />
    Or see the whole way first, on a practice engine: <TourButton />
  </p>
  <NewBuild v-model="making" />
</template>

<style scoped>
.top {
  display: flex;
  align-items: center;
  flex-wrap: wrap;
  gap: 8px;
  margin-bottom: 10px;
}
h1 {
  margin: 0 auto 0 0;
  font-size: 28px;
}
.search {
  width: 260px;
}
.put {
  min-width: 44px;
  margin: -14px 0;
  border: 0;
  padding: 14px 0;
  background: none;
  color: inherit;
  font: inherit;
  text-decoration: underline;
  cursor: pointer;
}
.away {
  padding: 10px 0 0;
}
.pages {
  display: flex;
  align-items: center;
  justify-content: center;
  gap: 16px;
  padding: 14px 0;
}
.board {
  list-style: none;
  margin: 0;
  padding: 0;
}
li {
  display: grid;
  grid-template-columns: minmax(200px, 1fr) 480px minmax(200px, 1.1fr) 100px;
  gap: 24px;
  align-items: center;
  padding: 14px 0;
  border-top: 1px solid var(--rule);
}
.name {
  display: flex;
  flex-direction: column;
}
.name a {
  display: inline-flex;
  align-items: center;
  min-height: 44px;
  font-size: 20px;
  font-weight: 600;
  text-decoration: none;
}
.quiet {
  color: var(--quiet);
}
.name .quiet {
  margin-top: -8px;
}
.ladders {
  display: flex;
  flex-direction: column;
  gap: 6px;
}
.waits {
  margin: 0;
  font-size: 17px;
  line-height: 1.3;
}
.none {
  font-size: 18px;
}
@container station (max-width: 1060px) {
  li {
    grid-template-columns: 1fr auto;
    gap: 10px 20px;
  }
  .ladders {
    grid-column: 1 / -1;
    order: 2;
  }
  .waits {
    order: 3;
  }
  li > .plain {
    order: 4;
  }
}
</style>
