<script setup lang="ts">
/** One try: what stands on the engine, the mark's edges, the closed end, and what else was read. */
import { t } from '../../kit/words'
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
import { takeOut } from '../../kit/entries'
import { wantGauge } from '../../kit/gauge'
import { usePrefs } from '../../kit/prefs'
import ProblemNote from '../../kit/ProblemNote.vue'
import { refusedBy } from '../../kit/refused'
import { ANGLE_TOOLS, HEIGHTS_EXAMPLE, type AngleTool } from './angleTools'
import PhotoEntry from './PhotoEntry.vue'
import type { KeepTry } from './useRocker'
import TermLink from '../../kit/TermLink.vue'
import PickOne from '../../kit/PickOne.vue'

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
const how = ref<'measured' | 'eye' | 'rest'>('measured')
const place = ref<NonNullable<Place> | ''>('')
const wide = ref<NonNullable<Wide> | ''>('')
const angle = ref('')
const tool = ref<AngleTool>('inclinometer')
const lift = ref('')
const width = ref('')
const across = ref('')
const sink = ref('')
const screw = ref('')
const more = ref(false)
const problem = ref<Problem | null>(null)
const boxes = {
  setting: useTemplateRef<{ focus(): void }>('settingBox'),
  low: useTemplateRef<{ focus(): void }>('lowBox'),
  high: useTemplateRef<{ focus(): void }>('highBox'),
}

type Place = NonNullable<Parameters<KeepTry>[0]['place']>
type Wide = NonNullable<Parameters<KeepTry>[0]['wide']>
const HOW = [
  { value: 'measured', words: t('Measured') },
  { value: 'eye', words: t('By eye') },
  { value: 'rest', words: t('At rest') },
] as const satisfies { value: string; words: string }[]
const PLACES: { value: Place; words: string }[] = [
  { value: 'off_inboard', words: t('← off') },
  { value: 'inboard', words: t('Inboard') },
  { value: 'centred', words: t('Centred') },
  { value: 'outboard', words: t('Outboard') },
  { value: 'off_outboard', words: t('off →') },
]
const WIDTHS: { value: Wide; words: string }[] = [
  { value: 'narrow', words: t('Narrow') },
  { value: 'usual', words: t('Usual') },
  { value: 'wide', words: t('Wide') },
]
/** An edge typed as “off” runs off the tip. */
const isOff = (text: string) => /^off\b/i.test(text.trim())
const FROM = [
  { value: 'middle', words: t('Tip’s middle') },
  { value: 'edge', words: t('Inboard edge') },
] as const satisfies { value: string; words: string }[]
const ENDS = [
  { value: 'inboard', words: t('Inboard') },
  { value: 'outboard', words: t('Outboard') },
  { value: '', words: t('Not seen') },
] as const satisfies { value: string; words: string }[]

const MORE = computed(() => [
  { id: 'mark-width', words: t('Width alone'), text: width, turns: false },
  { id: 'mark-across', words: t('Middle, sideways'), text: across, turns: false },
  { id: 'mark-sink', words: t('Plunger sinks by'), text: sink, turns: false },
  ...(props.arm.stud
    ? []
    : [{ id: 'mark-screw', words: t('Rocker’s screw'), text: screw, turns: true }]),
])
const onEngine = computed(() =>
  props.arm.stud
    ? bareLength(props.arm.now_in, unit.value)
    : bareLength(props.arm.now_in, unit.value).replace(/0+$/, '0'),
)

