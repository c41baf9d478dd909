<script setup lang="ts">
/** What intakes and exhausts would buy by themselves, on the ladder, cold and hot. */
import { t } from '../../kit/words'
import type { Build, Decision, Group } from '../../api/client'
import LengthLadder from '../../drawings/ladder/LengthLadder.vue'
import FigureButton from '../../kit/FigureButton.vue'
import { bareLength, length, small, smallSpan } from '../../kit/format'
import { usePrefs } from '../../kit/prefs'
import ProblemNote from '../../kit/ProblemNote.vue'
import VerdictNote from '../../kit/VerdictNote.vue'
import { ladderOf } from '../ladder'
import { useKeeper } from '../useKeeper'

const props = defineProps<{ build: Build; decision: Decision | null }>()
const { unit } = usePrefs()
const keeper = useKeeper(() => props.build.id)

const pick = (group: Group, inches: number | null) =>
  keeper.keep(
    group.kind === 'intake' ? { picked_intake_in: inches } : { picked_exhaust_in: inches },
  )

function zeroOf(group: Group): number | null {
  return group.exact_in === null ? null : (group.explanations.exact?.lengths.z ?? null)
}
function notchesOf(group: Group) {
  const shown = group.candidates.map((c) => ({
    axis: c.axis_in,
    label: c.length_in,
    inside: c.inside,
    best: c.length_in === group.taken?.length_in,
  }))
  const own = group.taken
  if (own && !shown.some((n) => n.best))
    shown.push({ axis: own.axis_in, label: own.length_in, inside: own.inside, best: true })
  return shown
}
function preload(c: { preload_low_in: number; preload_high_in: number }): string {
  const { preload_low_in: low, preload_high_in: high } = c
  if (high < 0) return t('loose by {high}', { high: small(-high, unit.value) })
  return high - low < 1e-6 ? small(low, unit.value) : smallSpan(low, high, unit.value)
}
</script>

<template>
  <div class="order">
    <ProblemNote :problem="keeper.refusalOf('picked_intake_in', 'picked_exhaust_in')" />
    <p v-if="decision && decision.mode !== 'length'" class="note">
      {{
        t(
          'The adjuster sets it on the engine: preload here holds with the adjuster where it was measured.',
        )
      }}
    </p>
    <section
      v-for="group in build.groups"
      :key="group.kind"
      class="group"
      :aria-label="t(group.kind)"
    >
      <div class="words">
        <h2>
          <span class="letter" :class="group.kind">{{
            group.kind === 'intake' ? 'I' : 'E'
          }}</span>{{ group.quantity }} {{ t(group.kind) }}
        </h2>
        <VerdictNote :verdict="group.verdict" />
        <div v-if="group.exact_in !== null" class="figures">
          <FigureButton
            :label="t('Exact')"
            :value="length(group.exact_in, unit)"
            :explanation="group.explanations.order ?? group.explanations.exact"
          />
          <FigureButton
            v-if="group.taken"
            :label="t('Preload')"
            :value="preload(group.taken)"
            :explanation="group.explanations.fit"
          />
          <FigureButton
            v-if="group.taken"
            :label="t('Off bottom')"
            :value="small(group.taken.off_bottom_in, unit)"
            :explanation="group.explanations.fit"
          />
        </div>
      </div>
      <div v-if="group.exact_in !== null" class="choice">
        <LengthLadder
          v-bind="ladderOf(build)"
          compact
          :unit="unit"
          :trials="[]"
          :rod="null"
          :next="null"
          :expected="null"
          :loose="null"
          :tight="null"
          :zero="zeroOf(group)"
          :spread="null"
          :ratio="1"
          :notches="notchesOf(group)"
          :hot="decision?.growth[group.kind]?.change_in ?? null"
        />
        <div
          class="candidates"
          role="group"
          :aria-label="t('{kind} lengths', { kind: t(group.kind) })"
        >
          <button
            v-for="c in group.candidates"
            :key="c.length_in"
            type="button"
            class="candidate"
            :class="{ taken: c.length_in === group.taken?.length_in, outside: !c.inside }"
            :aria-pressed="c.length_in === group.taken?.length_in"
            @click="pick(group, c.best ? null : c.length_in)"
          >
            <b>{{ bareLength(c.length_in, unit) }}</b>
            <span>{{ preload(c) }}</span>
            <span
              >{{ c.inside ? t('inside') : t('outside') }},
              {{
                c.errs === 'exact' ? t('exact') : `${small(Math.abs(c.miss_in), unit)} ${t(c.errs)}`
              }}</span
            >
          </button>
        </div>
        <button v-if="group.picked" type="button" class="plain" @click="pick(group, null)">
          {{ t('Back to the nearest that fits') }}
        </button>
      </div>
      <RouterLink
        v-else
        class="plain"
        :to="{
          name: 'zero_lash',
          params: {
            buildId: build.id,
            valveId: build.valves.find((v) => v.kind === group.kind)?.id,
          },
        }"
        >{{ t('Measure') }}</RouterLink
      >
    </section>
  </div>
</template>

<style scoped>
.order {
  display: flex;
  flex-direction: column;
  gap: 16px;
}
.group {
  display: grid;
  grid-template-columns: 400px 1fr;
  gap: 28px;
  padding-top: 14px;
  border-top: 1px solid var(--rule);
  align-items: start;
}
.words,
.choice {
  display: flex;
  flex-direction: column;
  gap: 10px;
  min-width: 0;
}
h2 {
  display: flex;
  align-items: center;
  gap: 10px;
  margin: 0;
  font-size: 21px;
}
.letter {
  width: 30px;
  height: 30px;
  line-height: 27px;
  text-align: center;
  font-size: 17px;
  border: 2px solid var(--intake);
  border-radius: 50%;
}
.letter.exhaust {
  border-color: var(--exhaust);
  border-radius: 3px;
}
.figures {
  display: flex;
  gap: 26px;
  flex-wrap: wrap;
}
.candidates {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
}
.candidate {
  display: flex;
  flex-direction: column;
  align-items: flex-start;
  min-height: 44px;
  padding: 6px 12px;
  font: inherit;
  font-size: 15px;
  font-variant-numeric: tabular-nums;
  color: var(--ink);
  background: var(--paper);
  border: 1.5px solid var(--rule);
  cursor: pointer;
}
.candidate b {
  font-size: 19px;
}
.candidate span {
  color: var(--quiet);
}
.outside {
  border-style: dashed;
  background: none;
}
.taken {
  border: 3px solid var(--accent);
  padding: 4.5px 10.5px;
}
@container station (max-width: 1060px) {
  .group {
    grid-template-columns: 1fr;
    gap: 12px;
  }
}
.group > .plain {
  width: fit-content;
}
</style>
