<script setup lang="ts">
/** Who measures: the names of the shop, a new one, or none. */
import { t } from './words'
import { useQuery } from '@tanstack/vue-query'
import { useTimeout } from '@vueuse/core'
import { computed, nextTick, ref, useTemplateRef, watch } from 'vue'
import { answer, api } from '../api/client'
import { IDLE_MS } from './afterPaint'
import { me } from './me'
import { useWho } from './who'

const { by, open, answered } = useWho()
const idle = useTimeout(IDLE_MS)
const { data: people } = useQuery({
  queryKey: ['people'],
  enabled: computed(() => !me.value.accounts && (open.value || idle.value)),
  queryFn: () => answer(api.GET('/api/people')),
})
const names = computed(() =>
  [...new Set([by.value, ...(people.value ?? [])])].filter(Boolean).slice(0, 8),
)
const other = ref('')
/** What is no name: a reading that was typed on while this opened, as it happens. */
const refused = ref('')
function take() {
  const name = other.value.trim()
  if (/\p{L}/u.test(name)) answered(name)
  else refused.value = name
}
const chips = useTemplateRef<HTMLElement>('chips')
const first = () => chips.value?.querySelector<HTMLElement>('button, input')
/** Whoever types already is left alone. */
function begin() {
  if (!chips.value?.contains(document.activeElement)) first()?.focus()
}
/** Whoever types a name while one that is known has the focus means another. */
function another(event: KeyboardEvent) {
  if (event.ctrlKey || event.altKey || event.metaKey || !/^\p{L}$/u.test(event.key)) return
  chips.value?.querySelector('input')?.focus()
}
/** Names that come later stand before the field for another. */
watch(
  () => names.value[0],
  async () => {
    const waits = open.value && !other.value && first() === document.activeElement
    await nextTick()
    if (waits) first()?.focus()
  },
)
</script>

<template>
  <el-dialog
    :model-value="open"
    align-center
    :title="t('Who measures?')"
    width="min(420px, 92vw)"
    @open="other = refused = ''"
    @opened="begin"
    @close="open && answered()"
  >
    <div ref="chips" class="names" @keydown="another">
      <button v-for="n in names" :key="n" type="button" class="plain" @click="answered(n)">
        {{ n }}
      </button>
      <form @submit.prevent="take">
        <el-input
          v-model="other"
          :aria-label="t('Another name')"
          :placeholder="names.length ? t('Another name') : t('Name')"
          maxlength="60"
          v-bind="refused ? { 'aria-invalid': 'true', 'aria-describedby': 'who-why' } : {}"
          @input="refused = ''"
        />
        <button type="submit" class="plain" :disabled="!other.trim()">{{ t('This one') }}</button>
      </form>
      <p v-if="refused" id="who-why" role="alert">
        {{ t('“{text}” is not a name: it has no letter.', { text: refused }) }}
      </p>
      <button type="button" class="plain none" @click="answered('')">{{ t('No name') }}</button>
    </div>
  </el-dialog>
</template>

<style scoped>
.names {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
}
form {
  display: flex;
  flex: 1 1 100%;
  gap: 8px;
}
form button {
  white-space: nowrap;
}
p {
  flex: 1 1 100%;
  margin: 0;
  color: var(--alarm-ink);
}
.none {
  margin-left: auto;
}
</style>
