<script setup lang="ts">
/** The shop's own rods on the shelf: they come first as trial rods and fill orders. */
import { t } from '../../kit/words'
import { computed, ref } from 'vue'
import { answer, api, problemOf, type BoxRod, type Build, type Problem } from '../../api/client'
import { CONVENTIONS, length } from '../../kit/format'
import { usePrefs } from '../../kit/prefs'
import ProblemNote from '../../kit/ProblemNote.vue'
import { refusedBy } from '../../kit/refused'
import { useBox } from './useDecide'

const props = defineProps<{ build: Build }>()
const { unit } = usePrefs()
const { data: box, keep } = useBox()
const typed = ref('')
const count = ref('1')
const problem = ref<Problem | null>(null)
let id = crypto.randomUUID()

async function add() {
  const number = Number(count.value)
  try {
    const body = {
      id,
      length: typed.value,
      unit: unit.value,
      convention: props.build.order_convention,
      diameter_in: props.build.rod?.diameter_in ?? 0.3125,
      lifter_end: props.build.lifter_end,
      rocker_end: props.build.rocker_end,
      count: Number.isInteger(number) ? number : -1,
      note: '',
    }
    keep(await answer(api.POST('/api/box', { body })))
    problem.value = null
    typed.value = ''
    id = crypto.randomUUID()
  } catch (thrown) {
    problem.value = problemOf(thrown)
  }
}
async function change(rod: BoxRod, by: number) {
  try {
    const body = { version: rod.version, count: rod.count + by }
    keep(
      await answer(api.PATCH('/api/box/{box_id}', { params: { path: { box_id: rod.id } }, body })),
    )
    problem.value = null
  } catch (thrown) {
    problem.value = problemOf(thrown)
  }
}
const shown = computed(() => box.value ?? [])
</script>

<template>
  <section class="box" :aria-label="t('Rod box')">
    <p class="quiet">
      {{
        t(
          "Rods with this build's ends and diameter are weighed like stock where there are enough of them. A fitted rod leaves the box, one that comes back returns to it.",
        )
      }}
    </p>
    <form data-pad @submit.prevent="add">
      <label>
        {{ t('Length, {CONVENTIONS}', { CONVENTIONS: CONVENTIONS[build.order_convention] }) }}
        <el-input
          v-model="typed"
          v-bind="refusedBy('box', problem, typed)"
          autocomplete="off"
          :aria-label="t('Length of the rods')"
        >
          <template #suffix>{{ unit }}</template>
        </el-input>
      </label>
      <label>
        {{ t('How many') }}
        <el-input
          v-model="count"
          v-bind="refusedBy('box', problem?.field === 'count' ? problem : null)"
          inputmode="numeric"
          autocomplete="off"
          :aria-label="t('How many')"
        />
      </label>
      <button type="submit" class="plain strong">{{ t('Put in the box') }}</button>
    </form>
    <ProblemNote id="box-why" :problem="problem" @use="((typed = $event), void add())" />
    <p v-if="!shown.length" class="none">{{ t('The box is empty.') }}</p>
    <table v-else>
      <thead>
        <tr>
          <th scope="col">{{ t('Length') }}</th>
          <th scope="col">{{ t('Convention') }}</th>
          <th scope="col">{{ t('Diameter') }}</th>
          <th scope="col">{{ t('Ends') }}</th>
          <th scope="col">{{ t('Count') }}</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="rod in shown" :key="rod.id">
          <th scope="row">{{ length(rod.length_in, unit) }}</th>
          <td>{{ CONVENTIONS[rod.convention] }}</td>
          <td>{{ length(rod.diameter_in, unit) }}</td>
          <td>{{ t(rod.lifter_end) }} – {{ t(rod.rocker_end) }}</td>
          <td class="count">
            <button
              type="button"
              class="plain"
              :disabled="!rod.count"
              :aria-label="t('One less of {length}', { length: length(rod.length_in, unit) })"
              @click="change(rod, -1)"
            >
              −
            </button>
            <b>{{ rod.count }}</b>
            <button
              type="button"
              class="plain"
              :aria-label="t('One more of {length}', { length: length(rod.length_in, unit) })"
              @click="change(rod, 1)"
            >
              +
            </button>
          </td>
        </tr>
      </tbody>
    </table>
  </section>
</template>

<style scoped>
.box {
  display: flex;
  flex-direction: column;
  gap: 12px;
}
form {
  display: flex;
  flex-wrap: wrap;
  gap: 14px;
  align-items: end;
}
label,
.quiet {
  margin: 0;
  font-size: 14px;
  color: var(--quiet);
}
label .el-input {
  display: flex;
  width: 170px;
}
.none {
  margin: 0;
  font-size: 19px;
}
.count b {
  display: inline-block;
  width: 40px;
  text-align: center;
}
</style>
