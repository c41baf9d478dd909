<script setup lang="ts">
/** What two hands do at a practice engine: fit, spin, feel and turn the rod, put feelers in. */
import { t } from '../../kit/words'
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
  { eighths: -8, shown: '−1', words: t('a full turn shorter') },
  { eighths: -2, shown: '−¼', words: t('a quarter turn shorter') },
  { eighths: -1, shown: '−⅛', words: t('an eighth turn shorter') },
  { eighths: 1, shown: '+⅛', words: t('an eighth turn longer') },
  { eighths: 2, shown: '+¼', words: t('a quarter turn longer') },
  { eighths: 8, shown: '+1', words: t('a full turn longer') },
]
useKeys([
  { key: '[', does: t('Practice: the rod a quarter turn shorter'), run: () => void turn(-2) },
  { key: ']', does: t('Practice: the rod a quarter turn longer'), run: () => void turn(2) },
  { key: 'j', does: t('Practice: feel the rod'), run: () => emit('feel') },
  { key: 'k', does: t('Practice: try the feeler'), run: () => void tryFeeler() },
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
    {{ fitHere ? t('Rod is in {valve}', { valve }) : t('Rod into {valve}', { valve }) }}
  </button>
  <button type="button" class="plain" @click="act('spin')">{{ t('Spin it') }}</button>
  <button type="button" class="plain" :class="{ strong: fitHere }" @click="emit('feel')">
    {{ t('Feel it') }} <kbd>J</kbd>
  </button>
  <span class="turn" role="group" :aria-label="t('Turn the checking rod')">
    <button
      v-for="step in TURNS"
      :key="step.eighths"
      type="button"
      class="plain"
      :aria-label="`${step.shown}: ${step.words}`"
      @click="turn(step.eighths)"
    >
      {{ step.shown }}
    </button>
  </span>
  <span class="turn" role="group" :aria-label="t('Feelers')">
    <button type="button" class="plain" :aria-label="t('Thinner')" @click="thicker(-1)">−</button>
    <button type="button" class="plain wide" @click="tryFeeler">
      {{ t('Feeler {feelerThou}', { feelerThou })
      }}<template v-if="stack"> ({{ bladeThou }} + {{ stack }})</template>
    </button>
    <button type="button" class="plain" :aria-label="t('Thicker')" @click="thicker(1)">+</button>
    <button
      type="button"
      class="plain"
      :aria-label="stack ? t('Without the second blade') : t('With a second blade of 50')"
      @click="stack = stack ? 0 : 50"
    >
      {{ stack ? '−50' : '+50' }}
    </button>
  </span>
</template>
