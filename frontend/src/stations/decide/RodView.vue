<script setup lang="ts">
/** The rod itself: strength beside others, room in the head, cutting from tube. */
import { decimal, t } from '../../kit/words'
import { computed, ref } from 'vue'
import {
  answer,
  api,
  problemOf,
  type Build,
  type Pressed,
  type Problem,
  type RodFigures,
} from '../../api/client'
import ChoiceRow from '../../kit/ChoiceRow.vue'
import FigureEntry from '../../kit/FigureEntry.vue'
import NumberEntry from '../../kit/NumberEntry.vue'
import ProblemNote from '../../kit/ProblemNote.vue'
import { mended, refusedBy } from '../../kit/refused'
import { length, small } from '../../kit/format'
import { usePrefs } from '../../kit/prefs'
import type { Keeper } from '../useKeeper'
import { useRules } from '../builds'
import { useRod } from './useDecide'

const props = defineProps<{ build: Build; keeper: Keeper }>()
const { unit } = usePrefs()
const { data: rod } = useRod(() => props.build.id)
function change(made: (figures: RodFigures) => Partial<RodFigures>) {
  const shown = rod.value?.figures
  if (!shown) return
  void props.keeper.keep({
    rod: ({ rod: own }) => ({ ...(own ?? shown), ...made(own ?? shown) }),
  })
}
const keep = (values: Partial<RodFigures>) => change(() => values)
const { data: rules } = useRules()
const diameters = computed(() => sizes(rules.value?.diameters))
const walls = computed(() => sizes(rules.value?.walls))
const sizes = (list: { size_in: number; words: string }[] = []) =>
  list.map(({ size_in, words }) => ({ value: size_in, words }))
const forms = computed(
  () => (rules.value?.forms ?? []) as { value: RodFigures['form']; words: string }[],
)
const others = computed(() => rod.value?.figures.others ?? [])
type Other = NonNullable<RodFigures['others']>[number]
const same = (a: Other, b: Other) =>
  a.diameter_in === b.diameter_in && a.wall_in === b.wall_in && a.form === b.form
/** Compared once, however often it is pressed before the answer. */
function compare(diameter_in: number) {
  change(({ wall_in, form, others = [] }) => {
    const own = { diameter_in, wall_in, form }
    return others.length < 3 && !others.some((o) => same(o, own))
      ? { others: [...others, own] }
      : {}
  })
}
function drop(i: number) {
  const gone = others.value[i - 1]
  if (gone) change(({ others }) => ({ others: others?.filter((o) => !same(o, gone)) }))
}
const typed = ref('')
const refused = ref<Problem | null>(null)
const pressed = ref<Pressed[]>([])
async function press() {
  try {
    pressed.value = await answer(
      api.POST('/api/builds/{build_id}/cut-list/pressed', {
        params: { path: { build_id: props.build.id } },
        body: { rods: typed.value, unit: unit.value },
      }),
    )
    refused.value = null
  } catch (thrown) {
    refused.value = problemOf(thrown)
  }
}
const sizeWords = (d: number) =>
  diameters.value.find((o) => Math.abs(o.value - d) < 1e-5)?.words ?? decimal(d.toFixed(4))
const most = computed(() => Math.max(...(rod.value?.strengths.map((s) => s.lift_lost_in) ?? [1])))
</script>

