<script setup lang="ts">
/** Set the rod and feel it: dial and turns for a checking rod, typed values for a caliper. */
import { t } from '../../kit/words'
import { computed, nextTick, ref, useTemplateRef } from 'vue'
import {
  answer,
  api,
  problemOf,
  type Build,
  type Change,
  type Feel,
  type Problem,
  type TrialIn,
} from '../../api/client'
import TurnDial from '../../drawings/TurnDial.vue'
import FeelGlyph from '../../kit/FeelGlyph.vue'
import { CONVENTIONS, length, turnsWords } from '../../kit/format'
import { isRead, takeOut } from '../../kit/entries'
import { wantGauge } from '../../kit/gauge'
import { unanswered } from '../../kit/outbox'
import { usePrefs } from '../../kit/prefs'
import ProblemNote from '../../kit/ProblemNote.vue'
import { refusedBy } from '../../kit/refused'

const props = defineProps<{
  build: Build
  /** Where the checking rod stands, and its length (or what the caliper read), inches. */
  turns: number
  inches: number | null
  /** Keep a trial; the problem when it was refused. */
  keep: (body: Omit<TrialIn, 'key' | 'by'>, inches: number | null) => Promise<Problem | null>
}>()
const emit = defineEmits<{ turn: [turns: number]; read: [inches: number | null] }>()
const { unit } = usePrefs()

const rod = computed(() => props.build.instrument)
const counts = computed(() => rod.value?.kind === 'checking_rod')
const turnsText = ref('')
const caliper = ref('')
const gap = ref('')
const problem = ref<Problem | null>(null)
type Box = { focus(): void; blur(): void; select(): void }
const turnsBox = useTemplateRef<Box>('turnsBox')
const caliperBox = useTemplateRef<Box>('caliperBox')
const gapBox = useTemplateRef<Box>('gapBox')

function missing(): Problem | null {
  const text = { type: 'about:blank', title: t('No length'), status: 0, code: 'empty', context: {} }
  if (!rod.value) return { ...text, detail: t('No instrument yet. Choose one in the set-up.') }
  if (counts.value || caliper.value.trim()) return null
  return { ...text, detail: t('Rod length is empty. Type what the caliper reads first.') }
}

type Body = Omit<TrialIn, 'key' | 'by'>
let last: Body | null = null
/** What was typed is read before a feel is kept, however fast the next key comes. */
let reading: Promise<unknown> = Promise.resolve()
async function feel(felt: Feel) {
  // The valve is left when the reading is on its way: it belongs to this one.
  if (await isRead(begin(felt))) await sending
}
let sending: Promise<void> = Promise.resolve()
/** Send what was felt; whether what was typed with it could be read. */
async function begin(felt: Feel): Promise<boolean> {
  const typed = counts.value ? turnsText.value.trim() : ''
  const set = typed ? await enterTurns() : null
  await reading
  await nextTick()
  // Where nobody answers it goes as it was typed, and is read when it arrives: never another.
  const unread = set === null ? typed : ''
  if (unread && problem.value && !unanswered(problem.value)) return false
  problem.value = missing()
  if (problem.value) {
    caliperBox.value?.focus()
    return false
  }
  sending = record(
    {
      setting: unread || (counts.value ? turnsWords(set ?? props.turns) : caliper.value),
      feel: felt,
      gap: gap.value,
      unit: unit.value,
      reason: '',
      instrument_id: rod.value?.id ?? null,
      instrument_version: rod.value?.version ?? null,
      sure: false,
    },
    unread ? null : props.inches,
  )
  return true
}
async function record(body: Body, inches = props.inches) {
  last = body
  const putBack = takeOut(gap, caliper, turnsText)
  emit('read', null)
  const refused = await props.keep(body, inches)
  if (refused && refused.status >= 400 && refused.status < 500) {
    putBack()
    if (!counts.value && caliper.value === body.setting) emit('read', inches)
  } else if (!counts.value && !caliper.value) caliperBox.value?.focus()
  problem.value = refused
}

function moveOn(from: Box | null) {
  problem.value = null
  if (props.build.gaps) gapBox.value?.focus()
  else from?.blur()
}

