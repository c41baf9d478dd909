<script setup lang="ts">
/** A figure that opens: the formula, the numbers put in, where it comes from. */
import { t } from './words'
import { useEventListener } from '@vueuse/core'
import type { Explanation } from '../api/client'
import { fill } from './format'
import { usePrefs } from './prefs'

const props = defineProps<{
  label: string
  value: string
  explanation?: Explanation
  big?: boolean
}>()
const { unit } = usePrefs()
function filled(text: string): string {
  const { lengths = {}, smalls = {}, pitches = {} } = props.explanation ?? {}
  return fill(text, lengths, smalls, unit.value, pitches)
}
const open = defineModel<boolean>('open', { default: false })
useEventListener(
  () => (open.value ? window : null),
  'keydown',
  (event: KeyboardEvent) => {
    if (event.key === 'Escape') open.value = false
  },
)
</script>

<template>
  <div class="figure" :class="{ big }">
    <span v-if="label" class="label">{{ label }}</span>
    <el-popover
      v-if="explanation"
      v-model:visible="open"
      trigger="click"
      :width="340"
      placement="top"
      :persistent="false"
    >
      <template #reference>
        <button
          type="button"
          class="value"
          :aria-label="t('{label} {value}: how it comes about', { label, value }).trim()"
        >
          {{ value }}
        </button>
      </template>
      <div class="explain">
        <b>{{ explanation.title }}</b>
        <p class="formula">{{ explanation.formula }}</p>
        <p class="numbers">
          {{ filled(explanation.numbers) }}
        </p>
        <p v-for="note in explanation.notes" :key="note">
          {{ filled(note) }}
        </p>
        <p class="source">{{ t(explanation.source_kind) }}: {{ explanation.source }}</p>
      </div>
    </el-popover>
    <span v-else class="value still">{{ value }}</span>
  </div>
</template>

<style scoped>
.figure {
  display: flex;
  flex-direction: column;
  gap: 1px;
}
.label {
  color: var(--quiet);
  font-size: 14px;
  margin-bottom: -8px;
}
.value {
  font: inherit;
  font-size: 21px;
  font-weight: 600;
  font-variant-numeric: tabular-nums;
  color: var(--ink);
  background: none;
  border: 0;
  text-decoration: underline dotted 1.5px var(--quiet);
  text-underline-offset: 5px;
  min-height: 44px;
  min-width: 44px;
  padding: 0;
  text-align: left;
  cursor: help;
  width: fit-content;
  white-space: nowrap;
  display: inline-flex;
  align-items: center;
}
.still {
  text-decoration: none;
  cursor: default;
}
.big .value {
  font-size: 34px;
  line-height: 1.1;
}
.explain p {
  margin: 6px 0 0;
  line-height: 1.4;
  text-align: left;
  word-break: normal;
}
.formula {
  color: var(--quiet);
}
.numbers {
  font-weight: 600;
  font-size: 16px;
  color: var(--ink);
}
.source {
  font-size: 13px;
  color: var(--quiet);
}
</style>
