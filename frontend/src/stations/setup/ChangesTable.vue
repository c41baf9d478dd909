<script setup lang="ts">
/** Dimensions that went up by so much, intakes and exhausts, with how well that is known. */
import { t } from '../../kit/words'
import { ref } from 'vue'
import type { PriorFigures } from '../../api/client'
import NumberEntry from '../../kit/NumberEntry.vue'
import { useRules } from '../builds'

type Changes = PriorFigures['changes']
type Change = keyof Changes
type Row = NonNullable<Changes[Change]>

const props = withDefaults(
  defineProps<{
    changes: Changes
    label: string
    /** Tells the fields of one table from those of another on the same page. */
    prefix?: string
  }>(),
  { prefix: '' },
)
const emit = defineEmits<{ keep: [change: (changes: Changes) => Changes] }>()
const { data: rules } = useRules()
const FIELDS = ['intake_in', 'exhaust_in', 'within_in'] as const
const WORDS = { intake_in: t('intake'), exhaust_in: t('exhaust'), within_in: t('within') }

const rowOf = (changes: Changes, change: Change): Row =>
  changes[change] ?? { intake_in: 0, exhaust_in: 0, within_in: 0 }
const row = (change: Change) => rowOf(props.changes, change)
/** An exhaust that is as its intake goes with it. */
const brought = ref<Partial<Record<Change, number>>>({})
function keep(change: Change, values: Partial<Row>) {
  if (values.intake_in !== undefined) brought.value[change] = values.intake_in
  emit('keep', (changes) => {
    const before = rowOf(changes, change)
    const both = values.intake_in !== undefined && before.intake_in === before.exhaust_in
    const next = { ...before, ...values, ...(both ? { exhaust_in: values.intake_in ?? 0 } : {}) }
    return { ...changes, [change]: next }
  })
}
</script>

<template>
  <table :aria-label="label">
    <thead>
      <tr>
        <th scope="col">{{ t('Up by this much') }}</th>
        <th scope="col">{{ t('Intake') }}</th>
        <th scope="col">{{ t('Exhaust') }}</th>
        <th scope="col">±</th>
      </tr>
    </thead>
    <tbody>
      <tr v-for="c in rules?.changes ?? []" :key="c.value">
        <th scope="row">{{ c.words }}</th>
        <td v-for="field in FIELDS" :key="field">
          <NumberEntry
            bare
            :label="`${prefix}${c.words} ${WORDS[field]}`"
            :field="field === 'within_in' ? 'within' : 'change'"
            :brought="field === 'exhaust_in' ? brought[c.value as Change] : undefined"
            :model-value="row(c.value as Change)[field]"
            @update:model-value="keep(c.value as Change, { [field]: $event ?? 0 })"
          />
        </td>
      </tr>
    </tbody>
  </table>
</template>

<style scoped>
th {
  font-weight: 400;
  font-size: 14px;
  text-align: left;
  color: var(--quiet);
  padding: 2px 4px 2px 0;
  line-height: 1.2;
}
thead th + th {
  padding-left: 6px;
}
th,
td {
  border: 0;
}
td {
  padding: 2px 0 2px 4px;
  vertical-align: top;
}
.said {
  margin: 0;
  font-variant-numeric: tabular-nums;
}
</style>
