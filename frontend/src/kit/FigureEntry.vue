<script setup lang="ts">
/**
 * A plain figure or text with its unit, kept on Enter or when the field is left. What was typed
 * stays as typed; a figure that is none, or a refusal of the page, stands beside it.
 */
import { decimal, t } from './words'
import { computed, ref, useId, watch } from 'vue'
import type { Problem } from '../api/client'
import { changedElsewhere, isRead } from './entries'
import { useTelling } from './leftBehind'
import ProblemNote from './ProblemNote.vue'
import { mended, refusedBy } from './refused'

const props = defineProps<{
  label: string
  modelValue: number | string | null
  suffix?: string
  placeholder?: string
  /** Keep what is typed as text instead of as a number. */
  text?: boolean
  optional?: boolean
  /** Only the field, for a table that labels it. */
  bare?: boolean
  refusal?: Problem | null
}>()
const emit = defineEmits<{ keep: [value: string]; 'keep-number': [value: number | null] }>()

const id = useId()
const typed = ref<string | null>(null)
const own = ref<Problem | null>(null)
const shown = computed(() => {
  const value = props.modelValue ?? ''
  return typed.value ?? (typeof value === 'number' ? decimal(String(value)) : value)
})
let sent: string | null = null
let kept: number | string | null = null
/** The value was changed elsewhere under what is being typed. */
let overtaken = false
watch(
  () => props.modelValue,
  (now) => {
    if (typed.value !== null && typed.value !== sent) overtaken = now !== kept
    else if (!props.refusal) typed.value = own.value = null
    if (now === kept && typed.value === null) sent = null
  },
)
// Refused after another's value took its place: what was typed comes back.
watch(
  () => props.refusal,
  (now) => {
    if (now) typed.value ??= sent
  },
)

const problem = computed(() => own.value ?? props.refusal ?? null)
const tell = useTelling(undefined, () => props.label)
function refuse(problem: Problem) {
  own.value = tell()(problem)
  void isRead(Promise.resolve(false))
}
/** A value goes to the page, unless another came under it meanwhile: then at the second Enter. */
function keep(value: number | string | null) {
  if (overtaken && value !== props.modelValue) {
    overtaken = false
    refuse(changedElsewhere(props.label, value, props.modelValue))
    return
  }
  overtaken = false
  kept = value
  if (typeof value === 'string') emit('keep', value)
  else emit('keep-number', value)
}
/** Leaving the field after Enter is not a second entry; Enter on a refused one is. */
function finish(again = false) {
  const text = typed.value
  if (text === null || (text === sent && !(again && problem.value))) return
  sent = text
  own.value = null
  if (props.text) keep(text)
  else if (!text.trim() && props.optional) keep(null)
  else finishNumber(text)
}
function finishNumber(text: string) {
  const value = Number(text.replace(',', '.').replace('−', '-').replace(/°$/, ''))
  if (text.trim() && !Number.isNaN(value)) {
    keep(value)
    return
  }
  refuse({
    type: 'about:blank',
    title: t('Not a figure'),
    status: 0,
    code: 'not_a_figure',
    context: {},
    detail: text.trim()
      ? t('{label}: “{text}” is not a figure.', { label: props.label, text })
      : t('{label} is empty. Type a figure.', { label: props.label }),
  })
}
function use(text: string) {
  const whole = typed.value ?? ''
  const parts = mended(whole, problem.value, text)
  typed.value = parts === whole ? text : parts
  finish()
}
function type(text: string) {
  typed.value = text
  sent = null
}
</script>

<template>
  <div class="entry" :data-pad="text ? undefined : true">
    <label v-if="!bare" :for="id">{{ label }}</label>
    <el-input
      :id="id"
      :model-value="shown"
      :aria-label="bare ? label : undefined"
      autocomplete="off"
      :placeholder="placeholder"
      :inputmode="text ? 'text' : 'decimal'"
      v-bind="refusedBy(id, problem)"
      @update:model-value="type"
      @keydown.enter.prevent="finish(true)"
      @blur="finish()"
    >
      <template v-if="suffix" #suffix>{{ suffix }}</template>
    </el-input>
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
</style>
