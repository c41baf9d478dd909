<script setup lang="ts">
/** The cam card, and measured lobes in its place. The figures are drafted until they make a card. */
import { t } from '../../kit/words'
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { answer, api, problemOf, type Build, type CamFigures, type Problem } from '../../api/client'
import LobeCurve from '../../drawings/LobeCurve.vue'
import CurveValues from '../../kit/CurveValues.vue'
import { allRead } from '../../kit/entries'
import FilePick from '../../kit/FilePick.vue'
import FigureEntry from '../../kit/FigureEntry.vue'
import { degrees, small } from '../../kit/format'
import { usePrefs } from '../../kit/prefs'
import NumberEntry from '../../kit/NumberEntry.vue'
import ProblemNote from '../../kit/ProblemNote.vue'
import { keepBuild } from '../builds'
import type { Keeper } from '../useKeeper'

const props = defineProps<{ build: Build; keeper: Keeper }>()
const client = useQueryClient()
const { unit } = usePrefs()
type Lobe = CamFigures['intake']
type Draft = { intake: Partial<Lobe>; exhaust: Partial<Lobe>; icl_deg?: number; lsa_deg?: number }

const draft = ref<Draft>({ intake: {}, exhaust: {} })
const cardOf = ({ cam }: Build, drafted: Draft): Draft => ({
  intake: { advertised_at_in: 0.006, ...cam?.intake, ...drafted.intake },
  exhaust: { advertised_at_in: 0.006, ...cam?.exhaust, ...drafted.exhaust },
  icl_deg: drafted.icl_deg ?? cam?.icl_deg,
  lsa_deg: drafted.lsa_deg ?? cam?.lsa_deg,
})
const card = computed(() => cardOf(props.build, draft.value))
const NEEDED = ['advertised_deg', 'advertised_at_in', 'duration_050_deg', 'lobe_lift_in'] as const
const missing = computed(
  () =>
    KINDS.flatMap((k) => NEEDED.filter((f) => card.value[k][f] === undefined)).length +
    Number(card.value.icl_deg === undefined) +
    Number(card.value.lsa_deg === undefined),
)
const KINDS = ['intake', 'exhaust'] as const
const started = computed(
  () => props.build.cam !== null || JSON.stringify(draft.value) !== '{"intake":{},"exhaust":{}}',
)

async function keep(change: (d: Draft) => Draft) {
  draft.value = change(draft.value)
  if (missing.value) return
  const sent = draft.value
  if (!(await props.keeper.keep({ cam: (build) => cardOf(build, sent) as CamFigures }))) return
  // What was typed since is still to be kept.
  if (draft.value === sent) draft.value = { intake: {}, exhaust: {} }
}
const keepLobe = (kind: 'intake' | 'exhaust', values: Partial<Lobe>) =>
  keep((d) => ({ ...d, [kind]: { ...d[kind], ...values } }))
async function sameAsIntake() {
  if (!(await allRead())) return
  await keepLobe('exhaust', card.value.intake)
}
function remove() {
  draft.value = { intake: {}, exhaust: {} }
  void props.keeper.keep({ cam: null, lobe_tables: null } as never)
}

const { data: curves } = useQuery({
  queryKey: computed(() => ['lobes', props.build.cam]),
  enabled: computed(() => Boolean(props.build.cam)),
  queryFn: () =>
    Promise.all(
      KINDS.map((kind) =>
        answer(api.POST('/api/compute/lobe', { body: (props.build.cam as CamFigures)[kind] })),
      ),
    ),
})

const lobeRows = () =>
  KINDS.flatMap((kind, k) =>
    (curves.value?.[k]?.angle_deg ?? []).map((at, i) => [
      t(kind),
      degrees(at, 0),
      small(curves.value?.[k]?.lift_in[i] ?? 0, unit.value),
    ]),
  )
const problem = ref<Problem | null>(null)
const tableUrl = (kind: string) => `/api/builds/${props.build.id}/cam/${kind}.csv`
async function keepTable(kind: 'intake' | 'exhaust', csv: string | null) {
  try {
    const params = { path: { build_id: props.build.id, kind } }
    const body = { version: props.build.version, csv }
    keepBuild(client, await answer(api.PUT('/api/builds/{build_id}/cam/{kind}', { params, body })))
    problem.value = null
  } catch (error) {
    problem.value = problemOf(error)
  }
}
</script>

