<script setup lang="ts">
/** The head map: the whole engine at once, what its valves say together, what is doubted. */
import { t } from '../../kit/words'
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { useRouter } from 'vue-router'
import { problemOf } from '../../api/client'
import HeadMap from '../../drawings/HeadMap.vue'
import ChoiceRow from '../../kit/ChoiceRow.vue'
import { bareLength, fill, length, small } from '../../kit/format'
import { useKeys } from '../../kit/keys'
import { usePrefs } from '../../kit/prefs'
import { MARKS, WORDS } from '../../kit/states'
import { asks, keys, useBuild } from '../builds'
import { ladderOf } from '../ladder'
import ReadingFiles from './ReadingFiles.vue'
import SuspicionNote from '../../kit/SuspicionNote.vue'
import LifterAsked from './LifterAsked.vue'

const props = defineProps<{ buildId: string }>()
const router = useRouter()
const { unit } = usePrefs()
const { data: build } = useBuild(() => props.buildId)
const { data: map, error } = useQuery({
  queryKey: computed(() => keys.heads(props.buildId)),
  queryFn: () => asks.heads(props.buildId),
})

type Selection = 'all' | 'corners' | 'cylinder'
const selection = ref<Selection>('all')
const SELECTIONS = [
  { value: 'cylinder', words: t('One cylinder') },
  { value: 'corners', words: t('Four corners') },
  { value: 'all', words: t('All') },
] as const satisfies { value: Selection; words: string }[]
const wanted = computed(() => map.value?.selections[selection.value] ?? [])
const valves = computed(() => map.value?.heads.flatMap((h) => h.valves) ?? [])
const left = computed(() =>
  valves.value.filter(
    (v) => wanted.value.includes(v.name) && (v.state === 'waiting' || v.state === 'measuring'),
  ),
)

const picked = ref<string | null>(null)
const selected = computed(() => {
  const doubted = map.value?.suspicions[0]?.name
  const odd = valves.value.find((v) => v.state === 'odd')?.name
  const name = picked.value ?? doubted ?? odd ?? left.value[0]?.name ?? valves.value[0]?.name
  return valves.value.find((v) => v.name === name) ?? null
})

function step(heads: number, along: number) {
  const rows = map.value?.heads ?? []
  const row = rows.findIndex((h) => h.valves.some((v) => v.name === selected.value?.name))
  const at = rows[row]?.valves.findIndex((v) => v.name === selected.value?.name) ?? 0
  const to = rows[(row + heads + rows.length) % rows.length]
  const next = to?.valves[(at + along + to.valves.length) % to.valves.length]
  if (next) picked.value = next.name
}
function measure(id?: string) {
  const valveId = id ?? selected.value?.id
  if (valveId) void router.push({ name: 'zero_lash', params: { buildId: props.buildId, valveId } })
}
function nextLeft() {
  const at = left.value.findIndex((v) => v.name === selected.value?.name)
  picked.value = left.value[(at + 1) % Math.max(left.value.length, 1)]?.name ?? picked.value
}
useKeys([
  { key: 'arrowright', shown: '→', does: t('Next valve'), run: () => step(0, 1) },
  { key: 'arrowleft', shown: '←', does: t('Valve before'), run: () => step(0, -1) },
  { key: 'h', does: t('Other head'), run: () => step(1, 0) },
  { key: 'enter', shown: t('Enter'), does: t('Measure the valve'), run: () => measure() },
  { key: 'n', does: t('Next valve of the plan not measured'), run: nextLeft },
  {
    key: 'c',
    does: t('Four corners or all'),
    run: () => (selection.value = selection.value === 'corners' ? 'all' : 'corners'),
  },
])

const LEGEND = (
  ['waiting', 'measured', 'fits', 'limit', 'outside', 'suspicious', 'odd'] as const
).map((state) => ({
  state,
  mark: { waiting: '◌', suspicious: '▲' }[state as string] ?? MARKS[state],
  words: WORDS[state],
}))
const capital = (words: string) => words.charAt(0).toUpperCase() + words.slice(1)
const doubt = computed(
  () => map.value?.suspicions.find((s) => s.name === selected.value?.name) ?? null,
)
/** Where the build goes on, once nothing is left to measure here. */
const onward = computed(() => {
  const step = build.value?.next_step
  if (!step || ['setup', 'zero_lash', 'heads'].includes(step.station)) return null
  if (left.value.length || doubt.value) return null
  const valveId = step.valve_id ?? selected.value?.id ?? ''
  return { name: step.station, params: { buildId: props.buildId, valveId } }
})
const others = computed(() => map.value?.suspicions.filter((s) => s !== doubt.value) ?? [])
</script>

