<script setup lang="ts">
import { useQueryClient } from '@tanstack/vue-query'
import { computed, ref, useTemplateRef, watch } from 'vue'
import { useRouter } from 'vue-router'
import { answer, api, problemOf, type BuildIn, type Layout, type Problem } from '../../api/client'
import ChoiceRow from '../../kit/ChoiceRow.vue'
import ProblemNote from '../../kit/ProblemNote.vue'
import { keepBuild, useBoard, useInstruments, useRules } from '../builds'

const open = defineModel<boolean>({ required: true })
const router = useRouter()
const client = useQueryClient()
const { data: instruments } = useInstruments()
const { data: rules } = useRules()

const { data: board } = useBoard('', 0, false)

const name = ref('')
/** The earlier build whose set-up it takes; empty for one of its own. */
const like = ref('')
const layout = ref<Layout>('v')
const cylinders = ref(8)
const problem = ref<Problem | null>(null)
const id = ref('')
const nameBox = useTemplateRef<{ focus(): void }>('nameBox')
const counts = computed(
  () => rules.value?.layouts.find((l) => l.layout === layout.value)?.cylinders ?? [],
)

watch(open, (now) => {
  if (!now) return
  id.value = crypto.randomUUID()
  name.value = ''
  like.value = ''
  problem.value = null
})
watch(layout, () => {
  if (!counts.value.includes(cylinders.value))
    cylinders.value = counts.value[counts.value.length > 3 ? 3 : 0] ?? 1
})

async function make() {
  if (!name.value.trim()) {
    problem.value = {
      type: 'about:blank',
      title: 'Empty',
      status: 0,
      code: 'empty',
      field: 'name',
      context: {},
      detail: 'Name is empty. Call the build what the shop calls it.',
    }
    return
  }
  try {
    const only = instruments.value?.length === 1 ? instruments.value[0] : undefined
    const body = {
      id: id.value,
      name: name.value.trim(),
      layout: layout.value,
      cylinders: cylinders.value,
      instrument_id: only?.id ?? null,
    } as BuildIn
    const build = await answer(
      like.value
        ? api.POST('/api/builds/{build_id}/like', {
            params: { path: { build_id: like.value } },
            body: { id: body.id, name: body.name },
          })
        : api.POST('/api/builds', { body }),
    )
    keepBuild(client, build)
    open.value = false
    const params = { buildId: build.id, valveId: build.valves[0]?.id ?? '' }
    // A set-up that is there already goes straight to the first trial.
    const first = like.value && build.instrument_id
    await router.push({ name: first ? 'zero_lash' : 'setup', params })
  } catch (error) {
    problem.value = problemOf(error)
  }
}
</script>

<template>
  <el-dialog
    v-model="open"
    align-center
    title="New build"
    width="min(460px, 92vw)"
    @opened="nameBox?.focus()"
  >
    <form @submit.prevent="make">
      <label for="build-name">Name</label>
      <el-input id="build-name" ref="nameBox" v-model="name" maxlength="80" autocomplete="off" />
      <label for="build-like">Set up like</label>
      <el-select id="build-like" v-model="like" filterable placeholder="A set-up of its own">
        <el-option value="" label="A set-up of its own" />
        <el-option v-for="b in board?.builds ?? []" :key="b.id" :value="b.id" :label="b.name" />
      </el-select>
      <ChoiceRow
        v-if="!like"
        v-model="layout"
        label="Layout"
        :options="(rules?.layouts ?? []).map((l) => ({ value: l.layout, words: l.name }))"
      />
      <ChoiceRow
        v-if="!like"
        v-model="cylinders"
        label="Cylinders"
        :options="counts.map((n) => ({ value: n, words: String(n) }))"
      />
      <ProblemNote :problem="problem" />
      <button type="submit" class="plain strong">Make the build</button>
    </form>
  </el-dialog>
</template>

<style scoped>
form {
  display: flex;
  flex-direction: column;
  gap: 8px;
}
label {
  color: var(--quiet);
}
.strong[type='submit'] {
  margin-top: 10px;
}
</style>
