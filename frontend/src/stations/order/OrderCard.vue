<script setup lang="ts">
/** One order: its state, its lines, the rods as they measured, and the next step. */
import { decimal, t } from '../../kit/words'
import PickOne from '../../kit/PickOne.vue'
import { until } from '@vueuse/core'
import { computed, nextTick, ref, useTemplateRef } from 'vue'
import type { Build, Order } from '../../api/client'
import { useBegun } from '../../kit/begun'
import { CONVENTION_LIST, CONVENTIONS, clock, day, length, small } from '../../kit/format'
import { wantGauge } from '../../kit/gauge'
import { usePrefs } from '../../kit/prefs'
import ProblemNote from '../../kit/ProblemNote.vue'
import { mended, refusedBy } from '../../kit/refused'
import { useOffers, type Tried, type useOrders } from './useOrders'

const props = defineProps<{
  build: Build
  order: Order
  orders: ReturnType<typeof useOrders>
  /** What is not settled of what would go out. */
  open: string[]
  /** Whether its next step is the one to do now. */
  leads: boolean
}>()
const { unit } = usePrefs()
const STEPS = computed(() =>
  props.order.purpose === 'trial'
    ? ['draft', 'placed', 'received', 'trial']
    : ['draft', 'placed', 'received', 'fitted'],
)
const at = computed(() => STEPS.value.indexOf(unknown.value ? 'draft' : props.order.state))
const title = computed(() =>
  t('{purpose}, order {number}', {
    purpose: props.order.purpose === 'trial' ? t('Trial rods') : t('Set'),
    number: props.order.number,
  }),
)
const unknown = computed(() => ['asked', 'unknown'].includes(props.order.state))
const draft = computed(() => props.order.state === 'draft')
const busy = computed(() => props.orders.busy.value.endsWith(props.order.id))
/** All of it lies on the shop's own shelf: nothing goes out. */
const inBox = computed(() => props.order.lines.every((line) => line.source === 'box'))
const placing = computed(() => {
  if (busy.value) return t('Asking…')
  if (unknown.value) return t('Place it again')
  if (props.order.second_of != null) return t('Place a second set')
  if (inBox.value) return t('Take them from the box')
  return props.order.supplier ? t('Place with the supplier') : t('It is sent')
})
const typed = useBegun(() => `rods ${props.order.id}`)
/** How they were read goes with them: a length without its convention is another length. */
const readIn = useBegun(() => `convention ${props.order.id}`)
const convention = computed({
  get: () => (readIn.value || props.order.convention) as Order['convention'],
  set: (now) => (readIn.value = now),
})
const count = computed(() => props.order.lines.reduce((sum, l) => sum + l.quantity, 0))
async function receive(sure = false) {
  const { order } = props
  if (!(await props.orders.receive(order, typed.value, convention.value, unit.value, sure))) return
  typed.value = ''
  if (matchMedia('(pointer: coarse)').matches) return
  await until(() => props.order.version).not.toBe(order.version, { timeout: 1000 })
  await nextTick()
  next.value?.querySelector<HTMLElement>('input, .strong')?.focus()
}
const next = useTemplateRef('next')
/** What was refused of the lengths. */
const refusal = computed(() =>
  props.orders.refused.value === `receive ${props.order.id}` ? props.orders.problem.value : null,
)
function mend(text: string) {
  typed.value = mended(typed.value, refusal.value, text)
  void receive()
}
const unsent = computed(() => props.orders.problem.value?.code === 'not_sent')
const going = ref(false)
const sure = useTemplateRef<HTMLButtonElement>('sure')
async function placeIt() {
  going.value = false
  await props.orders.place(props.order)
}
const { data: offers } = useOffers(
  () => props.build.id,
  () => going.value && props.order.supplier !== '',
  props.order.id,
)
/** What it costs, as it was drafted: by the supplier's own offer. */
const price = computed(() => {
  if (offers.value?.total == null) return ''
  return t('{a} {currency}, {days} days', {
    a: decimal(offers.value.total.toFixed(2)),
    currency: offers.value.supplier.currency,
    days: offers.value.days,
  })
})
/** What his answer says it costs. */
const total = computed(() => {
  const { total, currency } = props.order.answer ?? {}
  return total == null ? '' : `, ${decimal(Number(total).toFixed(2))} ${String(currency)}`
})
/** What he makes of a line: in his convention, and off by how much. */
function soldAs({ length_in }: Order['lines'][number]): string {
  const his = offers.value?.lines.find((l) => l.source === 'bought' && l.length_in === length_in)
  const as = offers.value?.supplier.convention
  if (his?.offered_in == null || !as) return ''
  const sold = t('sold as {theirs}', { theirs: length(his.offered_in, unit.value) })
  return [`${sold} ${CONVENTIONS[as]}`, ...(his.off_in ? [signed(his.off_in)] : [])].join(', ')
}
const TRIED: Tried[] = ['fits', 'too long', 'too short']
const triedOn = ref(props.build.valves[0]?.name ?? '')
const seen = ref('')
async function tried(number: number, result: Tried) {
  const body = { number, result, valve: triedOn.value, seen: seen.value }
  if (await props.orders.tried(props.order, body)) seen.value = ''
}
const rejects = computed(() =>
  props.order.purpose === 'set' ? props.order.rods.filter((r) => r.valve === null) : [],
)
/** What came against what was ordered, where they differ. */
const unlike = computed(() => props.order.delivery)
const why = ref('')
const words: Record<string, string> = {
  draft: t('Draft'),
  placed: t('Placed'),
  received: t('Received'),
  trial: t('On trial'),
  fitted: t('Fitted'),
}
const signed = (inches: number) => `${inches > 0 ? '+' : ''}${small(inches, unit.value)}`
wantGauge(() => ['placed', 'received'].includes(props.order.state))
</script>

