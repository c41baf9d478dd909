<script setup lang="ts">
/** Did it come out right: every check after fitting, its limit and margin, and the signature. */
import { t } from '../../kit/words'
import { computed, nextTick, ref, watch } from 'vue'
import { problemOf, type CheckPoint, type FindingIn, type Problem } from '../../api/client'
import SignMap from '../../drawings/SignMap.vue'
import { useBegun } from '../../kit/begun'
import CautionList from '../../kit/CautionList.vue'
import { clock, day } from '../../kit/format'
import { useKeys } from '../../kit/keys'
import { useInSight } from '../../kit/leftBehind'
import { me } from '../../kit/me'
import { usePrefs } from '../../kit/prefs'
import ProblemNote from '../../kit/ProblemNote.vue'
import { useBuild } from '../builds'
import { useKeeper } from '../useKeeper'
import CheckEntry from './CheckEntry.vue'
import LashSheet from './LashSheet.vue'
import ReportButton from './ReportButton.vue'
import TorqueCard from './TorqueCard.vue'
import { useSignOff } from './useSignOff'

const props = defineProps<{ buildId: string }>()
const { unit, by } = usePrefs()
const { data: build, error } = useBuild(() => props.buildId)
const finish = useSignOff(() => props.buildId)
const all = computed(() => finish.data.value)
const keeper = useKeeper(() => props.buildId)
// Limits and figures of the set-up judge the findings.
watch(
  () => build.value?.version,
  (now, before) => before !== undefined && now !== before && void finish.refetch(),
)

const picked = ref('')
const check = computed(() => {
  const checks = all.value?.checks ?? []
  return (
    checks.find((c) => c.name === picked.value) ??
    checks.find((c) => c.open || c.failed) ??
    checks[0]
  )
})
const pickedValve = ref('')
const valve = computed(() => {
  const points = check.value?.points ?? []
  const own = points.find((p) => p.valve === pickedValve.value)
  return (own ?? points.find(isOpen) ?? points[0])?.valve ?? ''
})

/** What is on its way, by check and valve: it is not asked for again. */
const sent = new Set<string>()
const isOpen = (p: CheckPoint) =>
  p.state === 'open' &&
  !sent.has(`${check.value?.name} ${p.valve}`) &&
  !finish.unsent.value.some((u) => u.name === check.value?.name && u.valve === p.valve)
const problem = ref<Problem | null>(null)
watch([() => check.value?.name, valve], () => (problem.value = null))
const inSight = useInSight(() => `${picked.value} ${pickedValve.value}`)

/**
 * Keep what was found: the check stays in hand, and its next open valve is asked for at once. What
 * is refused comes back for its valve, unless something else is being entered by then (`free`).
 */
async function find(body: Omit<FindingIn, 'key' | 'by' | 'unit'>, free: () => boolean) {
  const { name, valve: at } = body
  problem.value = null
  sent.add(`${name} ${at}`)
  const next = check.value?.points.find(isOpen)?.valve ?? at
  hold(name, next)
  const seen = inSight()
  const stands = () => seen() && free()
  const title = check.value?.title ?? name
  const refused = await finish.find(title, { ...body, unit: unit.value }, stands)
  sent.delete(`${name} ${at}`)
  if (!refused) return true
  hold(name, at)
  await nextTick()
  problem.value = refused
  return false
}
/** A check stays in hand until another is chosen. */
function hold(name: string, at: string) {
  picked.value = name
  pickedValve.value = at
}
function select(name: string) {
  pickedValve.value = name
}
function step(by: number) {
  const checks = all.value?.checks ?? []
  const at = checks.findIndex((c) => c.name === check.value?.name)
  picked.value = checks[(at + by + checks.length) % checks.length]?.name ?? ''
  pickedValve.value = ''
}
useKeys([
  { key: 'v', does: t('Next check'), run: () => step(1) },
  { key: 'b', does: t('Check before'), run: () => step(-1) },
])

const reason = useBegun(() => `sign ${props.buildId}`)
let signKey = crypto.randomUUID()
async function sign() {
  if (await finish.sign({ key: signKey, by: by.value, reason: reason.value })) {
    reason.value = ''
    signKey = crypto.randomUUID()
  }
}
const signed = computed(() => all.value?.signatures[0] ?? null)
const holds = computed(() => signed.value !== null && !signed.value.stale)
const signLabel = computed(() => {
  if (holds.value) return t('Sign again')
  return all.value?.open_points.length ? t('Sign with this reason') : t('Sign')
})
const headline = computed(() => {
  const { failing = 0, missing = 0 } = all.value ?? {}
  if (signed.value && holds.value) return t('Signed by {by}.', { by: signed.value.by })
  if (failing) return `${failing} ${failing === 1 ? t('check fails') : t('checks fail')}.`
  if (missing)
    return t('{missing} {missing2} to make.', {
      missing,
      missing2: missing === 1 ? t('check') : t('checks'),
    })
  return t('Every check is made and passes.')
})
</script>