<template>
  <section id="cam">
    <h2>{{ t('Cam card') }}</h2>
    <LobeCurve
      v-if="build.cam && curves"
      :unit="unit"
      :lobes="
        KINDS.map((kind, i) => ({
          kind,
          centre:
            kind === 'intake' ? build.cam!.icl_deg : build.cam!.icl_deg - 2 * build.cam!.lsa_deg,
          angle: curves![i]?.angle_deg ?? [],
          lift: curves![i]?.lift_in ?? [],
        }))
      "
    />
    <CurveValues
      v-if="build.cam && curves"
      :title="t('Lobe lift over the cam')"
      :heads="[t('Lobe'), t('Crank from its middle'), t('Lift')]"
      :rows="lobeRows"
    />
    <p v-if="build.cam" class="quiet">
      {{
        t('A model: it meets both durations and the lift of the card. A measured lobe is truer.')
      }}
    </p>
    <div class="pair">
      <template v-for="kind in KINDS" :key="kind">
        <div class="lobe" role="group" :aria-label="t('{kind} lobe', { kind: t(kind) })">
          <b>{{ kind === 'intake' ? t('Intake') : t('Exhaust') }}</b>
          <FigureEntry
            :label="t('Advertised duration')"
            :suffix="t('° crank')"
            :model-value="card[kind].advertised_deg ?? null"
            @keep-number="keepLobe(kind, { advertised_deg: $event ?? 0 })"
          />
          <NumberEntry
            :label="t('…at a lobe lift of')"
            field="advertised_at"
            :model-value="card[kind].advertised_at_in ?? null"
            @update:model-value="keepLobe(kind, { advertised_at_in: $event ?? 0 })"
          />
          <FigureEntry
            :label="t('Duration at 0.050')"
            :suffix="t('° crank')"
            :model-value="card[kind].duration_050_deg ?? null"
            @keep-number="keepLobe(kind, { duration_050_deg: $event ?? 0 })"
          />
          <NumberEntry
            :label="t('Lobe lift')"
            field="lobe_lift"
            :model-value="card[kind].lobe_lift_in ?? null"
            @update:model-value="keepLobe(kind, { lobe_lift_in: $event ?? 0 })"
          />
          <NumberEntry
            :label="t('Base circle diameter')"
            field="base_circle"
            optional
            :model-value="card[kind].base_circle_in ?? null"
            @update:model-value="keepLobe(kind, { base_circle_in: $event })"
          />
        </div>
      </template>
    </div>
    <button
      v-if="!build.cam && card.intake.advertised_deg !== undefined"
      type="button"
      class="plain"
      @click="sameAsIntake"
    >
      {{ t('Exhaust as intake') }}
    </button>
    <div class="pair">
      <FigureEntry
        :label="t('Intake lobe centre (ICL)')"
        :suffix="t('° ATDC')"
        :model-value="card.icl_deg ?? null"
        @keep-number="keep((d) => ({ ...d, icl_deg: $event ?? 0 }))"
      />
      <FigureEntry
        :label="t('Lobe separation (LSA)')"
        :suffix="t('° cam')"
        :model-value="card.lsa_deg ?? null"
        @keep-number="keep((d) => ({ ...d, lsa_deg: $event ?? 0 }))"
      />
    </div>
    <p v-if="missing && started" class="quiet" role="status">
      {{
        t('{missing} {missing2} still to enter; then the card is kept.', {
          missing,
          missing2: missing === 1 ? t('figure') : t('figures'),
        })
      }}
    </p>
    <ProblemNote :problem="keeper.refusalOf('cam')" />
    <template v-if="build.cam">
      <div v-for="kind in KINDS" :key="kind" class="table">
        <span>
          {{
            t('{kind} lobe: {kind2}', {
              kind: kind === 'intake' ? t('Intake') : t('Exhaust'),
              kind2: build.lobe_tables.includes(kind) ? t('measured table') : t('from the card'),
            })
          }}
        </span>
        <a class="plain" :href="tableUrl(kind)" download>{{ t('CSV out') }}</a>
        <FilePick
          :label="t('CSV in')"
          accept=".csv,text/csv"
          :name="t('{kind} lobe from CSV', { kind: t(kind) })"
          @picked="keepTable(kind, $event)"
        />
        <button
          v-if="build.lobe_tables.includes(kind)"
          type="button"
          class="plain"
          @click="keepTable(kind, null)"
        >
          {{ t('Use the card') }}
        </button>
      </div>
      <p class="quiet">
        {{ t('CSV: crank_deg or cam_deg, lift_in or lift_mm; one point a line.') }}
      </p>
      <ProblemNote :problem="problem" />
      <button type="button" class="plain" @click="remove">{{ t('Remove the cam card') }}</button>
    </template>
  </section>
</template>

<style scoped src="./section.css"></style>

<style scoped>
.lobe {
  display: flex;
  flex-direction: column;
  gap: 6px;
}
.table {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 6px;
}
.table span {
  flex: 1 1 150px;
}
</style>
