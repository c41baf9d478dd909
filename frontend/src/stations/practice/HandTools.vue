<script setup lang="ts">
/** What two hands do at a practice engine: fit, spin, feel and turn the rod, put feelers in. */
import { computed, ref } from 'vue'
import type { Exercise } from '../../api/client'
import { useKeys } from '../../kit/keys'
import type { Act } from './usePractice'

const props = defineProps<{ exercise: Exercise; valve: string; act: Act }>()
const emit = defineEmits<{ feel: [] }>()

const fitHere = computed(() => props.exercise.rod_in === props.valve)
const blades = computed(() => props.exercise.blades_thou)
const blade = ref(11)
const bladeThou = computed(() => blades.value[blade.value] ?? 0)
const stack = ref(0)
const feelerThou = computed(() => bladeThou.value + stack.value)
const thicker = (by: number) =>
  (blade.value = Math.min(Math.max(blade.value + by, 0), blades.value.length - 1))
const tryFeeler = () => props.act('feeler', { blade_in: feelerThou.value / 1000 })
const turn = (eighths: number) => props.act('turn_rod', { eighths })
const TURNS = [
  { eighths: -8, shown: '−1', words: 'a full turn shorter' },
  { eighths: -2, shown: '−¼', words: 'a quarter turn shorter' },
  { eighths: -1, shown: '−⅛', words: 'an eighth turn shorter' },
  { eighths: 1, shown: '+⅛', words: 'an eighth turn longer' },
  { eighths: 2, shown: '+¼', words: 'a quarter turn longer' },
  { eighths: 8, shown: '+1', words: 'a full turn longer' },
]
useKeys([
  { key: '[', does: 'Practice: the rod a quarter turn shorter', run: () => void turn(-2) },
  { key: ']', does: 'Practice: the rod a quarter turn longer', run: () => void turn(2) },
  { key: 'j', does: 'Practice: feel the rod', run: () => emit('feel') },
  { key: 'k', does: 'Practice: try the feeler', run: () => void tryFeeler() },
])
</script>

<template>
  <button
    type="button"
    class="plain"
    :class="{ strong: !fitHere }"
    :disabled="fitHere"
    @click="act('fit', { valve })"
  >
    {{ fitHere ? `Rod is in ${valve}` : `Rod into ${valve}` }}
  </button>
  <button type="button" class="plain" @click="act('spin')">Spin it</button>
  <button type="button" class="plain" :class="{ strong: fitHere }" @click="emit('feel')">
    Feel it <kbd>J</kbd>
  </button>
  <span class="turn" role="group" aria-label="Turn the checking rod">
    <button
      v-for="t in TURNS"
      :key="t.eighths"
      type="button"
      class="plain"
      :aria-label="`${t.shown}: ${t.words}`"
      @click="turn(t.eighths)"
    >
      {{ t.shown }}
    </button>
  </span>
  <span class="turn" role="group" aria-label="Feelers">
    <button type="button" class="plain" aria-label="Thinner" @click="thicker(-1)">−</button>
    <button type="button" class="plain wide" @click="tryFeeler">
      Feeler {{ feelerThou }}<template v-if="stack"> ({{ bladeThou }} + {{ stack }})</template>
    </button>
    <button type="button" class="plain" aria-label="Thicker" @click="thicker(1)">+</button>
    <button
      type="button"
      class="plain"
      :aria-label="stack ? 'Without the second blade' : 'With a second blade of 50'"
      @click="stack = stack ? 0 : 50"
    >
      {{ stack ? '−50' : '+50' }}
    </button>
  </span>
</template>
