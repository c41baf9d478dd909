<script setup lang="ts">
/** Before anything is seen: a name and its password, or a code that sets one. */
import { t } from '../../kit/words'
import { computed, ref, useTemplateRef, watch } from 'vue'
import { answer, api, problemOf, type Problem } from '../../api/client'
import { me } from '../../kit/me'
import ProblemNote from '../../kit/ProblemNote.vue'
import { useComingIn } from './comingIn'
import DoorFrame from './DoorFrame.vue'

const comeIn = useComingIn()
const byCode = ref(false)
watch(
  () => me.value.first,
  (now) => now && (byCode.value = true),
  { immediate: true },
)
const name = ref('')
const password = ref('')
const again = ref('')
const code = ref('')
const busy = ref(false)
const problem = ref<Problem | null>(null)
const frame = useTemplateRef<InstanceType<typeof DoorFrame>>('frame')
const title = computed(() => {
  if (me.value.first) return t('The first owner')
  return byCode.value ? t('Set your password') : t('Sign in')
})
const unlike = computed(() => byCode.value && again.value !== '' && again.value !== password.value)

async function enter() {
  if (unlike.value) return
  busy.value = true
  try {
    const known = { name: name.value.trim(), password: password.value }
    await comeIn(
      byCode.value
        ? await answer(api.POST('/api/join', { body: { ...known, code: code.value } }))
        : await answer(api.POST('/api/sign-in', { body: known })),
    )
  } catch (thrown) {
    problem.value = problemOf(thrown)
    password.value = again.value = ''
  }
  busy.value = false
}
function turn() {
  byCode.value = !byCode.value
  problem.value = null
  ;(frame.value?.$el as HTMLElement | undefined)?.querySelector('input')?.focus()
}
</script>

<template>
  <DoorFrame ref="frame" :title="title" @enter="enter">
    <p v-if="me.first" class="quiet">
      {{
        t('This shop has no owner yet. The code stands on the terminal in which it was started.')
      }}
    </p>
    <label v-if="byCode">
      {{ t('Code') }}
      <el-input v-model="code" autofocus autocomplete="one-time-code" maxlength="40" />
    </label>
    <label v-if="!byCode || me.first">
      {{ t('Name') }}
      <el-input v-model="name" :autofocus="!byCode" autocomplete="username" maxlength="60" />
    </label>
    <label>
      {{ t('Password') }}
      <el-input
        v-model="password"
        type="password"
        show-password
        maxlength="200"
        :autocomplete="byCode ? 'new-password' : 'current-password'"
      />
    </label>
    <label v-if="byCode">
      {{ t('The same again') }}
      <el-input
        v-model="again"
        type="password"
        maxlength="200"
        autocomplete="new-password"
        :aria-invalid="unlike"
      />
    </label>
    <p v-if="byCode" class="quiet">
      {{ t('At least ten characters: three words apart serve well.') }}
    </p>
    <p v-if="unlike" class="unlike" role="alert">{{ t('The two are not alike.') }}</p>
    <ProblemNote :problem="problem" />
    <button
      type="submit"
      class="plain strong"
      :disabled="busy || !password || (byCode && again !== password)"
    >
      {{ byCode ? t('Set it and go in') : t('Sign in') }}
    </button>
    <button type="button" class="plain" @click="turn">
      {{ byCode ? t('I have a password') : t('I have a code') }}
    </button>
    <RouterLink v-if="!me.first" class="plain" :to="{ name: 'pair' }">{{
      t('Pair this device')
    }}</RouterLink>
  </DoorFrame>
</template>
