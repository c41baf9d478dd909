<script setup lang="ts">
/** The gauges on the cable: live values, taken by key, by touch, or by the gauge's own button. */
import { decimal, t } from './words'
import { useEventListener } from '@vueuse/core'
import { computed, ref } from 'vue'
import { length, small } from './format'
import { hold, holds, typeInto, useGauges, written, type Live } from './gauge'
import { useKeys } from './keys'
import { me } from './me'
import { usePrefs } from './prefs'

const { unit } = usePrefs()
const { values, connected, machine, field, onTaken } = useGauges()
const shown = computed(() => Object.values(values.value))
const said = ref('')
const last = ref('indicator')

function target(): HTMLInputElement | HTMLTextAreaElement | null {
  const own = field.value
  if (own?.isConnected && own.offsetParent) return own
  return document.querySelector('main [data-gauge] input, main input[data-gauge]')
}
function take(live: Live | undefined) {
  if (!live) return
  last.value = live.name
  const into = target()
  if (!into) {
    said.value = t('Choose a field first.')
    return
  }
  said.value = ''
  typeInto(into, written(live, unit.value))
}
onTaken(take)
const takeLast = () => take(values.value[last.value] ?? shown.value[0])
useKeys([{ key: 'g', does: t('Take the gauge’s value (F9 while typing)'), run: takeLast }])
useEventListener(window, 'keydown', (event) => {
  if (event.key !== 'F9') return
  event.preventDefault()
  takeLast()
})
const value = (live: Live) => {
  const inches = live.steady_in ?? live.value_in
  return Math.abs(inches) < 1 && unit.value === 'in'
    ? decimal(`${inches.toFixed(4)} in`)
    : length(inches, unit.value)
}
const title = (live: Live) =>
  t('Take {name} {live}, {value}{steady}', {
    name: t(live.name),
    live: value(live),
    value: small(live.value_in, unit.value),
    steady: live.steady_in === null ? t(', moving') : '',
  })
</script>

<template>
  <aside v-if="connected" class="gauges" :aria-label="t('Gauges')">
    <button
      v-for="live in shown"
      :key="live.name"
      type="button"
      class="plain"
      :class="{ moving: live.steady_in === null }"
      :aria-label="title(live)"
      @mousedown.prevent
      @click="take(live)"
    >
      <span>{{ t(live.name) }}</span>
      <b :data-gauge-value="live.name">{{ value(live) }}</b>
      <i>{{ live.steady_in === null ? t('moving') : t('steady') }}</i>
      <kbd v-if="live.name === last">G</kbd>
    </button>
    <button
      v-if="me.rights.includes('measure') && me.accounts"
      type="button"
      class="plain"
      :aria-pressed="holds"
      @mousedown.prevent
      @click="holds ? (holds = false) : hold().catch(() => (said = t('The shop does not answer.')))"
    >
      <span>{{ machine }}</span> {{ t('Their button writes here') }}
    </button>
    <span v-if="said" role="alert">{{ said }}</span>
  </aside>
</template>

<style scoped>
.gauges {
  position: sticky;
  bottom: 0;
  z-index: 5;
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  align-items: center;
  padding: 6px 20px;
  background: var(--page);
  border-top: 2px solid var(--ink);
}
.plain span {
  font-weight: 400;
  color: var(--quiet);
}
.plain b {
  font-size: 20px;
  min-width: 104px;
  text-align: right;
}
.plain i {
  font-style: normal;
  font-weight: 400;
  font-size: 14px;
  width: 50px;
  text-align: left;
}
.moving i {
  color: var(--accent);
}
</style>
