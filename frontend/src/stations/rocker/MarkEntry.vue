<script setup lang="ts">
/** One try: what stands on the engine, the mark's edges, the closed end, and what else was read. */
import { computed, nextTick, ref, useTemplateRef } from 'vue'
import {
  problemOf,
  type Rocker,
  type Build,
  type Overlay,
  type Photo,
  type Problem,
} from '../../api/client'
import ChoiceRow from '../../kit/ChoiceRow.vue'
import FilePick from '../../kit/FilePick.vue'
import { bareLength, CONVENTIONS } from '../../kit/format'
import { wantGauge } from '../../kit/gauge'
import { usePrefs } from '../../kit/prefs'
import ProblemNote from '../../kit/ProblemNote.vue'
import PhotoEntry from './PhotoEntry.vue'
import type { KeepTry } from './useRocker'

const props = defineProps<{
  build: Build
  arm: Rocker
  keep: KeepTry
  upload: (file: File) => Promise<Photo>
}>()
const low = defineModel<string>('low', { required: true })
const high = defineModel<string>('high', { required: true })
const from = defineModel<'middle' | 'edge'>('from', { required: true })

const { unit } = usePrefs()
const setting = ref('')
const closed = ref<'inboard' | 'outboard' | ''>('')
const angle = ref('')
const lift = ref('')
const problem = ref<Problem | null>(null)
const boxes = {
  setting: useTemplateRef<{ focus(): void }>('settingBox'),
  low: useTemplateRef<{ focus(): void }>('lowBox'),
  high: useTemplateRef<{ focus(): void }>('highBox'),
}

const FROM = [
  { value: 'middle', words: 'Tip’s middle' },
  { value: 'edge', words: 'Inboard edge' },
] as const satisfies { value: string; words: string }[]
const ENDS = [
  { value: 'inboard', words: 'Inboard' },
  { value: 'outboard', words: 'Outboard' },
  { value: '', words: 'Not seen' },
] as const satisfies { value: string; words: string }[]

const onEngine = computed(() =>
  props.arm.stud
    ? bareLength(props.arm.now_in, unit.value)
    : bareLength(props.arm.now_in, unit.value).replace(/0+$/, '0'),
)

async function record(photo?: { id: string; overlay: Overlay }) {
  const blank = !low.value && !high.value
  problem.value = await props.keep({
    inboard: photo ? '' : low.value,
    outboard: photo ? '' : high.value,
    measured_from: from.value,
    closed_end: closed.value || null,
    angle: angle.value,
    lift: lift.value,
    [props.arm.stud ? 'rod' : 'shim']: setting.value,
    rod_convention: props.arm.convention,
    photo: photo ? { ...photo.overlay, photo_id: photo.id } : null,
  })
  if (problem.value) {
    if (problem.value.field === 'mark' && blank) boxes.low.value?.focus()
    return
  }
  low.value = high.value = angle.value = lift.value = setting.value = ''
  closed.value = ''
}

const shot = ref<Photo | null>(null)
const reading = ref(false)
async function take(file: File) {
  problem.value = null
  reading.value = true
  try {
    shot.value = await props.upload(file)
  } catch (error) {
    problem.value = problemOf(error)
  }
  reading.value = false
}
async function keepPhoto(overlay: Overlay) {
  if (!shot.value) return
  await record({ id: shot.value.id, overlay })
  if (!problem.value) shot.value = null
}

async function useSuggestion(text: string) {
  const field = problem.value?.field ?? ''
  if (field === 'rod_length' || field === 'shim') setting.value = text
  else if (field === 'net_lift') lift.value = text
  else if (field === 'angle') angle.value = text
  else if (!high.value || low.value === problem.value?.received) low.value = text
  else high.value = text
  await nextTick()
  await record()
}
defineExpose({ focus: () => boxes.low.value?.focus(), record })
wantGauge()
</script>

<template>
  <section class="mark" aria-label="Enter a mark" data-bench>
    <div class="pair">
      <div>
        <label for="setting">
          {{ arm.stud ? `Rod, ${CONVENTIONS[arm.convention]}` : 'Shim under the stand' }}
        </label>
        <el-input
          id="setting"
          ref="settingBox"
          v-model="setting"
          autocomplete="off"
          :placeholder="onEngine"
          @keydown.enter="boxes.low.value?.focus()"
        >
          <template #suffix>{{ unit }}</template>
        </el-input>
      </div>
      <FilePick
        binary
        :label="reading ? 'Reading the photo…' : 'Read it off a photo…'"
        name="Photo of the tip"
        accept="image/jpeg,image/png,image/heic,.heic"
        @file="take"
      />
    </div>
    <div class="pair">
      <div>
        <label for="mark-low">Inboard edge</label>
        <el-input
          id="mark-low"
          ref="lowBox"
          v-model="low"
          autocomplete="off"
          @keydown.enter="boxes.high.value?.focus()"
        >
          <template #suffix>{{ unit }}</template>
        </el-input>
      </div>
      <div>
        <label for="mark-high">Outboard edge</label>
        <el-input
          id="mark-high"
          ref="highBox"
          v-model="high"
          autocomplete="off"
          @keydown.enter="record()"
        >
          <template #suffix>{{ unit }}</template>
        </el-input>
      </div>
    </div>
    <div class="line">
      <span>from</span>
      <ChoiceRow v-model="from" quiet label="Edges measured from" :options="FROM" />
    </div>
    <div class="line">
      <span>closed end</span>
      <ChoiceRow v-model="closed" quiet label="Closed valve stands at" :options="ENDS" />
    </div>
    <div class="pair">
      <div>
        <label for="mark-angle">Angle at half lift</label>
        <el-input
          id="mark-angle"
          v-model="angle"
          autocomplete="off"
          placeholder="if read"
          @keydown.enter="record()"
        >
          <template #suffix>°</template>
        </el-input>
      </div>
      <div>
        <label for="mark-lift">Net lift, light springs</label>
        <el-input
          id="mark-lift"
          v-model="lift"
          autocomplete="off"
          placeholder="if read"
          @keydown.enter="record()"
        >
          <template #suffix>{{ unit }}</template>
        </el-input>
      </div>
    </div>
    <button type="button" class="plain strong" @click="record()">
      Record the try <kbd>Enter</kbd>
    </button>
    <ProblemNote :problem="problem" @use="useSuggestion" />
    <PhotoEntry
      v-if="shot"
      :build-id="build.id"
      :photo="shot"
      :stem="arm.figures.stem_in"
      :problem="problem"
      @keep="keepPhoto"
      @close="shot = null"
    />
  </section>
</template>

<style scoped>
.mark {
  display: flex;
  flex-direction: column;
  gap: 6px;
}
.pair {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 10px;
  align-items: end;
}
label:not(.plain),
.line > span {
  font-size: 14px;
  color: var(--quiet);
}
.line {
  display: grid;
  grid-template-columns: 72px 1fr;
  align-items: center;
}
.line :deep(.plain) {
  padding: 0 10px;
}
.strong kbd {
  color: inherit;
  border-color: currentColor;
}
</style>