<template>
  <p v-if="error" role="alert">{{ problemOf(error).detail }}</p>
  <div v-if="build && map" class="page">
    <section class="drawing" :aria-label="t('Head map')">
      <div class="top">
        <ChoiceRow
          v-model="selection"
          quiet
          :label="t('Valves to measure')"
          :options="SELECTIONS"
        />
        <span class="count">
          {{
            left.length
              ? t('{left} of {wanted} left to measure', {
                  left: left.length,
                  wanted: wanted.length,
                })
              : t('All {wanted} measured', { wanted: wanted.length })
          }}
        </span>
      </div>
      <HeadMap
        :unit="unit"
        :map="map"
        :lifter="ladderOf(build).lifter"
        :selected="selected?.name ?? null"
        :wanted="wanted"
        @select="picked = $event"
        @measure="measure"
      />
      <ul class="legend" :aria-label="t('Marks')">
        <li v-for="l in LEGEND" :key="l.state">
          <span>{{ l.mark }}</span> {{ l.words }}
        </li>
        <li><i class="rod" /> {{ t('chosen rod') }}</li>
        <li><i class="band" /> {{ t('where the valve wants it') }}</li>
        <li><i class="zero" /> {{ t('zero lash') }}</li>
      </ul>
    </section>
    <section class="say" :aria-label="t('What the valves say')">
      <div v-if="selected" class="valve" :class="selected.state">
        <h2>
          {{
            t('Cylinder {cylinder} {kind}', { cylinder: selected.cylinder, kind: t(selected.kind) })
          }}
          <small>{{ capital(WORDS[selected.state]) }}</small>
        </h2>
        <p v-if="selected.estimate_in !== null" class="figures">
          {{ t('zero lash') }} <b>{{ length(selected.estimate_in, unit) }}</b> ±
          {{ small(2 * (selected.u_in ?? 0), unit) }}
          <template v-if="selected.preload_in !== null">
            {{ t('· preload') }} <b>{{ small(selected.preload_in, unit) }}</b>
          </template>
        </p>
        <SuspicionNote v-if="doubt" :suspicion="doubt">
          <LifterAsked v-if="build" :build="build" />
        </SuspicionNote>
        <button type="button" class="plain" :class="{ strong: !onward }" @click="measure()">
          {{ selected.readings ? t('Measure again') : t('Measure') }} {{ selected.name }}
          <kbd>{{ t('Enter') }}</kbd>
        </button>
      </div>
      <ul v-if="others.length" class="others" :aria-label="t('Suspicious as well')">
        <li v-for="s in others" :key="s.name">
          <button type="button" @click="picked = s.name">
            ▲ {{ fill(s.sentence, {}, { off: Math.abs(s.off_in) }, unit) }}
          </button>
        </li>
      </ul>
      <h3>{{ t('Together') }}</h3>
      <div v-for="f in map.remarks" :key="f.what" class="finding" :class="f.about">
        <b>{{ fill(f.what, {}, f.smalls, unit) }}</b>
        <p>{{ fill(f.why, {}, f.smalls, unit) }}</p>
        <p v-if="f.then" class="then">{{ fill(f.then, {}, f.smalls, unit) }}</p>
      </div>
      <dl>
        <template v-for="kind in ['intake', 'exhaust'] as const" :key="kind">
          <dt>{{ t('{kind} spread', { kind: t(kind) }) }}</dt>
          <dd>
            {{ map.spread_in[kind] == null ? t('needs two') : small(map.spread_in[kind], unit) }}
          </dd>
        </template>
        <dt>{{ t('rods, {axisWords}', { axisWords: ladderOf(build).axisWords }) }}</dt>
        <dd>
          <template v-if="!map.rods.length">{{ t('not chosen') }}</template>
          <div v-for="lot in map.rods" :key="lot.length_in">
            {{ lot.count }} × {{ bareLength(lot.length_in, unit) }}
          </div>
        </dd>
      </dl>
      <template v-if="onward">
        <p class="sentence">{{ build.next_step.sentence }}</p>
        <RouterLink class="plain strong" :to="onward">{{ t('Go on') }}</RouterLink>
      </template>
      <ReadingFiles :build-id="buildId" />
    </section>
  </div>
  <p v-else class="away">{{ t('Reading the heads…') }}</p>
</template>

<style scoped>
.page {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 360px;
  gap: 26px;
  align-items: start;
}
.top {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 8px 18px;
  margin-bottom: 6px;
}
.count {
  font-weight: 600;
}
.sentence {
  margin: 0;
}
.legend {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 18px;
  margin: 8px 0 0;
  padding: 0;
  list-style: none;
  font-size: 14px;
  color: var(--quiet);
}
.legend span {
  color: var(--ink);
  font-weight: 600;
}
.legend i {
  display: inline-block;
  width: 18px;
  margin-right: 3px;
  vertical-align: middle;
}
.legend .rod {
  border-top: 3px solid var(--ink);
}
.legend .band {
  height: 10px;
  background: var(--good);
  opacity: 0.6;
}
.legend .zero {
  border-top: 3px solid var(--accent);
}
.say {
  display: flex;
  flex-direction: column;
  gap: 10px;
}
.valve {
  border-left: 5px solid var(--rule);
  padding-left: 14px;
  display: flex;
  flex-direction: column;
  gap: 6px;
}
.fits {
  border-left-color: var(--good);
}
.outside,
.suspicious {
  border-left: 5px double var(--alarm);
}
.odd {
  border-left-color: var(--accent);
}
h2 {
  margin: 0;
  font-size: 22px;
  line-height: 1.15;
}
h2 small {
  display: block;
  font-size: 16px;
  font-weight: 400;
}
h3 {
  margin: 4px 0 -4px;
  font-size: 16px;
}
.figures {
  margin: 0;
  font-variant-numeric: tabular-nums;
}
.strong kbd {
  color: inherit;
  border-color: currentColor;
}
.others {
  margin: 0;
  padding: 0;
  list-style: none;
}
.others button {
  min-height: 44px;
  padding: 0;
  border: 0;
  background: none;
  font: inherit;
  text-align: left;
  color: var(--alarm-ink);
  cursor: pointer;
}
.finding p {
  margin: 2px 0 0;
  color: var(--quiet);
  line-height: 1.3;
}
.finding .then {
  color: var(--ink);
}
dl {
  display: grid;
  grid-template-columns: 1fr auto;
  gap: 2px 12px;
  margin: 0;
  padding-top: 8px;
  border-top: 1px solid var(--rule);
  font-size: 15px;
}
dt {
  color: var(--quiet);
}
dt::first-letter {
  text-transform: uppercase;
}
dd {
  margin: 0;
  font-variant-numeric: tabular-nums;
}
.away {
  padding: 40px 0;
}
@container station (max-width: 1060px) {
  .page {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
