<script setup lang="ts">
import { useQueryClient } from '@tanstack/vue-query'
import { computed, ref, useTemplateRef, watch } from 'vue'
import { useRouter } from 'vue-router'
import { answer, api, problemOf, type BuildIn, type Layout, type Problem } from '../../api/client'
import ProblemNote from '../../kit/ProblemNote.vue'
import { keepBuild, useInstruments, useRules } from '../builds'

const open = defineModel<boolean>({ required: true })
const router = useRouter()
const client = useQueryClient()
const { data: instruments } = useInstruments()
const { data: rules } = useRules()

const name = ref('')
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
    const build = await answer(api.POST('/api/builds', { body }))
    keepBuild(client, build)
    open.value = false
    await router.push({ name: 'setup', params: { buildId: build.id } })
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
      <span class="label">Layout</span>
      <div class="choices" role="group" aria-label="Layout">
        <button
          v-for="l in rules?.layouts ?? []"
          :key="l.layout"
          type="button"
          class="plain"
          :class="{ strong: layout === l.layout }"
          :aria-pressed="layout === l.layout"
          @click="layout = l.layout"
        >
          {{ l.name }}
        </button>
      </div>
      <span class="label">Cylinders</span>
      <div class="choices" role="group" aria-label="Cylinders">
        <button
          v-for="count in counts"
          :key="count"
          type="button"
          class="plain"
          :class="{ strong: cylinders === count }"
          :aria-pressed="cylinders === count"
          @click="cylinders = count"
        >
          {{ count }}
        </button>
      </div>
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
label,
.label {
  color: var(--quiet);
}
.choices {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
}
.strong[type='submit'] {
  margin-top: 10px;
}
</style>