<template>
  <p v-if="error" role="alert">{{ problemOf(error).detail }}</p>
  <div v-if="build && all && check" class="page">
    <section class="left" :aria-label="t('Sign-off')">
      <div class="said" :class="{ bad: all.failing, good: holds }">
        <h1>{{ headline }}</h1>
        <p v-if="signed" class="quiet">
          {{
            signed.stale
              ? t('Signed by {by} before this; changed since: {what}.', {
                  by: signed.by,
                  what: signed.moved_on.join(', '),
                })
              : ''
          }}
          {{ day(signed.at) }} {{ clock(signed.at) }}{{ signed.reason ? `: ${signed.reason}` : '' }}
        </p>
        <p v-if="!all.fitted" class="quiet">
          {{ t('No set of rods is marked as fitted yet: see Order.') }}
        </p>
      </div>
      <SignMap
        :heads="all.heads"
        :states="all.states"
        :selected="valve"
        :wanted="check.points.filter((p) => p.state !== 'passed').map((p) => p.valve)"
        @select="select"
      />
      <ul class="checks" :aria-label="t('Checks')">
        <li v-for="c in all.checks" :key="c.name">
          <button
            type="button"
            :class="{ now: c.name === check.name }"
            :aria-pressed="c.name === check.name"
            @click="((picked = c.name), (pickedValve = ''))"
          >
            <span>{{ c.title }}</span>
            <b v-if="c.failed" class="alarm">✕ {{ c.failed }}</b>
            <b v-else-if="c.open" class="quiet">{{ t('{open} open', { open: c.open }) }}</b>
            <b v-else>✓</b>
          </button>
        </li>
      </ul>
    </section>
    <div class="right">
      <CheckEntry
        :build="build"
        :check="check"
        :valve="valve"
        :problem="problem"
        :unsent="finish.unsent.value"
        :keeper="keeper"
        :find="find"
        @select="select"
        @hold="hold(check.name, valve)"
      />
      <section class="sign" :aria-label="t('Signature')">
        <h2>{{ t('Sign off') }}</h2>
        <p v-for="note in all.notes" :key="note" class="note">{{ note }}</p>
        <ul v-if="all.open_points.length" class="open">
          <li v-for="p in all.open_points.slice(0, 6)" :key="p">{{ p }}</li>
          <li v-if="all.open_points.length > 6">
            {{ t('and {open_points} more', { open_points: all.open_points.length - 6 }) }}
          </li>
        </ul>
        <label v-if="all.open_points.length">
          {{ t('Why it may run all the same') }}
          <el-input v-model="reason" type="textarea" :rows="2" :aria-label="t('Reason')" />
        </label>
        <div class="do">
          <label>
            {{ t('Signed by') }}
            <el-input
              v-model="by"
              :aria-label="t('Signed by')"
              maxlength="60"
              autocomplete="off"
              :readonly="Boolean(me.name)"
            />
          </label>
          <button
            type="button"
            class="plain"
            :class="{ strong: !holds && !all.open_points.length }"
            @click="sign"
          >
            {{ signLabel }}
          </button>
          <ReportButton :build-id="buildId" />
        </div>
        <ProblemNote :problem="finish.problem.value" />
      </section>
      <LashSheet v-if="all.lash" :lash="all.lash" />
      <TorqueCard :build="build" :finish="all" :keeper="keeper" />
    </div>
    <CautionList class="wide" :cautions="all.cautions" />
  </div>
</template>

<style scoped>
.page {
  display: grid;
  grid-template-columns: 400px minmax(0, 1fr);
  gap: 16px 34px;
  align-items: start;
}
.left,
.right {
  display: flex;
  flex-direction: column;
  gap: 14px;
}
.right {
  gap: 24px;
}
.wide {
  grid-column: 1 / -1;
}
.said {
  border-left: 5px solid var(--accent);
  padding-left: 14px;
}
.said.bad {
  border-left: 5px double var(--alarm);
}
.said.good {
  border-left-color: var(--good);
}
h1 {
  margin: 0;
  font-size: 26px;
  line-height: 1.15;
}
h2 {
  margin: 0;
  font-size: 21px;
}
.quiet {
  margin: 2px 0 0;
  color: var(--quiet);
}
.checks {
  margin: 0;
  padding: 0;
  list-style: none;
}
.checks button {
  display: flex;
  justify-content: space-between;
  align-items: center;
  width: 100%;
  min-height: 44px;
  padding: 0 12px;
  font: inherit;
  color: var(--ink);
  text-align: left;
  background: none;
  border: 0;
  border-bottom: 1px solid var(--rule);
  cursor: pointer;
}
.checks .now {
  background: var(--paper);
  box-shadow: inset 4px 0 0 var(--accent);
  font-weight: 600;
}
.checks b.quiet {
  font-weight: 400;
}
.alarm {
  color: var(--alarm-ink);
}
.sign {
  display: flex;
  flex-direction: column;
  gap: 8px;
  padding-top: 14px;
  border-top: 2px solid var(--ink);
}
.sign label {
  font-size: 14px;
  color: var(--quiet);
}
.note {
  margin: 0;
  padding-left: 10px;
  border-left: 4px solid var(--alarm);
}
.open {
  margin: 0;
  padding-left: 20px;
}
.do {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 12px;
  align-items: end;
}
.do .el-input {
  display: flex;
  width: 200px;
}
@container station (max-width: 960px) {
  .page {
    grid-template-columns: minmax(0, 1fr);
  }
  .checks {
    display: grid;
    grid-template-columns: 1fr 1fr;
    gap: 0 14px;
  }
}
</style>