function enterTurns() {
  const read = takeTurns(turnsText.value)
  reading = read
  return read
}
/** The turns as the server reads them; null where it could not. */
async function takeTurns(text: string): Promise<number | null> {
  moveOn(turnsBox.value)
  try {
    const { turns } = await answer(api.POST('/api/compute/turns', { body: { text, bolts: false } }))
    emit('turn', turns)
    if (turnsText.value === text) turnsText.value = ''
    return turns
  } catch (error) {
    problem.value = problemOf(error)
    turnsBox.value?.focus()
    return null
  }
}

async function takeCaliper() {
  try {
    const body = { text: caliper.value, field: 'rod_length' as const, unit: unit.value }
    emit('read', (await answer(api.POST('/api/compute/length', { body }))).inches)
    moveOn(caliperBox.value)
  } catch (error) {
    problem.value = problemOf(error)
  }
}

function gapEntered() {
  if (gap.value.trim()) void feel('loose')
}

function useSuggestion(text: string) {
  if (problem.value?.field === 'gap') {
    gap.value = text
    void feel('loose')
  } else if (counts.value) {
    turnsText.value = text
    void enterTurns()
  } else {
    caliper.value = text
    void takeCaliper()
  }
}

function choose(change: Change) {
  if (last) void record({ ...last, ...change })
}

/** The refusal, where it is about one of these fields. */
const of = (...fields: string[]) =>
  problem.value?.field && fields.includes(problem.value.field) ? problem.value : null

defineExpose({
  feel,
  /** The next figure is typed over one that is still being read. */
  typeSetting: () => {
    const box = (counts.value ? turnsBox : caliperBox).value
    box?.focus()
    box?.select()
  },
  typeGap: () => gapBox.value?.focus(),
})
wantGauge(() => !counts.value)
</script>

<template>
  <section class="set" :aria-label="t('Set the rod')">
    <template v-if="counts">
      <div class="turning">
        <TurnDial :turns="turns" :most="rod?.most_turns ?? 0" @turn="emit('turn', $event)" />
        <div class="steps">
          <output class="reads">{{ length(inches ?? 0, unit) }}</output>
          <div class="buttons">
            <button
              v-for="s in [1, 0.25, 0.125]"
              :key="s"
              type="button"
              class="plain"
              :aria-label="t('{s} turn longer', { s: turnsWords(s) })"
              @click="emit('turn', turns + s)"
            >
              +{{ turnsWords(s) }}
            </button>
            <button
              v-for="s in [1, 0.25, 0.125]"
              :key="-s"
              type="button"
              class="plain"
              :aria-label="t('{s} turn shorter', { s: turnsWords(s) })"
              @click="emit('turn', turns - s)"
            >
              −{{ turnsWords(s) }}
            </button>
          </div>
          <span class="quiet">{{ rod?.name }}</span>
        </div>
      </div>
    </template>
    <p v-else-if="rod" class="quiet">
      {{
        t('{name}: its figures are {CONVENTIONS}.', {
          name: rod.name,
          CONVENTIONS: CONVENTIONS[rod.convention],
        })
      }}
    </p>
    <p v-else>
      {{ t('No instrument yet:') }}
      <RouterLink :to="{ name: 'setup', params: { buildId: build.id } }">{{
        t('choose one in the set-up')
      }}</RouterLink>.
    </p>

    <div class="entries" data-bench>
      <div v-if="counts" data-turns>
        <label for="turns">{{ t('Turns from closed') }}</label>
        <el-input
          id="turns"
          ref="turnsBox"
          v-model="turnsText"
          data-main
          size="large"
          autocomplete="off"
          :placeholder="t('type, or turn')"
          v-bind="refusedBy('entry', of('turns'))"
          @keydown.enter="enterTurns"
        />
      </div>
      <div v-else-if="rod">
        <label for="caliper">{{ t('Caliper reads') }}</label>
        <el-input
          id="caliper"
          ref="caliperBox"
          v-model="caliper"
          data-main
          size="large"
          autocomplete="off"
          v-bind="refusedBy('entry', of('rod_length', 'caliper', 'setting'))"
          @keydown.enter="takeCaliper"
        >
          <template #suffix>{{ unit }}</template>
        </el-input>
      </div>
      <div v-if="build.gaps">
        <label for="gap">{{ t('Gap at the tip, when loose') }}</label>
        <el-input
          id="gap"
          ref="gapBox"
          v-model="gap"
          size="large"
          autocomplete="off"
          :placeholder="t('Enter = loose')"
          v-bind="refusedBy('entry', of('gap'))"
          @keydown.enter="gapEntered"
        >
          <template #suffix>{{ unit }}</template>
        </el-input>
      </div>
    </div>
    <ProblemNote id="entry-why" :problem="problem" @choose="choose" @use="useSuggestion" />
    <div class="feels">
      <button type="button" class="feel" @click="feel('loose')">
        <FeelGlyph feel="loose" />{{ t('Loose') }}<kbd>L</kbd>
      </button>
      <button type="button" class="feel" @click="feel('zero')">
        <FeelGlyph feel="zero" />{{ t('Zero') }}<kbd>Z</kbd>
      </button>
      <button type="button" class="feel" @click="feel('tight')">
        <FeelGlyph feel="tight" />{{ t('Tight') }}<kbd>T</kbd>
      </button>
      <button type="button" class="feel finer" @click="feel('quite')">
        <FeelGlyph feel="quite" />{{ t('Quite loose') }}<kbd>Q</kbd>
      </button>
      <button type="button" class="feel finer" @click="feel('barely')">
        <FeelGlyph feel="barely" />{{ t('Barely loose') }}<kbd>A</kbd>
      </button>
      <button
        type="button"
        class="feel finer"
        :title="t('No lash, perhaps tight: at zero or beyond it')"
        @click="feel('no_lash')"
      >
        <FeelGlyph feel="no_lash" />{{ t('No lash') }}<kbd>O</kbd>
      </button>
    </div>
  </section>
