<script setup lang="ts">
/** Every valve of the build in a row: where this page stands, and the way to another valve. */
import type { Build } from '../api/client'
import { stateWords } from './states'
import ValveToken from './ValveToken.vue'

defineProps<{
  build: Build
  valveId: string
  /** The step whose page a valve leads to. */
  step: 'zero_lash' | 'rocker'
  bare?: boolean
}>()
</script>

<template>
  <nav class="valves" aria-label="Valves">
    <RouterLink
      v-for="valve in build.valves"
      :key="valve.id"
      :to="{ name: step, params: { buildId: build.id, valveId: valve.id } }"
      replace
      :aria-current="valve.id === valveId ? 'true' : undefined"
      :aria-label="`${valve.name}, cylinder ${valve.cylinder} ${valve.kind}: ${stateWords(valve)}`"
    >
      <ValveToken :valve="valve" :current="valve.id === valveId" :bare="bare" />
    </RouterLink>
    <slot />
  </nav>
</template>

<style scoped>
.valves {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 6px;
}
.valves a {
  padding: 1px;
  text-decoration: none;
}
@media (max-width: 720px) {
  .valves {
    flex-wrap: nowrap;
    overflow-x: auto;
    padding-top: 6px;
  }
}
</style>