async function record(photo?: { id: string; overlay: Overlay }) {
  const blank = !low.value && !high.value
  const typed = !photo && how.value !== 'eye'
  const off = isOff(low.value) ? 'inboard' : isOff(high.value) ? 'outboard' : null
  const heights = tool.value === 'heights'
  const entry: Parameters<KeepTry>[0] = {
    inboard: typed && off !== 'inboard' ? low.value : '',
    outboard: typed && off !== 'outboard' ? high.value : '',
    off: typed ? off : null,
    at_rest: typed && how.value === 'rest',
    place: how.value === 'eye' ? place.value || null : null,
    wide: how.value === 'eye' ? wide.value || null : null,
    width: width.value,
    across: across.value,
    sink: sink.value,
    screw: screw.value,
    measured_from: from.value,
    closed_end: closed.value || null,
    angle: heights ? '' : angle.value,
    heights: heights ? angle.value : '',
    angle_by: tool.value,
    lift: lift.value,
    [props.arm.stud ? 'rod' : 'shim']: setting.value,
    rod_convention: props.arm.convention,
    photo: photo ? { ...photo.overlay, photo_id: photo.id } : null,
  }
  const takenOut = [
    takeOut(low, high, angle, lift, setting, width, across, sink, screw),
    takeOut(closed),
    takeOut(place),
    takeOut(wide),
  ]
  problem.value = await props.keep(entry)
  if (!problem.value) return
  takenOut.forEach((putBack) => putBack())
  if (problem.value.field === 'mark' && blank) boxes.low.value?.focus()
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
  <section class="mark" :aria-label="t('Enter a mark')" data-bench>
    <div class="pair">
      <div>
        <label for="setting">
          {{
            arm.stud
              ? t('Rod, {CONVENTIONS}', { CONVENTIONS: CONVENTIONS[arm.convention] })
              : t('Shim under the stand')
          }}
        </label>
        <el-input
          id="setting"
          ref="settingBox"
          v-model="setting"
          v-bind="refusedBy('mark', problem, setting)"
          autocomplete="off"
          :placeholder="onEngine"
          @keydown.enter="boxes.low.value?.focus()"
        >
          <template #suffix>{{ unit }}</template>
        </el-input>
      </div>
      <FilePick
        binary
        :label="reading ? t('Reading the photo…') : t('Read it off a photo…')"
        :name="t('Photo of the tip')"
        accept="image/jpeg,image/png,image/heic,.heic"
        @file="take"
      />
    </div>
    <div class="line">
      <span>{{ t('mark') }}</span>
      <ChoiceRow v-model="how" quiet :label="t('How the mark is told')" :options="HOW" />
    </div>
    <template v-if="how === 'eye'">
      <div class="eye">
        <ChoiceRow v-model="place" quiet :label="t('Where it lies')" :options="PLACES" />
      </div>
      <div v-if="arm.tip === 'roller'" class="line">
        <span>{{ t('wide') }}</span>
        <ChoiceRow v-model="wide" quiet :label="t('How wide it looks')" :options="WIDTHS" />
      </div>
    </template>
    <template v-else>
      <div class="pair">
        <div>
          <label for="mark-low">{{ t('Inboard edge') }}</label>
          <el-input
            id="mark-low"
            ref="lowBox"
            v-model="low"
            v-bind="refusedBy('mark', problem, low)"
            data-main
            autocomplete="off"
            @keydown.enter="boxes.high.value?.focus()"
          >
            <template #suffix>{{ unit }}</template>
          </el-input>
        </div>
        <div>
          <label for="mark-high">{{ t('Outboard edge') }}</label>
          <el-input
            id="mark-high"
            ref="highBox"
            v-model="high"
            v-bind="refusedBy('mark', problem, high)"
            autocomplete="off"
            @keydown.enter="record()"
          >
            <template #suffix>{{ unit }}</template>
          </el-input>
        </div>
      </div>
    </template>
    <div v-if="how !== 'rest'" class="line">
      <span
        ><TermLink term="closed end">{{ t('closed end') }}</TermLink></span
      >
      <ChoiceRow v-model="closed" quiet :label="t('Closed valve stands at')" :options="ENDS" />
    </div>
    <div class="pair">
      <div>
        <label for="mark-angle">{{ t('Angle at half lift') }}</label>
        <el-input
          id="mark-angle"
          v-model="angle"
          v-bind="refusedBy('mark', problem, angle)"
          autocomplete="off"
          :placeholder="tool === 'heights' ? HEIGHTS_EXAMPLE : t('if read')"
          @keydown.enter="record()"
        >
          <template #suffix>{{ tool === 'heights' ? unit : '°' }}</template>
        </el-input>
      </div>
      <div>
        <label for="mark-tool">{{ t('read with') }}</label>
        <PickOne
          id="mark-tool"
          v-model="tool"
          :label="t('Angle read with')"
          :options="ANGLE_TOOLS"
        />
      </div>
    </div>
    <div class="pair">
      <div v-if="how !== 'eye' || more">
        <label for="mark-lift">{{ t('Net lift, light springs') }}</label>
        <el-input
          id="mark-lift"
          v-model="lift"
          v-bind="refusedBy('mark', problem, lift)"
          autocomplete="off"
          :placeholder="t('if read')"
          @keydown.enter="record()"
        >
          <template #suffix>{{ unit }}</template>
        </el-input>
      </div>
      <button type="button" class="plain" :aria-expanded="more" @click="more = !more">
        {{ more ? t('Less') : t('More readings…') }}
      </button>
    </div>
    <div v-if="more" class="line">
      <span
        ><TermLink term="from">{{ t('from') }}</TermLink></span
      >
      <ChoiceRow v-model="from" quiet :label="t('Edges measured from')" :options="FROM" />
    </div>
    <div v-if="more" class="pair">
      <div v-for="box in MORE" :key="box.id">
        <label :for="box.id">{{ box.words }}</label>
        <el-input
          :id="box.id"
          v-model="box.text.value"
          v-bind="refusedBy('mark', problem, box.text.value)"
          autocomplete="off"
          :placeholder="t('if read')"
          @keydown.enter="record()"
        >
          <template #suffix>{{ box.turns ? t('turns') : unit }}</template>
        </el-input>
      </div>
    </div>
    <button type="button" class="plain strong" @click="record()">
      {{ t('Record the try') }} <kbd>{{ t('Enter') }}</kbd>
    </button>
    <ProblemNote id="mark-why" :problem="problem" @use="useSuggestion" />
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
.eye :deep(.choices) {
  display: grid;
  grid-template-columns: 3fr 4fr 4fr 4fr 3fr;
}
.eye :deep(.plain) {
  padding: 0 2px;
}
.strong kbd {
  color: inherit;
  border-color: currentColor;
}
</style>
