<script setup lang="ts">
/** Every valve of the build in a row: where this page stands, and the way to another valve. */
import { t } from './words'
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

/** One stop for Tab; the arrows go along the strip. */
function along(event: KeyboardEvent) {
  const step = { ArrowRight: 1, ArrowLeft: -1 }[event.key]
  const links = [...(event.currentTarget as HTMLElement).querySelectorAll('a')]
  const at = links.indexOf(document.activeElement as HTMLAnchorElement)
  if (!step || at < 0) return
  event.preventDefault()
  event.stopPropagation()
  links[(at + step + links.length) % links.length]?.focus()
}
</script>

<template>
  <nav class="valves" :aria-label="t('Valves')" @keydown="along">
    <RouterLink
      v-for="valve in build.valves"
      :key="valve.id"
      :to="{ name: step, params: { buildId: build.id, valveId: valve.id } }"
      replace
      :tabindex="valve.id === valveId ? 0 : -1"
      :aria-current="valve.id === valveId ? 'true' : undefined"
      :aria-label="
        t('{name}, cylinder {cylinder} {kind}: {valve}', {
          name: valve.name,
          cylinder: valve.cylinder,
          kind: t(valve.kind),
          valve: stateWords(valve),
        })
      "
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
