<script setup lang="ts">
/** What changed since the last rods that were right, and the zero lash to expect from it. */
import { t } from '../../kit/words'
import { computed } from 'vue'
import type { Build, PriorFigures } from '../../api/client'
import { CONVENTIONS, length, small } from '../../kit/format'
import { usePrefs } from '../../kit/prefs'
import NumberEntry from '../../kit/NumberEntry.vue'
import ProblemNote from '../../kit/ProblemNote.vue'
import type { Keeper } from '../useKeeper'
import ChangesTable from './ChangesTable.vue'

const props = defineProps<{ build: Build; keeper: Keeper }>()
const { unit } = usePrefs()
const KINDS = ['intake', 'exhaust'] as const
type Kind = (typeof KINDS)[number]

const of = (build: Build): PriorFigures =>
  build.prior ?? {
    convention: build.order_convention,
    intake: null,
    exhaust: null,
    changes: {},
  }
const prior = computed(() => of(props.build))
const keep = (change: (prior: PriorFigures) => Partial<PriorFigures>) =>
  props.keeper.keep({ prior: (build) => ({ ...of(build), ...change(of(build)) }) })

function keepRod(kind: Kind, rod_in: number | null) {
  if (rod_in === null) return keep(() => ({ [kind]: null }))
  const known = { preload_in: props.build.preload_target_in, within_in: 0.005 }
  return keep((prior) => ({ [kind]: { ...known, ...prior[kind], rod_in } }))
}
function keepKnown(kind: Kind, field: 'preload_in' | 'within_in', value: number | null) {
  void keep((prior) => ({ [kind]: prior[kind] && { ...prior[kind], [field]: value ?? 0 } }))
}
const predicted = (kind: Kind) => props.build.valves.find((v) => v.kind === kind) ?? null
const started = computed(() => prior.value.intake || prior.value.exhaust)
</script>

<template>
  <section id="changed">
    <h2>{{ t('What changed') }}</h2>
    <p class="quiet">
      {{
        t(
          'From the last rods that were right, the zero lash to expect: it starts the first trial and doubts a reading far from it. Rods in {CONVENTIONS}.',
          { CONVENTIONS: CONVENTIONS[prior.convention] },
        )
      }}
    </p>
    <div class="pair">
      <template v-for="kind in KINDS" :key="kind">
        <NumberEntry
          :label="t('Last {kind} rod', { kind: t(kind) })"
          field="rod_length"
          optional
          :model-value="prior[kind]?.rod_in ?? null"
          @update:model-value="keepRod(kind, $event)"
        />
      </template>
      <template v-for="kind in KINDS" :key="kind">
        <NumberEntry
          v-if="prior[kind]"
          :label="t('Its preload')"
          field="preload"
          :model-value="prior[kind]?.preload_in ?? null"
          @update:model-value="keepKnown(kind, 'preload_in', $event)"
        />
      </template>
      <template v-for="kind in KINDS" :key="kind">
        <NumberEntry
          v-if="prior[kind]"
          :label="t('Known within ±')"
          field="within"
          :model-value="prior[kind]?.within_in ?? null"
          @update:model-value="keepKnown(kind, 'within_in', $event)"
        />
      </template>
    </div>
    <ChangesTable
      v-if="started"
      :label="t('What changed')"
      :changes="prior.changes"
      @keep="(change) => keep(({ changes }) => ({ changes: change(changes) }))"
    />
    <ProblemNote :problem="keeper.refusalOf('prior')" />
    <p
      v-for="kind in KINDS.filter((k) => predicted(k)?.predicted_in != null)"
      :key="kind"
      class="said"
    >
      {{
        t('{kind} zero lash predicted', { kind: kind === 'intake' ? t('Intake') : t('Exhaust') })
      }}
      <b>{{ length(predicted(kind)?.predicted_in ?? 0, unit) }}</b> ±
      {{ small(2 * (predicted(kind)?.predicted_u_in ?? 0), unit) }} (k = 2),
      {{ CONVENTIONS[build.measuring_convention] }}
    </p>
    <p v-if="started" class="quiet">
      {{
        t(
          'Only stated limits are counted in ±. On a stud the rocker follows the valve tip; every other mount is fixed to the head.',
        )
      }}
    </p>
  </section>
</template>

<style scoped src="./section.css"></style>