<template>
  <article :aria-label="title" :class="order.state">
    <header>
      <h2>{{ title }}</h2>
      <ol class="steps" :aria-label="t('State')">
        <li
          v-for="(step, i) in STEPS"
          :key="step"
          :class="{ done: i < at, now: i === at }"
          :aria-current="i === at ? 'step' : undefined"
        >
          {{ words[step] }}
        </li>
      </ol>
      <span class="quiet">
        {{ order.supplier || t('by hand') }} · {{ order.made_by || t('unsigned') }},
        {{ day(order.made_at) }} {{ clock(order.made_at) }}
      </span>
    </header>
    <p v-for="w in order.warnings" :key="w" class="warn" role="alert">{{ w }}</p>
    <p v-if="unknown" class="warn" role="alert">
      {{
        t(
          'The supplier was asked and gave no answer. Place it again: he knows the order by its own key and makes it once. Withdrawing voids the key with him.',
        )
      }}
    </p>
    <p v-if="draft && order.reason" class="warn" role="alert">
      {{ t('The supplier refused: {reason} Nothing was ordered.', { reason: order.reason }) }}
    </p>
    <p v-if="order.second_of != null" class="warn" role="alert">
      {{
        t('Order {second_of} for a set stands already. Placing this one buys {count} rods more.', {
          second_of: order.second_of,
          count,
        })
      }}
    </p>
    <div class="body">
      <ul class="lines">
        <li v-for="line in order.lines" :key="`${line.length_in} ${line.source}`">
          <b>{{ line.quantity }} × {{ length(line.length_in, unit) }}</b>
          <span class="quiet">
            <template v-if="line.source === 'box'">{{ t('from the box') }}</template>
            <template v-else-if="line.theirs_in != null">
              {{ t('sold as {theirs}', { theirs: length(line.theirs_in, unit) })
              }}<template v-if="line.off_in">, {{ signed(line.off_in) }}</template>
            </template>
            {{ line.valves.join(' ') }}
          </span>
        </li>
      </ul>
      <p v-if="order.answer" class="answer">
        {{ order.answer.reference }}: <b>{{ order.answer.state }}</b>{{ total }}
      </p>
      <div ref="next" class="do">
        <template v-if="draft || unknown">
          <button
            type="button"
            class="plain"
            :class="{ strong: leads && order.second_of == null }"
            :disabled="busy"
            @click="unknown ? orders.place(order) : (going = true)"
          >
            {{ placing }}
          </button>
          <button
            v-if="unknown"
            type="button"
            class="plain"
            :disabled="busy"
            @click="orders.askStatus(order)"
          >
            {{ t('Ask whether he has it') }}
          </button>
          <button
            type="button"
            class="plain"
            :disabled="busy"
            @click="orders.move(order, 'withdrawn')"
          >
            {{ t('Withdraw') }}
          </button>
        </template>
        <a
          class="plain"
          :href="`/api/builds/${build.id}/orders/${order.id}/sheet.pdf?unit=${unit}`"
          target="_blank"
          rel="noopener"
          >{{ t('Sheet as frozen') }}</a
        >
        <a
          class="plain"
          :href="`/api/builds/${build.id}/orders/${order.id}/labels.pdf?unit=${unit}`"
          target="_blank"
          rel="noopener"
          >{{ t('Labels') }}</a
        >
        <label v-if="order.state === 'received' && order.purpose === 'set' && unlike.length">
          {{ t('Why they are fitted all the same') }}
          <el-input v-model="why" maxlength="200" autocomplete="off" />
        </label>
        <button
          v-if="order.state === 'received'"
          type="button"
          class="plain strong"
          @click="orders.move(order, order.purpose === 'trial' ? 'trial' : 'fitted', why)"
        >
          {{ order.purpose === 'trial' ? t('They are on the engine') : t('They are fitted') }}
        </button>
        <button
          v-if="order.state === 'trial' && !order.closed_at"
          type="button"
          class="plain strong"
          @click="orders.move(order, 'returned')"
        >
          {{ t('Back to the box') }}
        </button>
        <span v-if="order.state === 'trial' && order.closed_at" class="quiet">{{
          t('Back in the box.')
        }}</span>
        <RouterLink
          v-if="order.state === 'fitted'"
          class="plain strong"
          :to="{ name: 'sign_off', params: { buildId: build.id } }"
          >{{ t('Check and sign off') }}</RouterLink
        >
      </div>
    </div>
    <el-dialog
      v-model="going"
      align-center
      :title="inBox ? t('From the box') : order.supplier ? t('This goes out') : t('This was sent')"
      width="min(520px, 94vw)"
      @opened="sure?.focus()"
    >
      <p class="goes">
        <template v-if="inBox">{{ title }}</template>
        <template v-else>
          {{ t('{title} to', { title }) }}
          <b>{{ order.supplier || t('your supplier, by hand') }}</b></template
        >{{ t(', {count} rods:', { count }) }}
      </p>
      <ul class="lines">
        <li v-for="line in order.lines" :key="`${line.length_in} ${line.source}`">
          <b>{{ line.quantity }} × {{ length(line.length_in, unit) }}</b>
          <span class="quiet">{{ line.source === 'box' ? t('from the box') : soldAs(line) }}</span>
        </li>
      </ul>
      <p class="goes">
        {{ CONVENTIONS[order.convention] }}<template v-if="price">, {{ price }}</template>
      </p>
      <template v-if="open.length">
        <p class="goes">
          <b>{{ t('Still open') }}</b>
        </p>
        <ul class="open">
          <li v-for="point in open" :key="point">{{ point }}</li>
        </ul>
      </template>
      <template #footer>
        <button type="button" class="plain" @click="going = false">{{ t('Not yet') }}</button>
        <button ref="sure" type="button" class="plain strong" :disabled="busy" @click="placeIt">
          {{
            inBox
              ? t('Take them from the box')
              : order.supplier
                ? t('Send it')
                : t('Yes, it is sent')
          }}
        </button>
      </template>
    </el-dialog>
    <form
      v-if="order.state === 'placed' || order.state === 'received'"
      class="receive"
      @submit.prevent="receive()"
    >
      <label>
        {{ t('Measure every rod: {count} lengths, parted by blanks, commas or lines', { count }) }}
        <el-input
          v-model="typed"
          v-bind="refusedBy(`rods-${order.id}`, refusal)"
          type="textarea"
          data-main
          :autosize="{ minRows: 1, maxRows: 4 }"
          :aria-label="t('Measured lengths')"
          @keydown.enter.exact.prevent="receive()"
        />
      </label>
      <label>
        {{ t('They read') }}
        <PickOne
          v-model="convention"
          :label="t('Convention of the measured lengths')"
          :options="CONVENTION_LIST"
        />
      </label>
      <button
        type="submit"
        class="plain"
        :class="{ strong: !order.rods.length }"
        :disabled="!typed.trim()"
      >
        {{ order.rods.length ? t('Measure again') : t('Receive') }}
      </button>
      <button v-if="unsent" type="button" class="plain" @click="receive(true)">
        {{ t('They are here all the same') }}
      </button>
      <ProblemNote :id="`rods-${order.id}-why`" :problem="refusal" @use="mend" />
    </form>
    <div v-if="order.state === 'trial' && !order.closed_at" class="receive trying">
      <label>
        {{ t('Tried on') }}
        <select v-model="triedOn" :aria-label="t('Tried on')">
          <option v-for="v in build.valves" :key="v.id">{{ v.name }}</option>
        </select>
      </label>
      <label>
        {{ t('What was seen') }}
        <el-input
          v-model="seen"
          maxlength="200"
          autocomplete="off"
          :placeholder="t('mark, sound')"
        />
      </label>
      <span class="quiet">{{ t('Then say of each rod how it is.') }}</span>
    </div>
    <table v-if="order.rods.length">
      <thead>
        <tr>
          <th scope="col">{{ t('Rod') }}</th>
          <th scope="col">
            {{ t('Measured, {CONVENTIONS}', { CONVENTIONS: CONVENTIONS[order.convention] }) }}
          </th>
          <th scope="col">{{ t('Off the order') }}</th>
          <th v-if="order.purpose === 'trial'" scope="col">{{ t('Tried') }}</th>
          <template v-if="order.purpose === 'set'">
            <th scope="col">{{ t('Goes to') }}</th>
            <th scope="col">{{ t('Preload') }}</th>
          </template>
        </tr>
      </thead>
      <tbody>
        <tr v-for="rod in order.rods" :key="rod.number">
          <td>{{ rod.number }}</td>
          <td>{{ length(rod.length_in, unit) }}</td>
          <td :class="{ warn: !rod.within_tolerance }">
            {{ signed(rod.off_in) }}{{ rod.within_tolerance ? '' : t(', off tolerance') }}
          </td>
          <td v-if="order.purpose === 'trial'" class="tried">
            <template v-if="order.state === 'trial' && !order.closed_at">
              <button
                v-for="found in TRIED"
                :key="found"
                type="button"
                class="plain"
                :aria-pressed="rod.tried === found"
                :class="{ strong: rod.tried === found }"
                :aria-label="t('Rod {number} {found}', { number: rod.number, found: t(found) })"
                @click="tried(rod.number, found)"
              >
                {{ t(found) }}
              </button>
            </template>
            <template v-else>{{ rod.tried && t(rod.tried) }}</template>
            <span v-if="rod.tried" class="quiet">
              {{ rod.tried_on ? t('on {tried_on}', { tried_on: rod.tried_on }) : '' }}
              {{ rod.seen }}
            </span>
          </td>
          <template v-if="order.purpose === 'set'">
            <td>
              <b v-if="rod.valve">{{ rod.valve }}</b>
              <span v-else class="warn">{{ t('reject') }}</span>
            </td>
            <td>{{ rod.preload_in == null ? '' : small(rod.preload_in, unit) }}</td>
          </template>
        </tr>
      </tbody>
    </table>
    <p v-if="unlike.length" class="warn">
      {{
        t('Not as ordered: {a}.{reason}', {
          a: unlike.join('; '),
          reason: order.reason ? ` ${order.reason}` : '',
        })
      }}
    </p>
    <p v-if="rejects.length" class="warn">
      {{
        t('{rejects} of {rods} rods serve no valve inside its window: send them back.', {
          rejects: rejects.length,
          rods: order.rods.length,
        })
      }}
    </p>
  </article>
