<script setup lang="ts">
/** The build's fasteners as the maker's sheet gives them, in every unit, stage by stage. */
import { decimal, language, t } from '../../kit/words'
import { ref } from 'vue'
import type { Build, SignOff, TorqueFigures } from '../../api/client'
import { takeOut } from '../../kit/entries'
import FigureEntry from '../../kit/FigureEntry.vue'
import ProblemNote from '../../kit/ProblemNote.vue'
import PickOne from '../../kit/PickOne.vue'
import type { Keeper } from '../useKeeper'
import { stagesIn } from './stages'

const props = defineProps<{ build: Build; finish: SignOff; keeper: Keeper }>()
type Fastener = TorqueFigures['fasteners'][number]
const of = (build: Build): Fastener[] => build.torque?.fasteners ?? []
const keep = (change: (fasteners: Fastener[]) => Fastener[]) =>
  props.keeper.keep({ torque: (build) => ({ fasteners: change(of(build)) }) })
const UNITS = [
  { value: 'lbf_ft', words: 'lbf·ft' },
  { value: 'lbf_in', words: 'lbf·in' },
  { value: 'N_m', words: 'N·m' },
] as const
type TorqueUnit = (typeof UNITS)[number]['value']
const name = ref('')
const unit = ref<TorqueUnit>('lbf_ft')
const stages = ref('')
const ownProblem = ref('')

async function add() {
  const read = stagesIn(stages.value, language)
  ownProblem.value = ''
  if (read.wrong !== null) {
    ownProblem.value = t(
      '“{part}” is no stage: write torques parted by semicolons, an angle with °.',
      { part: read.wrong },
    )
    return
  }
  const found = read.stages.map((stage) => ({ ...stage, unit: unit.value }))
  const own = { name: name.value.trim(), note: '', stages: found }
  const putBack = takeOut(name, stages)
  if (!(await keep((others) => [...others, own]))) putBack()
}
/** The line on the card, wherever it stands by the time its turn comes; -1 once it is gone. */
const placeOf = (all: Fastener[], shown: { name: string }, at: number) =>
  all[at]?.name === shown.name ? at : all.findIndex((f) => f.name === shown.name)
const drop = (shown: { name: string }, at: number) =>
  keep((all) => all.filter((_, i) => i !== placeOf(all, shown, at)))
const note = (shown: { name: string }, at: number, text: string) =>
  keep((all) =>
    all.map((f, i) => (i === placeOf(all, shown, at) ? { ...f, note: text.slice(0, 200) } : f)),
  )
</script>

<template>
  <section class="torque" :aria-label="t('Torque card')">
    <h2>{{ t('Torque card') }}</h2>
    <p class="caution">⚠ {{ finish.torque_caution }}</p>
    <table v-if="finish.torque.length">
      <thead>
        <tr>
          <th scope="col">{{ t('Fastener') }}</th>
          <th scope="col">{{ t('Stage') }}</th>
          <th scope="col">lbf·ft</th>
          <th scope="col">lbf·in</th>
          <th scope="col">N·m</th>
          <th scope="col">
            <span class="unseen">{{ t('Take away') }}</span>
          </th>
        </tr>
      </thead>
      <tbody v-for="(row, at) in finish.torque" :key="at">
        <tr v-for="(stage, i) in row.stages" :key="i">
          <th v-if="!i" scope="rowgroup" :rowspan="row.stages.length + 1">{{ row.name }}</th>
          <td>{{ i + 1 }}</td>
          <td v-if="stage.value === null" colspan="3">
            {{ t('turn on {angle}°', { angle: stage.angle_deg }) }}
          </td>
          <template v-else>
            <td :class="{ given: stage.unit === 'lbf_ft' }">
              {{ decimal(stage.lbf_ft?.toFixed(1) ?? '') }}
            </td>
            <td :class="{ given: stage.unit === 'lbf_in' }">{{ stage.lbf_in?.toFixed(0) }}</td>
            <td :class="{ given: stage.unit === 'N_m' }">
              {{ decimal(stage.n_m?.toFixed(1) ?? '') }}
            </td>
          </template>
          <td>
            <button
              v-if="!i"
              type="button"
              class="plain"
              :aria-label="t('Drop {name}', { name: row.name })"
              @click="drop(row, at)"
            >
              ✕
            </button>
          </td>
        </tr>
        <tr>
          <td colspan="5">
            <FigureEntry
              text
              :label="t('Note to {name}', { name: row.name })"
              :model-value="row.note"
              @keep="note(row, at, $event)"
            />
          </td>
        </tr>
      </tbody>
    </table>
    <form @submit.prevent="add">
      <label>
        {{ t('Fastener') }}
        <el-input v-model="name" :aria-label="t('Fastener')" maxlength="80" autocomplete="off" />
      </label>
      <label>
        {{ t('Stages in order, such as 15; 22; 90°') }}
        <el-input v-model="stages" :aria-label="t('Stages')" autocomplete="off" />
      </label>
      <PickOne v-model="unit" :label="t('Torque unit')" :options="UNITS" />
      <button type="submit" class="plain" :disabled="!name.trim() || !stages.trim()">
        {{ t('Add') }}
      </button>
    </form>
    <p v-if="ownProblem" role="alert" class="alarm">{{ ownProblem }}</p>
    <ProblemNote :problem="keeper.refusalOf('torque')" />
  </section>
</template>

<style scoped>
.torque {
  display: flex;
  flex-direction: column;
  gap: 8px;
}
h2 {
  margin: 0;
  font-size: 21px;
}
.caution,
label {
  margin: 0;
  font-size: 14px;
  color: var(--quiet);
}
tbody th {
  vertical-align: top;
  padding-top: 12px;
}
.given {
  font-weight: 600;
}
form {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 12px;
  align-items: end;
}
label .el-input {
  display: flex;
  width: 200px;
}
form select {
  width: 100px;
}
.alarm {
  margin: 0;
  color: var(--alarm-ink);
}
</style>
