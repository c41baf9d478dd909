<script setup lang="ts">
/** A device that a code signs in: the code stands in the picture it has read. */
import { t } from '../../kit/words'
import { ref } from 'vue'
import { useRouter } from 'vue-router'
import { answer, api, problemOf, type Problem } from '../../api/client'
import { me } from '../../kit/me'
import ProblemNote from '../../kit/ProblemNote.vue'
import { useComingIn } from './comingIn'
import DoorFrame from './DoorFrame.vue'

const comeIn = useComingIn()
const router = useRouter()
const read = decodeURIComponent(location.hash.slice(1))
const code = ref(read)
const label = ref(innerWidth < 700 ? t('Phone') : t('Tablet'))
const busy = ref(false)
const problem = ref<Problem | null>(null)

async function pair() {
  busy.value = true
  try {
    const body = { code: code.value, label: label.value }
    await comeIn(await answer(api.POST('/api/pair', { body })))
    await router.replace('/')
  } catch (thrown) {
    problem.value = problemOf(thrown)
  }
  busy.value = false
}
</script>

<template>
  <DoorFrame :title="t('Pair this device')" @enter="pair">
    <p class="quiet">
      {{
        t('It will be signed in as whoever made the code. {name}', {
          name: me.name ? t('{name} is signed out.', { name: me.name }) : '',
        })
      }}
    </p>
    <label>
      {{ t('Code') }}
      <el-input v-model="code" :autofocus="!read" autocomplete="off" maxlength="40" />
    </label>
    <label>
      {{ t('What it is called') }}
      <el-input v-model="label" :autofocus="Boolean(read)" autocomplete="off" maxlength="40" />
    </label>
    <ProblemNote :problem="problem" />
    <button type="submit" class="plain strong" :disabled="busy || !code.trim()">
      {{ t('Pair') }}
    </button>
    <RouterLink class="plain" to="/">{{ t('Not now') }}</RouterLink>
  </DoorFrame>
</template>
