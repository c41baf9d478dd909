<script setup lang="ts">
/**
 * A length typed with its unit. The text stays as typed; the server reads it when the entry is
 * finished (Enter or leaving the field), and a refusal stands beside it with the likely figure.
 */
import { computed, ref, useId, watch } from 'vue'
import { answer, api, problemOf, type ParseField, type Problem } from '../api/client'
import { changedElsewhere, isRead } from './entries'
import { bareLength, length, small } from './format'
import { useTelling } from './leftBehind'
import { usePrefs } from './prefs'
import ProblemNote from './ProblemNote.vue'
import { refusedBy } from './refused'

const props = defineProps<{
  label: string
  field: ParseField
  modelValue: number | null
  /** A refusal of the value by the page that keeps it. */
  refusal?: Problem | null
  hint?: string
  optional?: boolean
  /** What another entry of the same hand brings here: nobody else's change. */
  brought?: number | null
  /** Only the field, for a table that labels it. */
  bare?: boolean
  /** No emit: what is read after the field has gone from the page is kept all the same. */
  // eslint-disable-next-line vue/prop-name-casing
  'onUpdate:modelValue'?: (inches: number | null) => void
}>()

const { unit } = usePrefs()
const id = useId()
const typed = ref<string | null>(null)
const own = ref<Problem | null>(null)

const LONG: ParseField[] = [
  'rod_length',
  'closed_length',
  'caliper_low',
  'caliper_high',
  'base_circle',
  'seat_height',
]
const isLong = computed(() => LONG.includes(props.field))
const shown = computed(() => {
  if (typed.value !== null) return typed.value
  return props.modelValue === null ? '' : bareLength(props.modelValue, unit.value)
})
const problem = computed(() => own.value ?? props.refusal ?? null)
const reading = computed(() => {
  if (props.modelValue === null || problem.value) return props.hint ?? ''
  return isLong.value
    ? length(props.modelValue, unit.value === 'in' ? 'mm' : 'in')
    : small(props.modelValue, unit.value)
})
const tell = useTelling(undefined, () => props.label)

watch(unit, () => {
  if (!problem.value) typed.value = null
})

let finished: string | null = null
let emitted: number | null = null
/** The server is reading what was typed: that still is an entry of its own. */
let beingRead = false
/** What went to the page and is not kept yet. */
let sent: string | null = null
/** The value was changed elsewhere under what is being typed. */
let overtaken = false
watch(
  () => props.modelValue,
  (now) => {
    if (now === emitted) {
      sent = null
      return
    }
    const typing = typed.value !== null && (beingRead || typed.value !== finished)
    if (typing && now === props.brought) return
    overtaken = typing
    if (!overtaken) typed.value = own.value = null
  },
)
watch(
  () => props.refusal,
  (now) => {
    if (now) typed.value ??= sent
  },
)

function keep(inches: number | null) {
  own.value = null
  overtaken = false
  emitted = inches
  sent = typed.value
  props['onUpdate:modelValue']?.(inches)
}

/** Leaving the field after Enter is not a second entry. */
function leave() {
  if (typed.value !== finished) void finish()
}

const finish = () => isRead(read())

async function read(): Promise<boolean> {
  const text = typed.value
  if (text === null) return true
  finished = text
  const told = tell()
  if (props.optional && !text.trim()) {
    keep(null)
    return true
  }
  beingRead = true
  try {
    const body = { text, field: props.field, unit: unit.value }
    const { inches } = await answer(api.POST('/api/compute/length', { body }))
    if (overtaken && inches !== props.modelValue) {
      own.value = told(changedElsewhere(`${props.label}_in`, inches, props.modelValue))
      overtaken = false
      return false
    }
    keep(inches)
    return true
  } catch (error) {
    own.value = told(problemOf(error))
    return false
  } finally {
    beingRead = false
  }
}

function use(text: string) {
  typed.value = text
  void finish()
}
</script>

<template>
  <div class="entry" :class="{ bare }" data-pad>
    <label v-if="!bare" :for="id">{{ label }}</label>
    <div class="line">
      <el-input
        :id="id"
        :model-value="shown"
        :aria-label="bare ? label : undefined"
        v-bind="refusedBy(id, problem)"
        inputmode="text"
        autocomplete="off"
        @update:model-value="typed = $event"
        @keydown.enter.prevent="finish"
        @blur="leave"
      >
        <template v-if="!bare" #suffix>{{ unit }}</template>
      </el-input>
      <span v-if="!bare" class="reading">{{ reading }}</span>
    </div>
    <ProblemNote :id="`${id}-why`" :problem="problem" @use="use" />
  </div>
</template>

<style scoped>
.entry {
  display: flex;
  flex-direction: column;
  gap: 3px;
}
label {
  font-size: 14px;
  color: var(--quiet);
}
.line {
  display: flex;
  align-items: center;
  gap: 10px;
}
.line .el-input {
  width: 150px;
  flex: none;
}
.bare .line .el-input {
  width: 84px;
}
.reading {
  color: var(--quiet);
  font-size: 14px;
  font-variant-numeric: tabular-nums;
}
</style>
