<script setup lang="ts">
/** Add or correct a checking rod, a caliper or an indicator. */
import { t } from '../../kit/words'
import { computed, nextTick, reactive, ref, watch } from 'vue'
import {
  answer,
  api,
  problemOf,
  type Convention,
  type Instrument,
  type Problem,
} from '../../api/client'
import { CONVENTION_LIST } from '../../kit/format'
import ChoiceRow from '../../kit/ChoiceRow.vue'
import { allRead } from '../../kit/entries'
import FigureEntry from '../../kit/FigureEntry.vue'
import NumberEntry from '../../kit/NumberEntry.vue'
import ProblemNote from '../../kit/ProblemNote.vue'
import PickOne from '../../kit/PickOne.vue'
import { goToRefused } from '../../kit/refused'
import { useInstrumentKept } from '../builds'

const open = defineModel<boolean>({ required: true })
const props = defineProps<{ instrument: Instrument | null }>()
const emit = defineEmits<{ kept: [instrument: Instrument] }>()
const kept = useInstrumentKept()

const draft = reactive({
  id: '',
  kind: 'checking_rod' as Instrument['kind'],
  name: '',
  convention: 'theoretical' as Convention,
  closed_in: null as number | null,
  pitch_in: 0.05 as number | null,
  most_turns: 20 as number | null,
  low_in: 0 as number | null,
  high_in: 12 as number | null,
  accuracy_in: null as number | null,
  resolution_in: null as number | null,
})
const problem = ref<Problem | null>(null)
const form = ref<HTMLFormElement>()
const KINDS = [
  { value: 'checking_rod', words: t('Checking rod') },
  { value: 'caliper', words: t('Caliper') },
  { value: 'indicator', words: t('Indicator') },
] as const satisfies { value: string; words: string }[]
const isRod = computed(() => draft.kind === 'checking_rod')
const kindWords = computed(() => KINDS.find((k) => k.value === draft.kind)?.words ?? '')

watch(open, (now) => {
  if (!now) return
  problem.value = null
  const fresh = {
    id: crypto.randomUUID(),
    kind: 'checking_rod',
    name: '',
    convention: 'theoretical',
    closed_in: null,
    pitch_in: 0.05,
    most_turns: 20,
    low_in: 0,
    high_in: 12,
    accuracy_in: null,
    resolution_in: null,
  }
  Object.assign(draft, fresh, props.instrument ?? {})
})

// What was refused is being mended: the refusal was of what stood there.
watch(draft, () => (problem.value = null))

function refusalOf(field: string) {
  return problem.value?.field === field ? problem.value : null
}

/** A refusal of what has no field of its own. */
const unplaced = computed(() =>
  ['closed_in', 'most_turns', 'high_in'].includes(problem.value?.field ?? '')
    ? null
    : problem.value,
)

async function keep() {
  problem.value = null
  await allRead()
  await nextTick()
  if (goToRefused(form.value)) return
  const { id, kind, convention, accuracy_in, resolution_in } = draft
  const { closed_in, pitch_in, most_turns, low_in, high_in } = draft
  const own = {
    checking_rod: { closed_in, pitch_in, most_turns },
    caliper: { low_in, high_in, resolution_in },
    indicator: { resolution_in },
  }[kind]
  const name = draft.name.trim() || kindWords.value
  const body = { name, convention, accuracy_in, ...own }
  try {
    const instrument = props.instrument
      ? await answer(
          api.PATCH('/api/instruments/{instrument_id}', {
            params: { path: { instrument_id: id } },
            body: { ...body, version: props.instrument.version },
          }),
        )
      : await answer(api.POST('/api/instruments', { body: { id, kind, ...body } }))
    kept(instrument)
    emit('kept', instrument)
    open.value = false
  } catch (error) {
    problem.value = problemOf(error)
    await nextTick()
    goToRefused(form.value)
  }
}
</script>

<template>
  <el-dialog
    v-model="open"
    align-center
    destroy-on-close
    :title="instrument ? t('Correct the instrument') : t('Add an instrument')"
    width="min(480px, 94vw)"
  >
    <form ref="form" @submit.prevent="keep">
      <ChoiceRow
        v-if="!instrument"
        v-model="draft.kind"
        quiet
        :label="t('Kind')"
        :options="KINDS"
      />
      <label for="instrument-name">{{ t('Name') }}</label>
      <el-input
        id="instrument-name"
        v-model="draft.name"
        maxlength="80"
        autocomplete="off"
        :placeholder="kindWords"
      />
      <template v-if="isRod">
        <NumberEntry
          v-model="draft.closed_in"
          :label="t(`Closed length (maker's figure)`)"
          field="closed_length"
          :refusal="refusalOf('closed_in')"
        />
        <NumberEntry
          v-model="draft.pitch_in"
          :label="t('Per turn (0.050 on most: 20 threads an inch)')"
          field="thread_pitch"
        />
        <FigureEntry
          :label="t('Turns it opens')"
          :model-value="draft.most_turns"
          :refusal="refusalOf('most_turns')"
          @keep-number="draft.most_turns = $event"
        />
      </template>
      <template v-else-if="draft.kind === 'caliper'">
        <NumberEntry v-model="draft.low_in" :label="t('Reads from')" field="caliper_low" />
        <NumberEntry
          v-model="draft.high_in"
          :label="t('Reads to')"
          field="caliper_high"
          :refusal="refusalOf('high_in')"
        />
      </template>
      <NumberEntry
        v-model="draft.accuracy_in"
        :label="t('Stated accuracy, ± (empty when none is stated)')"
        field="accuracy"
        optional
      />
      <NumberEntry
        v-if="!isRod"
        v-model="draft.resolution_in"
        :label="t('Resolution, one step of its display (empty when not known)')"
        field="resolution"
        optional
      />
      <template v-if="draft.kind !== 'indicator'">
        <label for="instrument-convention">{{ t('Its figures are') }}</label>
        <PickOne
          id="instrument-convention"
          v-model="draft.convention"
          :label="t('Its figures are')"
          :options="CONVENTION_LIST"
        />
        <p class="quiet">
          {{ t("Trust the maker's closed length plus turns; a caliper over the tips reads more.") }}
        </p>
      </template>
      <ProblemNote :problem="unplaced" />
      <button type="submit" class="plain strong">
        {{ instrument ? t('Keep the correction') : t('Add it') }}
      </button>
    </form>
  </el-dialog>
</template>

<style scoped>
form {
  display: flex;
  flex-direction: column;
  gap: 8px;
}
label,
.quiet {
  color: var(--quiet);
  font-size: 14px;
  margin: 0;
}
</style>
