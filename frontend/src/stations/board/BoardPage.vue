<script setup lang="ts">
/** What each build waits for, and the next thing to do. */
import { ref } from 'vue'
import { problemOf, type Build, type Valve } from '../../api/client'
import MiniLadder from '../../drawings/MiniLadder.vue'
import { day } from '../../kit/format'
import { useKeys } from '../../kit/keys'
import { usePrefs } from '../../kit/prefs'
import { useBuilds } from '../builds'
import NewBuild from './NewBuild.vue'

const { unit } = usePrefs()
const { data: builds, error } = useBuilds()
const making = ref(false)
useKeys([{ key: 'n', does: 'New build', run: () => (making.value = true) }])

function valveOf(build: Build, kind: 'intake' | 'exhaust'): Valve | null {
  const own = build.valves.filter((v) => v.kind === kind)
  return own.find((v) => v.state === 'settled') ?? own.find((v) => v.trials) ?? null
}

function next(build: Build) {
  const { station, valve_id: valveId } = build.next_step
  return {
    name: station,
    params: station === 'zero-lash' ? { buildId: build.id, valveId } : { buildId: build.id },
  }
}
const VERB = { setup: 'Set up', 'zero-lash': 'Measure', order: 'Order' } as const
</script>

<template>
  <div class="top">
    <h1>Builds</h1>
    <button type="button" class="plain strong" @click="making = true">New build</button>
  </div>
  <p v-if="error" role="alert">{{ problemOf(error).detail }}</p>
  <ol v-if="builds" class="board">
    <li v-for="build in builds" :key="build.id">
      <div class="name">
        <RouterLink :to="next(build)">{{ build.name }}</RouterLink>
        <span class="quiet">{{ build.engine }} · {{ day(build.updated_at) }}</span>
      </div>
      <div class="ladders">
        <MiniLadder
          v-for="kind in ['intake', 'exhaust'] as const"
          :key="kind"
          :unit="unit"
          :kind="kind"
          :valve="valveOf(build, kind)"
          :group="build.groups.find((g) => g.kind === kind) ?? null"
          :lifter="{
            low: build.preload_low_in,
            high: build.preload_high_in,
            travel: build.travel_in,
          }"
        />
      </div>
      <p class="waits" :class="build.next_step.station">{{ build.next_step.sentence }}</p>
      <RouterLink class="plain" :to="next(build)">{{ VERB[build.next_step.station] }}</RouterLink>
    </li>
  </ol>
  <p v-if="builds && !builds.length" class="none">
    No build yet. Make one, set a checking rod, and start with one intake and one exhaust.
  </p>
  <NewBuild v-model="making" />
</template>

<style scoped>
.top {
  display: flex;
  align-items: center;
  justify-content: space-between;
  margin-bottom: 10px;
}
h1 {
  margin: 0;
  font-size: 28px;
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
@media (max-width: 1100px) {
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
