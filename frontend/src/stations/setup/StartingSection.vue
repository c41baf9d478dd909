<script setup lang="ts">
/** What the shop has learned, for a build to start from where the builder wants it. */
import { decimal, t } from '../../kit/words'
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
        `${t("R0 from {engines} engines of this shop: {factor} × the catalogue's", { engines: now.value.engines, factor: now.value.factor })} ` +
          `± ${decimal((200 * now.value.factor_u).toFixed(1))} % (k = 2).`,
      ]
    : []),
  ...(now.value?.hands
    ? [
        t('The hand of {person}, from {hand_engines} engines.', {
          person: now.value.person,
          hand_engines: now.value.hand_engines,
        }),
      ]
    : []),
])
</script>

<template>
  <section id="starting">
    <h2>{{ t('Start from what the shop has learned') }}</h2>
    <template v-if="now">
      <p v-for="words in said" :key="words">{{ words }}</p>
      <button type="button" class="plain" @click="keeper.keep({ starting: null })">
        {{ t('Start from the usual again') }}
      </button>
    </template>
    <template v-else-if="data?.words.length">
      <p v-for="words in data.words" :key="words">{{ words }}</p>
      <p class="quiet">
        {{ t('Kept with this build as it is today; its own readings go on from there.') }}
      </p>
      <button type="button" class="plain" @click="keeper.keep({ starting: data.figures })">
        {{ t('Start from this') }}
      </button>
    </template>
    <p v-else class="quiet">
      {{ t('Five engines with a known R0, or five read by one person alone, tell enough.') }}
    </p>
    <RouterLink v-if="!now && !data?.words.length" class="plain" :to="{ name: 'learned' }">
      {{ t('What is known so far') }}
    </RouterLink>
    <ProblemNote :problem="keeper.refusalOf('starting')" />
  </section>
</template>

<style scoped src="./section.css"></style>