</template>

<style scoped>
.set {
  display: flex;
  flex-direction: column;
  gap: 8px;
}
.turning {
  display: flex;
  gap: 14px;
  align-items: center;
}
.steps {
  display: flex;
  flex-direction: column;
  gap: 6px;
  flex: 1;
}
.reads {
  font-size: 34px;
  font-weight: 600;
  line-height: 1;
  font-variant-numeric: tabular-nums;
  white-space: nowrap;
}
.buttons {
  display: grid;
  grid-template-columns: repeat(3, 1fr);
  gap: 6px;
}
.quiet,
label {
  margin: 0;
  color: var(--quiet);
  font-size: 14px;
}
.entries {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 8px;
}
.entries :deep(input) {
  font-size: 21px;
  font-weight: 600;
  font-variant-numeric: tabular-nums;
}
.entries :deep(input::placeholder) {
  font-size: 15px;
  font-weight: 400;
}
.feels {
  display: grid;
  grid-template-columns: repeat(3, 1fr);
  gap: 8px;
}
.feel {
  display: flex;
  align-items: center;
  justify-content: center;
  gap: 8px;
  min-height: 54px;
  font: inherit;
  font-size: 19px;
  font-weight: 600;
  color: var(--ink);
  background: var(--tag);
  border: 1.5px solid var(--ink);
  cursor: pointer;
}
.finer {
  min-height: 44px;
  font-size: 14px;
  font-weight: 500;
  gap: 5px;
  padding: 0 2px;
  white-space: nowrap;
}
.feel:active {
  background: var(--accent);
  color: #fff;
}
/* On a low desk screen every feel stands on it without scrolling. */
@media (pointer: fine) and (max-height: 860px) {
  .set {
    gap: 5px;
  }
  .feels {
    gap: 5px 8px;
  }
  .feel {
    min-height: 42px;
  }
  .finer {
    min-height: 32px;
  }
  .entries > div {
    display: flex;
    flex-direction: column;
  }
  .entries :deep(.el-input) {
    height: 40px;
  }
  .entries label {
    line-height: 1.1;
  }
}
</style>
