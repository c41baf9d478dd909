<script setup lang="ts">
/** What each build waits for, and the next thing to do. */
import { t } from '../../kit/words'
import { refDebounced } from '@vueuse/core'
import { computed, ref, watch } from 'vue'
import { useRouter } from 'vue-router'
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { answer, api, problemOf, type BoardEntry, type Problem } from '../../api/client'
import MiniLadder from '../../drawings/MiniLadder.vue'
import { day, when } from '../../kit/format'
import { useKeys } from '../../kit/keys'
import { useNods } from '../../kit/nods'
import { usePrefs } from '../../kit/prefs'
import FilePick from '../../kit/FilePick.vue'
import ProblemNote from '../../kit/ProblemNote.vue'
import { keepBuild, keys, PAGE, useBoard, type BoardSort, type Shelf, type Waits } from '../builds'
import TourButton from '../practice/TourButton.vue'
import BackupNote from './BackupNote.vue'
import NewBuild from './NewBuild.vue'

const { unit } = usePrefs()
const nods = useNods()
const search = ref('')
const settled = refDebounced(search, 200)
const page = ref(0)
const shelf = ref<Shelf>('board')
const waits = ref<Waits | ''>('')
const person = ref('')
const sort = ref<BoardSort>('changed')
const sought = computed(() => ({
  search: settled.value,
  shelf: shelf.value,
  waits: waits.value || undefined,
  person: person.value,
  sort: sort.value,
}))
watch(sought, () => (page.value = 0))
const { data: board, error } = useBoard(sought, page)
const { data: people } = useQuery({
  queryKey: ['people'],
  queryFn: () => answer(api.GET('/api/people')),
})
const SHELVES: Record<Shelf, string> = { board: t('Builds'), archive: t('Archive'), bin: t('Bin') }
const filtered = computed(() => Boolean(settled.value || waits.value || person.value))
/** Nothing to sort or to sift through while the shop is small. */
const many = computed(() => filtered.value || (board.value?.total ?? 0) > 3)
const builds = computed(() => board.value?.builds)
const pages = computed(() => Math.ceil((board.value?.total ?? 0) / PAGE))
const making = ref(false)
useKeys([{ key: 'n', does: t('New build'), run: () => (making.value = true) }])

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
const moved = ref<{ name: string; id: string; to: Shelf; from: Shelf } | null>(null)
async function put(build: { id: string; name: string }, to: Shelf) {
  const params = { path: { build_id: build.id } }
  const from = shelf.value
  try {
    if (to === 'bin') await answer(api.DELETE('/api/builds/{build_id}', { params }))
    else if (to === 'archive') await answer(api.POST('/api/builds/{build_id}/archive', { params }))
    else await answer(api.POST('/api/builds/{build_id}/back', { params }))
    problem.value = null
    moved.value = { name: build.name, id: build.id, to, from }
  } catch (thrown) {
    problem.value = problemOf(thrown)
  }
  await client.invalidateQueries({ queryKey: keys.builds })
  if (shelf.value !== 'board' && board.value?.total === 0 && !filtered.value) shelf.value = 'board'
}
async function undoMove() {
  const last = moved.value
  if (!last) return
  await put(last, last.from)
  moved.value = null
}
async function copy(build: BoardEntry) {
  const params = { path: { build_id: build.id } }
  const body = {
    id: crypto.randomUUID(),
    name: t('{name}, copy', { name: build.name }).slice(0, 80),
    readings: true,
  }
  try {
    const made = await answer(api.POST('/api/builds/{build_id}/like', { params, body }))
    keepBuild(client, made)
    problem.value = null
    await router.push({ name: 'setup', params: { buildId: made.id } })
  } catch (thrown) {
    problem.value = problemOf(thrown)
  }
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
/** Shut the list of a build once something of it is chosen. */
const shut = (event: Event) =>
  (event.currentTarget as Element).closest('details')?.removeAttribute('open')
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
  setup: t('Set up'),
  zero_lash: t('Measure'),
  rocker: t('Rocker'),
  heads: t('Heads'),
  decide: t('Decide'),
  order: t('Order'),
  sign_off: t('Sign off'),
} as const
</script>

