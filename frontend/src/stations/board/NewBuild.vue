<script setup lang="ts">
import { t } from '../../kit/words'
import { useQueryClient } from '@tanstack/vue-query'
import { refDebounced } from '@vueuse/core'
import { computed, ref, useTemplateRef, watch } from 'vue'
import { useRouter } from 'vue-router'
import { answer, api, problemOf, type BuildIn, type Layout, type Problem } from '../../api/client'
import ChoiceRow from '../../kit/ChoiceRow.vue'
import ProblemNote from '../../kit/ProblemNote.vue'
import PickOne from '../../kit/PickOne.vue'
import { day } from '../../kit/format'
import { keepBuild, PAGE, useBoard, useInstruments, useRules, type Shelf } from '../builds'

const open = defineModel<boolean>({ required: true })
const router = useRouter()
const client = useQueryClient()
const { data: instruments } = useInstruments()
const { data: rules } = useRules()

const name = ref('')
const called = refDebounced(name, 300)
const PATTERNS = 100
/** The builds changed last: patterns to choose from; in a larger shop those that are looked for. */
const sought = ref('')
const lookedFor = refDebounced(sought, 200)
const found = (shelf: Shelf) =>
  useBoard(() => ({ search: lookedFor.value, shelf }), 0, PATTERNS, open).data
const [board, archive] = [found('board'), found('archive')]
const { data: alike } = useBoard(
  () => ({ search: called.value }),
  0,
  PAGE,
  () => called.value !== '',
)

/** Another build of this name: two are told apart by when they were made, better by their name. */
const twin = computed(() => {
  const own = name.value.trim().toLowerCase()
  return own && alike.value?.builds.find((b) => b.name.toLowerCase() === own)
})
/** The earlier build whose set-up it takes; empty for one of its own. */
const like = ref('')
const patterns = computed(() => [
  ...(board.value?.builds ?? []).map((b) => ({ value: b.id, words: b.name })),
  ...(archive.value?.builds ?? []).map((b) => ({
    value: b.id,
    words: t('{name}, in the archive', { name: b.name }),
  })),
])
/** More than the list holds: they are looked for by name. */
const many = computed(
  () =>
    lookedFor.value !== '' ||
    [board, archive].some((found) => (found.value?.total ?? 0) > PATTERNS),
)
// What is looked for is the choice: the first that is found, until another is chosen.
watch(patterns, (now) => {
  if (lookedFor.value) like.value = now[0]?.value ?? ''
})
const withReadings = ref(false)
const tool = ref('')
const rods = computed(() => (instruments.value ?? []).filter((i) => i.kind !== 'indicator'))
const layout = ref<Layout>('v')
const cylinders = ref(8)
const problem = ref<Problem | null>(null)
const id = ref('')
const nameBox = useTemplateRef<{ focus(): void }>('nameBox')
/** Whoever is in a field already is left there. */
function begin() {
  if (!document.activeElement?.matches('input')) nameBox.value?.focus()
}
const counts = computed(
  () => rules.value?.layouts.find((l) => l.layout === layout.value)?.cylinders ?? [],
)

watch(open, (now) => {
  if (!now) return
  id.value = crypto.randomUUID()
  name.value = ''
  like.value = sought.value = ''
  withReadings.value = false
  tool.value = ''
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
      title: t('Empty'),
      status: 0,
      code: 'empty',
      field: 'name',
      context: {},
      detail: t('Name is empty. Call the build what the shop calls it.'),
    }
    return
  }
  try {
    const body = {
      id: id.value,
      name: name.value.trim(),
      layout: layout.value,
      cylinders: cylinders.value,
      instrument_id: tool.value || (rods.value.length === 1 && rods.value[0]?.id) || null,
    } as BuildIn
    const build = await answer(
      like.value
        ? api.POST('/api/builds/{build_id}/like', {
            params: { path: { build_id: like.value } },
            body: { id: body.id, name: body.name, readings: withReadings.value },
          })
        : api.POST('/api/builds', { body }),
    )
    keepBuild(client, build)
    open.value = false
    const params = { buildId: build.id, valveId: build.valves[0]?.id ?? '' }
    // The rest of the set-up is asked where it first matters.
    await router.push({ name: build.instrument_id ? 'zero_lash' : 'setup', params })
    // The dialog's button is gone with the board: the next Tab begins at the station.
    document.getElementById('station')?.focus()
  } catch (error) {
    problem.value = problemOf(error)
  }
}
</script>

<template>
  <el-dialog
    v-model="open"
    align-center
    :title="t('New build')"
    width="min(460px, 92vw)"
    @opened="begin"
  >
    <form @submit.prevent="make">
      <label for="build-name">{{ t('Name') }}</label>
      <el-input id="build-name" ref="nameBox" v-model="name" maxlength="80" autocomplete="off" />
      <p v-if="twin" class="twin" role="status">
        {{ t('There is one of this name, made {made_at}.', { made_at: day(twin.made_at) }) }}
      </p>
      <template v-if="many || patterns.length">
        <label for="build-like">{{ t('Set up like') }}</label>
        <el-input
          v-if="many"
          v-model="sought"
          :aria-label="t('Look for a build')"
          :placeholder="t('Look for a build')"
          maxlength="80"
          autocomplete="off"
          @keydown.enter.prevent
        />
        <p v-if="lookedFor && !patterns.length" class="twin" role="status">
          {{ t('No build is like that.') }}
        </p>
        <PickOne
          id="build-like"
          v-model="like"
          :label="t('Set up like')"
          :options="patterns"
          :none="t('A set-up of its own')"
        />
      </template>
      <label v-if="like" class="check"
        ><input v-model="withReadings" type="checkbox" />
        {{ t('with its readings and notes') }}</label
      >
      <ChoiceRow
        v-if="!like"
        v-model="layout"
        :label="t('Layout')"
        :options="(rules?.layouts ?? []).map((l) => ({ value: l.layout, words: l.name }))"
      />
      <ChoiceRow
        v-if="!like"
        v-model="cylinders"
        :label="t('Cylinders')"
        :options="counts.map((n) => ({ value: n, words: String(n) }))"
      />
      <ChoiceRow
        v-if="!like && rods.length > 1"
        v-model="tool"
        :label="t('Measured with')"
        :options="rods.map((i) => ({ value: i.id, words: i.name }))"
      />
      <ProblemNote :problem="problem" />
      <button type="submit" class="plain strong">{{ t('Make the build') }}</button>
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
.check {
  display: flex;
  gap: 8px;
  align-items: center;
  min-height: 44px;
}
.twin {
  margin: 0;
  color: var(--alarm-ink);
}
.strong[type='submit'] {
  margin-top: 10px;
}
</style>
