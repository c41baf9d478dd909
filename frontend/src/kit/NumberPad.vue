<script setup lang="ts">
/** Digits, point, fraction and the units of the job, under the thumbs. */
import { decimal, t } from './words'
import { useEventListener } from '@vueuse/core'
import { computed, nextTick, watch } from 'vue'
import {
  beforeFocus,
  countsTurns,
  enter,
  onFocus,
  padField,
  rubOut,
  type,
  useFingers,
  wantLetters,
} from './pad'

const fingers = useFingers()
useEventListener('pointerdown', (e) => fingers.value && beforeFocus(e), { capture: true })
useEventListener('focusin', (e) => fingers.value && onFocus(e))
/** A tap elsewhere ends before the page moves under it. */
const TAP_MS = 250
useEventListener('focusout', () =>
  setTimeout(() => {
    if (document.activeElement !== padField.value) padField.value = null
  }, TAP_MS),
)
watch(padField, async (field) => {
  document.documentElement.classList.toggle('pad', field !== null)
  if (!field) return
  await nextTick()
  field.scrollIntoView({ block: 'center' })
})
const ROWS = ['7', '8', '9', '/', '4', '5', '6', ' ', '1', '2', '3', '.', '−', '0', '+']
const units = computed(() => (countsTurns.value ? [t('turns')] : ['in', 'thou', 'mm']))
const said: Record<string, string> = {
  ' ': t('Space'),
  '.': t('Point'),
  '/': t('Fraction'),
  '−': t('Minus'),
}
const typed = (key: string) => type(key === '−' ? '-' : decimal(key))
</script>

<template>
  <!-- The field keeps the focus: nothing on the pad takes it. -->
  <section v-if="padField" class="pad" :aria-label="t('Number pad')" @pointerdown.prevent>
    <div class="units">
      <button v-for="u in units" :key="u" type="button" @click="type(` ${u}`)">{{ u }}</button>
      <button type="button" @click="wantLetters">abc</button>
    </div>
    <div class="keys">
      <button
        v-for="key in ROWS"
        :key="key"
        type="button"
        :aria-label="said[key]"
        @click="typed(key)"
      >
        {{ key === ' ' ? '␣' : decimal(key) }}
      </button>
      <button type="button" :aria-label="t('Rub out')" @click="rubOut">⌫</button>
    </div>
    <button type="button" class="enter" @click="enter">{{ t('Enter') }}</button>
  </section>
</template>

<style scoped>
.pad {
  position: fixed;
  z-index: 20;
  inset: auto 0 0;
  display: grid;
  grid-template-columns: 1fr 74px;
  gap: 4px;
  max-width: 560px;
  margin: 0 auto;
  padding: 6px;
  background: var(--ink);
}
.units {
  display: grid;
  grid-auto-columns: 1fr;
  grid-auto-flow: column;
  grid-column: 1 / -1;
  gap: 4px;
}
.keys {
  display: grid;
  grid-template-columns: repeat(4, 1fr);
  gap: 4px;
}
button {
  min-height: 56px;
  padding: 0;
  font: inherit;
  font-size: 22px;
  font-weight: 600;
  color: var(--ink);
  background: var(--tag);
  border: 0;
  touch-action: manipulation;
}
.units button {
  min-height: 44px;
  font-size: 16px;
}
.enter {
  color: var(--on-accent);
  background: var(--accent);
  font-size: 17px;
}
</style>