</template>

<style scoped>
article {
  display: flex;
  flex-direction: column;
  gap: 8px;
  padding: 12px 0 14px;
  border-top: 2px solid var(--ink);
}
header,
.body,
.do,
.receive {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 20px;
  align-items: center;
}
.body {
  justify-content: space-between;
}
h2 {
  margin: 0;
  font-size: 21px;
}
.steps {
  display: flex;
  gap: 0;
  margin: 0;
  padding: 0;
  list-style: none;
}
.steps li {
  padding: 3px 14px;
  border: 1.5px solid var(--rule);
  border-left-width: 0;
  color: var(--quiet);
}
.steps li:first-child {
  border-left-width: 1.5px;
}
.steps .done {
  background: var(--tag);
  color: var(--ink);
}
.steps .now {
  background: var(--ink);
  color: var(--page);
  font-weight: 600;
}
.quiet {
  color: var(--quiet);
  font-size: 14px;
}
.lines {
  margin: 0;
  padding: 0;
  list-style: none;
  font-variant-numeric: tabular-nums;
}
.lines b {
  font-size: 19px;
  margin-right: 8px;
}
.warn {
  margin: 0;
  color: var(--alarm-ink);
}
.answer,
.goes {
  margin: 0;
}
.open {
  margin: 0;
  padding-left: 20px;
  color: var(--alarm-ink);
}
.tried .plain {
  margin-right: 4px;
}
.receive {
  align-items: end;
}
.receive label {
  display: flex;
  flex-direction: column;
  gap: 4px;
  font-size: 14px;
  color: var(--quiet);
}
.receive label:first-child {
  flex: 1;
  min-width: 300px;
}
.receive select {
  width: 190px;
}
</style>