<template>
  <div v-if="rod" class="rod">
    <section>
      <h2>{{ t('Rod') }}</h2>
      <ChoiceRow
        :label="t('Diameter')"
        :options="diameters"
        :model-value="rod.figures.diameter_in"
        @update:model-value="keep({ diameter_in: $event })"
      />
      <ChoiceRow
        :label="t('Wall')"
        :options="walls"
        :model-value="rod.figures.wall_in"
        @update:model-value="keep({ wall_in: $event })"
      />
      <ChoiceRow
        :label="t('Form')"
        :options="forms"
        :model-value="rod.figures.form"
        @update:model-value="keep({ form: $event })"
      />
      <label class="switch">
        <el-switch
          :model-value="rod.figures.guide_plates"
          :aria-label="t('It runs in guide plates')"
          @update:model-value="keep({ guide_plates: Boolean($event) })"
        />
        {{ t('It runs in guide plates') }}
      </label>
      <label class="switch">
        <el-switch
          :model-value="rod.figures.hardened"
          :aria-label="t('Hardened')"
          @update:model-value="keep({ hardened: Boolean($event) })"
        />
        {{
          t('Hardened{guide_plates}', {
            guide_plates:
              rod.figures.guide_plates && !rod.figures.hardened
                ? t(': guide plates ask for it')
                : '',
          })
        }}
      </label>
      <FigureEntry
        :label="t('Spring force at full lift')"
        suffix="lbf"
        optional
        :model-value="rod.figures.spring_lbf ?? null"
        @keep-number="keep({ spring_lbf: $event })"
      />
      <ProblemNote :problem="keeper.refusalOf('rod')" />
      <h2>{{ t('Room in the head') }}</h2>
      <div class="pair">
        <NumberEntry
          :label="t('Rod tried, diameter')"
          field="rod_diameter"
          optional
          :model-value="rod.figures.trial_diameter_in ?? null"
          @update:model-value="keep({ trial_diameter_in: $event })"
        />
        <NumberEntry
          :label="t('Least gap beside it, whole turn')"
          field="clearance"
          optional
          :model-value="rod.figures.clearance_in ?? null"
          @update:model-value="keep({ clearance_in: $event })"
        />
        <NumberEntry
          :label="t('Gap wanted')"
          field="clearance"
          :model-value="rod.figures.wanted_clearance_in"
          @update:model-value="keep({ wanted_clearance_in: $event ?? 0.03 })"
        />
      </div>
      <p v-if="rod.room" class="said">
        {{ t('Largest that clears:') }} <b>{{ length(rod.room.largest_in, unit) }}</b>,
        {{
          rod.room.usual
            ? t('{usual} of the usual ones', { usual: rod.room.usual })
            : t('none of the usual ones')
        }}
      </p>
    </section>
    <section class="wide">
      <h2>{{ t('Under the open springs') }}</h2>
      <p v-if="!rod.strengths.length" class="quiet">
        {{
          t(
            'Enter the spring force at full lift: load, buckling, the lift it costs and mass follow.',
          )
        }}
      </p>
      <table v-else>
        <thead>
          <tr>
            <th scope="col">
              {{ t('{length} between centres', { length: length(rod.length_in, unit) }) }}
            </th>
            <th v-for="(s, i) in rod.strengths" :key="i" scope="col">
              {{ sizeWords(s.diameter_in) }} × {{ decimal(s.wall_in.toFixed(3)) }}
              <span v-if="s.form === 'three_piece'">{{ t(', 3 piece') }}</span>
              <button
                v-if="i"
                type="button"
                :aria-label="t('Drop rod {i}', { i: i + 1 })"
                @click="drop(i)"
              >
                ✕
              </button>
            </th>
          </tr>
        </thead>
        <tbody>
          <tr>
            <th scope="row">{{ t('static load') }}</th>
            <td v-for="(s, i) in rod.strengths" :key="i">
              {{ s.load_lbf.toFixed(0) }} lbf <span>{{ s.load_n.toFixed(0) }} N</span>
            </td>
          </tr>
          <tr>
            <th scope="row">{{ t('Euler load') }}</th>
            <td v-for="(s, i) in rod.strengths" :key="i">
              {{ s.euler_lbf.toFixed(0) }} lbf <span>{{ s.euler_n.toFixed(0) }} N</span>
            </td>
          </tr>
          <tr>
            <th scope="row">
              {{ t('safety, {least_safety} wanted', { least_safety: rod.least_safety }) }}
            </th>
            <td v-for="(s, i) in rod.strengths" :key="i" :class="{ out: !s.enough }">
              {{ decimal(s.safety.toFixed(1)) }} {{ s.enough ? '' : t('too little') }}
            </td>
          </tr>
          <tr>
            <th scope="row">{{ t('shortens by') }}</th>
            <td v-for="(s, i) in rod.strengths" :key="i">{{ small(s.shortening_in, unit) }}</td>
          </tr>
          <tr>
            <th scope="row">{{ t('valve lift it costs') }}</th>
            <td v-for="(s, i) in rod.strengths" :key="i">
              <i :style="{ width: `${(60 * s.lift_lost_in) / most}px` }" />
              {{ small(s.lift_lost_in, unit) }}
            </td>
          </tr>
          <tr>
            <th scope="row">{{ t('mass') }}</th>
            <td v-for="(s, i) in rod.strengths" :key="i">
              {{ decimal(s.mass_oz.toFixed(2)) }} oz <span>{{ s.mass_g.toFixed(0) }} g</span>
            </td>
          </tr>
        </tbody>
      </table>
      <div v-if="rod.strengths.length && others.length < 3" class="add">
        <span class="quiet">{{ t('Compare with') }}</span>
        <button
          v-for="size in diameters"
          :key="size.value"
          type="button"
          class="plain"
          @click="compare(size.value)"
        >
          {{ size.words }}
        </button>
      </div>
      <p v-if="rod.strengths.length" class="quiet">
        {{
          t(
            "Load = spring force × ratio, standing still. Euler: π²EI/L², pinned ends (Roark's Formulas for Stress and Strain), E 29.7 × 10⁶ psi. Inertia and bounce come on top, so the wanted safety is common practice.",
          )
        }}
      </p>
      <h2>{{ t('Cut to length') }}</h2>
      <div class="pair three">
        <NumberEntry
          :label="t('Sample, finished')"
          field="rod_length"
          optional
          :model-value="rod.figures.sample_overall_in ?? null"
          @update:model-value="keep({ sample_overall_in: $event })"
        />
        <NumberEntry
          :label="t('Its bare tube')"
          field="tube"
          optional
          :model-value="rod.figures.sample_tube_in ?? null"
          @update:model-value="keep({ sample_tube_in: $event })"
        />
        <NumberEntry
          :label="t('Bar of tube')"
          field="bar"
          :model-value="rod.figures.bar_in"
          @update:model-value="keep({ bar_in: $event ?? 72 })"
        />
        <NumberEntry
          :label="t('Saw kerf')"
          field="kerf"
          :model-value="rod.figures.kerf_in"
          @update:model-value="keep({ kerf_in: $event ?? 0.06 })"
        />
      </div>
      <p v-if="rod.cut_refusal" class="out" role="alert">{{ rod.cut_refusal }}</p>
      <template v-if="rod.cut_list">
        <p class="said">
          {{ t('The tips add') }} <b>{{ small(rod.cut_list.added_in, unit) }}</b>;
          {{ rod.cut_list.bars }}
          {{ rod.cut_list.bars === 1 ? t('bar') : t('bars') }}
          <template v-if="rod.cut_list.bars === rod.cut_list.least_bars">{{
            t('(no fewer will do)')
          }}</template>
          <a
            class="plain"
            :href="`/api/builds/${build.id}/cut-list.pdf?unit=${unit}`"
            target="_blank"
            rel="noopener"
            >{{ t('Cut list (PDF)') }}</a
          >
          <a class="plain" :href="`/api/builds/${build.id}/cut-list.csv`" download>CSV</a>
        </p>
        <ol class="cuts">
          <li v-for="c in rod.cut_list.cuts" :key="c.valve">
            <b>{{ c.valve }}</b>
            {{ t('bar {bar}: {tube}', { bar: c.bar, tube: length(c.tube_in, unit) }) }}
          </li>
        </ol>
        <form class="pressed" @submit.prevent="press">
          <label>
            {{ t('After pressing, measured in this order') }}
            <el-input
              v-model="typed"
              v-bind="refusedBy('pressed', refused)"
              autocomplete="off"
              :aria-label="t('Pressed lengths')"
            />
          </label>
          <NumberEntry
            :label="t('Within ±')"
            field="tolerance"
            :model-value="rod.figures.cut_tolerance_in"
            @update:model-value="keep({ cut_tolerance_in: $event ?? 0.005 })"
          />
          <button type="submit" class="plain" :disabled="!typed.trim()">{{ t('Check') }}</button>
        </form>
        <ProblemNote
          id="pressed-why"
          :problem="refused"
          @use="((typed = mended(typed, refused, $event)), void press())"
        />
        <p v-for="p in pressed" :key="p.valve" class="said" :class="{ out: !p.within }">
          <b>{{ p.valve }}</b> {{ length(p.measured_in, unit) }},
          {{ small(Math.abs(p.off_in), unit) }} {{ p.off_in > 0 ? t('long') : t('short') }}:
          {{ p.within ? t('within') : t('outside') }}
        </p>
      </template>
    </section>
  </div>
