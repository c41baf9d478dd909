<script setup lang="ts">
/** The heads in plan after fitting: each valve open, passed or failed, by shape and mark. */
import { t } from '../kit/words'
import type { SignOff } from '../api/client'
import HeadPlan, { type Look } from './HeadPlan.vue'

type Valve = SignOff['heads'][number]['valves'][number]
const props = defineProps<{
  heads: SignOff['heads']
  states: SignOff['states']
  selected: string
  /** Valves the check in hand still asks for; the others step back. */
  wanted: string[]
}>()
const emit = defineEmits<{ select: [name: string] }>()
const WORDS = { open: t('open'), passed: t('passed'), failed: t('failed') } as const
const MARKS = { open: '', passed: '✓', failed: '✕' } as const

function look(valve: Valve): Look {
  const state = props.states[valve.name] ?? 'open'
  const dim = props.wanted.length > 0 && !props.wanted.includes(valve.name)
  const shape = state === 'failed' ? 'square' : 'circle'
  return { state, words: `${valve.name}: ${WORDS[state]}`, mark: MARKS[state], shape, dim }
}
</script>

<template>
  <HeadPlan
    :heads="heads"
    :selected="selected"
    :look="look"
    :cell="52"
    :gap="14"
    :narrowest="300"
    :height="58"
    :token-at="30"
    @select="emit('select', $event.name)"
  />
</template>
