<script setup lang="ts">
/** A refusal beside its field, with the likely figure to take instead. */
import { t } from './words'
import { computed, useTemplateRef, watch } from 'vue'
import { choicesOf, type Change, type Problem } from '../api/client'
import { length, small } from './format'
import { usePrefs } from './prefs'
import { steady } from './press'

const props = defineProps<{
  problem: Problem | null
  /** By which its field names it: see `refusedBy`. */
  id?: string
  /** Take the likely figure, or what was chosen, instead: offered only where somebody does. */
  onUse?: (text: string) => void
  onChoose?: (change: Change) => void
}>()

const said = steady(() => props.problem)
const { unit } = usePrefs()
function shown(name: string, value: unknown): string {
  if (typeof value !== 'number' || !name.endsWith('_in')) return String(value ?? 'none')
  return value < 1 ? small(value, unit.value) : length(value, unit.value)
}

/**
 * Once the fields hold what was refused again: the one in hand is chosen, to be typed over, and the
 * refusal brought into view, unless somebody types on, or elsewhere, by then.
 */
const note = useTemplateRef('note')
function show() {
  const field = document.activeElement
  const typing = field instanceof HTMLInputElement || field instanceof HTMLTextAreaElement
  const refused = typing && field.getAttribute('aria-invalid') === 'true'
  if (refused && props.id && field.getAttribute('aria-describedby') === props.id) field.select()
  if (refused || !typing) note.value?.scrollIntoView({ block: 'nearest' })
}
watch(said, (now) => {
  if (!now) return
  const typedOn = new AbortController()
  const { signal } = typedOn
  addEventListener('input', () => typedOn.abort(), { capture: true, signal })
  requestAnimationFrame(() => {
    if (!signal.aborted) show()
    typedOn.abort()
  })
})

const choices = computed(() => (props.onChoose ? choicesOf(said.value) : []))
const both = computed(() => {
  if (choices.value.length) return []
  const { yours, stored } = (said.value?.context ?? {}) as {
    yours?: Record<string, unknown>
    stored?: Record<string, unknown>
  }
  return yours && stored
    ? Object.keys(yours).map((name) => ({ name, yours: yours[name], stored: stored[name] }))
    : []
})
</script>

<template>
  <div v-if="said" :id="id" ref="note" class="problem" role="alert">
    {{ said.detail }}
    <span v-for="pair in both" :key="pair.name" class="pair">
      {{
        t('{a}: yours {name}, kept {name2}.', {
          a: pair.name.replace(/_in$/, '').replaceAll('_', ' '),
          name: shown(pair.name, pair.yours),
          name2: shown(pair.name, pair.stored),
        })
      }}
    </span>
    <span v-if="both.length" class="pair">{{
      t('Enter it again to put yours in its place.')
    }}</span>
    <button
      v-if="said.suggestion && onUse"
      type="button"
      class="use"
      @click="onUse(said.suggestion.text)"
    >
      {{ t('Use {text}', { text: said.suggestion.text }) }}
    </button>
    <button
      v-for="choice in choices"
      :key="choice.words"
      type="button"
      class="use"
      @click="onChoose?.(choice.change)"
    >
      {{ choice.words }}
    </button>
    <slot />
  </div>
</template>

<style scoped>
.problem {
  color: var(--alarm-ink);
  background: var(--alarm-paper);
  border-left: 4px solid var(--alarm);
  padding: 6px 10px;
  line-height: 1.35;
  font-size: 15px;
}
.pair {
  display: block;
}
.use {
  display: block;
  margin-top: 6px;
  min-height: 44px;
  padding: 0 14px;
  font: inherit;
  font-weight: 600;
  border: 1.5px solid var(--alarm);
  background: var(--paper);
  color: var(--ink);
  cursor: pointer;
}
</style>