</template>

<style scoped src="../setup/section.css"></style>

<style scoped>
.rod {
  display: grid;
  grid-template-columns: 340px minmax(0, 1fr);
  gap: 36px;
}
.switch {
  display: flex;
  align-items: center;
  gap: 10px;
  min-height: 44px;
  font-size: 16px;
  color: var(--ink);
}
tbody th {
  font-weight: 400;
}
tbody th,
td span {
  color: var(--quiet);
  font-size: 14px;
}
thead th + th {
  font-weight: 600;
}
thead button {
  min-width: 44px;
  min-height: 44px;
  border: 0;
  background: none;
  color: var(--quiet);
  cursor: pointer;
}
td i {
  display: inline-block;
  height: 10px;
  margin-right: 6px;
  background: var(--accent);
}
.out {
  color: var(--alarm-ink);
}
.add {
  display: flex;
  gap: 8px;
  align-items: center;
  flex-wrap: wrap;
}
.said {
  margin: 0;
}
.pressed {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 16px;
  align-items: end;
}
.pressed label .el-input {
  display: flex;
  width: 320px;
}
.three {
  grid-template-columns: repeat(4, minmax(0, 1fr));
}
.cuts {
  columns: 3;
  margin: 0;
  padding-left: 22px;
  font-variant-numeric: tabular-nums;
}
@container station (max-width: 860px) {
  .rod,
  .three {
    grid-template-columns: minmax(0, 1fr);
  }
  .cuts {
    columns: 1;
  }
  .wide {
    overflow-x: auto;
  }
}
</style>
