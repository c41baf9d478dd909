<script setup lang="ts">
/** What the shop has learned, for a build to start from where the builder wants it. */
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { answer, api, type Build } from '../../api/client'
import { usePrefs } from '../../kit/prefs'
import ProblemNote from '../../kit/ProblemNote.vue'
import type { Keeper } from '../useKeeper'

const props = defineProps<{ build: Build; keeper: Keeper }>()
const { by } = usePrefs()
const { data } = useQuery({
  queryKey: computed(() => ['shop', 'starting', props.build.mount, by.value]),
  queryFn: () =>
    answer(
      api.GET('/api/shop/starting', {
        params: { query: { mount: props.build.mount, person: by.value.slice(0, 60) } },
      }),
    ),
})
const now = computed(() => props.build.starting)
const said = computed(() => [
  ...(now.value?.factor && now.value.factor_u
    ? [
        `R0 from ${now.value.engines} engines of this shop: ${now.value.factor} × the catalogue's ` +
          `± ${(200 * now.value.factor_u).toFixed(1)} % (k = 2).`,
      ]
    : []),
  ...(now.value?.hands
    ? [`The hand of ${now.value.person}, from ${now.value.hand_engines} engines.`]
    : []),
])
</script>

<template>
  <section id="starting">
    <h2>Start from what the shop has learned</h2>
    <template v-if="now">
      <p v-for="words in said" :key="words">{{ words }}</p>
      <button type="button" class="plain" @click="keeper.keep({ starting: null })">
        Start from the usual again
      </button>
    </template>
    <template v-else-if="data?.words.length">
      <p v-for="words in data.words" :key="words">{{ words }}</p>
      <p class="quiet">Kept with this build as it is today; its own readings go on from there.</p>
      <button type="button" class="plain" @click="keeper.keep({ starting: data.figures })">
        Start from this
      </button>
    </template>
    <p v-else class="quiet">
      Five engines with a known R0, or five read by one person alone, tell enough.
    </p>
    <RouterLink v-if="!now && !data?.words.length" class="plain" :to="{ name: 'learned' }">
      What is known so far
    </RouterLink>
    <ProblemNote :problem="keeper.refusalOf('starting')" />
  </section>
</template>

<style scoped src="./section.css"></style>