<template>
  <div class="top">
    <h1>{{ SHELVES[shelf] }}</h1>
    <template v-if="many">
      <el-input
        v-model="search"
        class="search"
        clearable
        :placeholder="t('Name, engine, note')"
        :aria-label="t('Find a build by name, engine or note')"
      />
      <select v-model="waits" :aria-label="t('What it waits for')">
        <option value="">{{ t('Waits for anything') }}</option>
        <option v-for="(verb, station) in VERB" :key="station" :value="station">{{ verb }}</option>
      </select>
      <select v-if="people && people.length > 1" v-model="person" :aria-label="t('Measured by')">
        <option value="">{{ t('By anyone') }}</option>
        <option v-for="p in people" :key="p" :value="p">{{ p }}</option>
      </select>
      <select v-model="sort" :aria-label="t('Order of the builds')">
        <option value="changed">{{ t('Last changed first') }}</option>
        <option value="name">{{ t('By name') }}</option>
        <option value="waits">{{ t('By what they wait for') }}</option>
      </select>
    </template>
    <RouterLink class="plain" :to="{ name: 'practice' }">{{ t('Practice') }}</RouterLink>
    <FilePick :label="t('From a build file')" accept=".json,application/json" @picked="bringIn" />
    <button type="button" class="plain strong" @click="making = true">{{ t('New build') }}</button>
  </div>
  <ProblemNote :problem="problem" />
  <p v-if="moved" class="moved" role="status">
    {{ moved.name }}
    {{
      moved.to === 'board' ? t('is on the board again') : t('lies in the {to}', { to: moved.to })
    }}.
    <button type="button" class="plain" @click="undoMove">{{ t('Undo') }}</button>
  </p>
  <p v-if="error" role="alert">{{ problemOf(error).detail }}</p>
  <p v-if="nods.length" class="nods">
    <b>{{
      t('{nods} for a nod:', {
        nods:
          nods.length === 1 ? t('One valve waits') : t('{nods} valves wait', { nods: nods.length }),
      })
    }}</b>
    <RouterLink
      v-for="valve in nods.slice(0, 6)"
      :key="valve.valve_id"
      :to="{
        name: 'zero_lash',
        params: { buildId: valve.build_id, valveId: valve.valve_id },
      }"
      >{{ valve.build_name }} {{ valve.valve_name }}, {{ valve.by.join(', ') }}</RouterLink
    >
  </p>
  <ol v-if="builds" class="board">
    <li v-for="build in builds" :key="build.id">
      <div class="name">
        <RouterLink :to="next(build)">{{ build.name }}</RouterLink>
        <span class="quiet">
          {{ build.engine_words }} · {{ day(build.updated_at)
          }}<template v-if="build.twin">
            {{ ` ${t('· made {made_at}', { made_at: when(build.made_at) })}` }}</template
          >
          <details class="menu" @keydown.esc="shut">
            <summary :aria-label="t('More of {name}', { name: build.name })">
              {{ t('More') }}
            </summary>
            <span @click="shut">
              <button
                v-if="shelf !== 'board'"
                type="button"
                class="plain"
                @click="put(build, 'board')"
              >
                {{ t('Back to the board') }}
              </button>
              <button type="button" class="plain" @click="copy(build)">
                {{ t('Copy with readings') }}
              </button>
              <button
                v-if="shelf === 'board'"
                type="button"
                class="plain"
                @click="put(build, 'archive')"
              >
                {{ t('Into the archive') }}
              </button>
              <button v-if="shelf !== 'bin'" type="button" class="plain" @click="put(build, 'bin')">
                {{ t('Into the bin') }}
              </button>
            </span>
          </details>
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
  <nav v-if="pages > 1" class="pages" :aria-label="t('Pages')">
    <button type="button" class="plain" :disabled="page === 0" @click="page -= 1">
      {{ t('Newer') }}
    </button>
    <span>{{
      t('{page} of {pages} · {total} builds', { page: page + 1, pages, total: board?.total })
    }}</span>
    <button type="button" class="plain" :disabled="page + 1 >= pages" @click="page += 1">
      {{ t('Older') }}
    </button>
  </nav>
  <p v-if="builds && !builds.length && shelf !== 'board'" class="none">
    {{ t('Nothing lies here.') }}
  </p>
  <p v-else-if="builds && !builds.length && filtered" class="none">
    {{ t('No build is like that.') }}
  </p>
  <p v-else-if="builds && !builds.length" class="none">
    {{ t('No build yet. Make one, set a checking rod, and start with one intake and one exhaust.')
    }}<br />
    {{ t('Or see the whole way first, on a practice engine:') }} <TourButton />
  </p>
  <p v-if="board" class="away">
    <button v-if="shelf !== 'board'" type="button" class="put" @click="shelf = 'board'">
      {{ t('Back to the builds') }}
    </button>
    <button
      v-if="board.archived && shelf !== 'archive'"
      type="button"
      class="put"
      @click="shelf = 'archive'"
    >
      {{ t('{archived} in the archive', { archived: board.archived }) }}
    </button>
    <button v-if="board.binned && shelf !== 'bin'" type="button" class="put" @click="shelf = 'bin'">
      {{ t('{binned} in the bin', { binned: board.binned }) }}
    </button>
    <RouterLink class="put" :to="{ name: 'learned' }">{{
      t('What the shop has learned')
    }}</RouterLink>
    <RouterLink class="put" :to="{ name: 'shop_history' }">{{
      t('History of box and tools')
    }}</RouterLink>
  </p>
  <BackupNote v-if="builds" />
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
  width: 210px;
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
  display: flex;
  flex-wrap: wrap;
  gap: 0 24px;
  padding: 10px 0 0;
}
.nods {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 0 18px;
  margin: 0 0 8px;
  padding: 0 12px;
  border-left: 4px solid var(--accent);
  background: var(--paper);
}
.nods a {
  line-height: 44px;
}
.moved {
  display: flex;
  align-items: center;
  gap: 12px;
  margin: 0 0 8px;
}
.menu {
  position: relative;
  display: inline-block;
}
.menu summary {
  display: inline-flex;
  align-items: center;
  min-height: 44px;
  padding: 0 8px;
  margin: -12px 0;
  text-decoration: underline;
  cursor: pointer;
}
.menu[open] > span {
  position: absolute;
  z-index: 3;
  top: 30px;
  left: 0;
  display: flex;
  flex-direction: column;
  width: max-content;
  background: var(--paper);
  box-shadow: 0 4px 14px rgb(0 0 0 / 25%);
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
