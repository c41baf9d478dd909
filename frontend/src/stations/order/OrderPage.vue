<script setup lang="ts">
/** Orders: what goes out, to whom, how it stands, and the rods as they came back. */
import { decimal, t } from '../../kit/words'
import { computed, ref } from 'vue'
import { problemOf, type Order } from '../../api/client'
import CautionList from '../../kit/CautionList.vue'
import { CONVENTIONS, bareSmall, length, small } from '../../kit/format'
import { useKeys } from '../../kit/keys'
import { usePrefs } from '../../kit/prefs'
import ProblemNote from '../../kit/ProblemNote.vue'
import { useBuild } from '../builds'
import { useKeeper } from '../useKeeper'
import OrderCard from './OrderCard.vue'
import { useOffers, useOrders, useSupplier } from './useOrders'

const props = defineProps<{ buildId: string }>()
const { unit, by } = usePrefs()
const { data: build, error } = useBuild(() => props.buildId)
const { data: supplier } = useSupplier()
const orders = useOrders(() => props.buildId)
const all = computed(() => orders.data.value)
const ready = computed(() => (all.value?.set_lines.length ?? 0) > 0)
const { data: offers, error: noOffers } = useOffers(
  () => props.buildId,
  () => ready.value && (supplier.value?.there ?? false),
)
const keeper = useKeeper(() => props.buildId)
const url = computed(() => `/api/builds/${props.buildId}/order`)
const letter = ref(false)
const print = computed(
  () => `${url.value}.pdf?unit=${unit.value}${letter.value ? '&paper=Letter' : ''}`,
)

// One id for each kind of draft, until it is kept: a repeat is the same order.
const ids = new Map<string, string>()
async function draft(purpose: 'trial' | 'set', withSupplier: boolean) {
  const name = `${purpose} ${withSupplier}`
  const id = ids.get(name) ?? crypto.randomUUID()
  ids.set(name, id)
  if (await orders.draft(id, purpose, withSupplier, by.value)) ids.delete(name)
}
const conventionDiffers = computed(
  () => supplier.value?.convention && supplier.value.convention !== build.value?.order_convention,
)
function takeTheirs() {
  const { convention, gauge_circle_in: circle } = supplier.value ?? {}
  if (convention)
    void keeper.keep({
      order_convention: convention,
      ...(circle ? { gauge_circle_in: circle } : {}),
    })
}
const lines = computed(() => offers.value?.lines ?? all.value?.set_lines ?? [])
const open = computed(() => all.value?.orders.filter((o: Order) => o.state !== 'withdrawn') ?? [])
/** What is drafted goes out first, and what is on its way is tried or fitted first. */
const UNDER_WAY = ['draft', 'asked', 'unknown', 'placed', 'received', 'fitted']
const first = computed(() => open.value.some((o: Order) => UNDER_WAY.includes(o.state)))
/** Trial rods that are not on the engine yet: a set waits for what they say. */
const trying = computed(() =>
  open.value.some((o: Order) => o.purpose === 'trial' && UNDER_WAY.includes(o.state)),
)
/** The one order to send now: whose answer is not known, else trial rods, else the set. */
const goes = computed(() => {
  const unsent = open.value.filter((o: Order) => ['draft', 'asked', 'unknown'].includes(o.state))
  return (
    unsent.find((o: Order) => o.state !== 'draft') ??
    unsent.find((o: Order) => o.purpose === 'trial') ??
    (trying.value ? undefined : unsent[0])
  )
})
/** The latest order that was withdrawn: it can come back while it never went out. */
const withdrawn = computed(() => all.value?.orders.find((o: Order) => o.state === 'withdrawn'))
useKeys([
  {
    key: 'p',
    does: t('Open the order sheet to print'),
    run: () => ready.value && window.open(print.value),
  },
  {
    key: 't',
    does: t('Draft trial rods'),
    run: () => ready.value && draft('trial', supplier.value?.there ?? false),
  },
])
</script>

<template>
  <p v-if="error" role="alert">{{ problemOf(error).detail }}</p>
  <div v-if="build && all" class="order">
    <section class="now" :aria-label="t('Order lines')">
      <div class="what">
        <p class="quiet">
          {{
            t('What Decide asks for, {CONVENTIONS}', {
              CONVENTIONS: CONVENTIONS[build.order_convention],
            })
          }}
        </p>
        <p v-if="!ready" class="none">{{ t('Nothing to order yet: find zero lash first.') }}</p>
        <table v-else>
          <thead v-if="offers">
            <tr>
              <th scope="col">{{ t('Rods') }}</th>
              <th scope="col">{{ CONVENTIONS[build.order_convention] }}</th>
              <th scope="col">{{ CONVENTIONS[offers.supplier.convention ?? 'gauge'] }}</th>
              <th scope="col">{{ t('Offered') }}</th>
              <th scope="col">{{ t('Off by') }}</th>
              <th scope="col">{{ t('Each') }}</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="line in lines" :key="`${line.length_in} ${line.source}`">
              <th scope="row">{{ line.quantity }} ×</th>
              <td class="long">{{ length(line.length_in, unit) }}</td>
              <template v-if="line.source === 'box'">
                <td colspan="4" class="quiet">{{ t("from the shop's own box") }}</td>
              </template>
              <template v-else-if="offers">
                <td>{{ line.theirs_in == null ? '' : length(line.theirs_in, unit) }}</td>
                <td>
                  {{ line.offered_in == null ? t('not sold') : length(line.offered_in, unit) }}
                </td>
                <td>
                  {{
                    line.off_in == null
                      ? ''
                      : `${bareSmall(line.off_in, unit)} ${unit === 'in' ? 'thou' : 'mm'}`
                  }}
                </td>
                <td>
                  {{
                    t('{a} {made}, {days} days', {
                      a: decimal(line.price?.toFixed(2) ?? ''),
                      made: line.made ? t('made to order') : t('off the shelf'),
                      days: line.days,
                    })
                  }}
                </td>
              </template>
              <td v-else class="quiet">{{ line.valves.join(', ') }}</td>
            </tr>
          </tbody>
          <tfoot v-if="offers && offers.total !== null">
            <tr>
              <td colspan="5">
                {{
                  t('{name}, rods ± {tolerance}', {
                    name: offers.supplier.name,
                    tolerance: small(offers.supplier.tolerance_in ?? 0, unit),
                  })
                }}
              </td>
              <td>
                <b>{{ decimal(offers.total.toFixed(2)) }} {{ offers.supplier.currency }}</b
                >{{ t(', {days} days', { days: offers.days }) }}
              </td>
            </tr>
          </tfoot>
        </table>
        <p v-if="ready && conventionDiffers" class="convert">
          {{
            t('The supplier gives lengths as {CONVENTIONS}; his steps fall between yours.', {
              CONVENTIONS: CONVENTIONS[supplier!.convention!],
            })
          }}
          <button type="button" class="plain" @click="takeTheirs">
            {{ t('Decide in {CONVENTIONS}', { CONVENTIONS: CONVENTIONS[supplier!.convention!] }) }}
          </button>
        </p>
        <p v-if="supplier && !supplier.there" class="quiet">
          {{
            t('No supplier: {why_not} Order by PDF, CSV, JSON or e-mail text.', {
              why_not: supplier.why_not,
            })
          }}
        </p>
        <p v-if="noOffers" class="warn">{{ problemOf(noOffers).detail }}</p>
        <ProblemNote :problem="keeper.refusalOf('order_convention')" />
      </div>
      <div v-if="ready" class="out">
        <button
          type="button"
          class="plain"
          :class="{ strong: !first && all.try_first }"
          :disabled="orders.busy.value === 'draft'"
          @click="draft('trial', supplier?.there ?? false)"
        >
          {{ t('Draft trial rods: the length, a size up and down') }}
        </button>
        <button
          v-if="supplier?.there"
          type="button"
          class="plain"
          :class="{ strong: !first && !all.try_first }"
          :disabled="orders.busy.value === 'draft'"
          @click="draft('set', true)"
        >
          {{ t('Draft the set for the supplier') }}
        </button>
        <button
          type="button"
          class="plain"
          :class="{ strong: !first && !supplier?.there && !all.try_first }"
          :disabled="orders.busy.value === 'draft'"
          @click="draft('set', false)"
        >
          {{ t('Draft the set, ordered by hand') }}
        </button>
        <span class="files">
          <a class="plain" :href="print" target="_blank" rel="noopener"
            >{{ t('Print (PDF)') }} <kbd>P</kbd></a
          >
          <a class="plain" :href="`${url}.csv`" download>CSV</a>
          <a class="plain" :href="`${url}.json`" download>JSON</a>
          <a class="plain" :href="`${url}.txt`" download="rod-order.txt">{{ t('E-mail text') }}</a>
        </span>
        <label class="switch">
          <el-switch v-model="letter" :aria-label="t('Letter paper')" />
          {{ t('Letter paper (else A4)') }}
        </label>
      </div>
    </section>
    <ProblemNote
      v-if="!orders.refused.value.startsWith('receive')"
      :problem="orders.problem.value"
    />
    <OrderCard
      v-for="order in open"
      :key="order.id"
      :build="build"
      :order="order"
      :orders="orders"
      :open="all.open"
      :leads="order.id === goes?.id"
    />
    <p v-if="withdrawn" class="quiet">
      {{ t('Order {number} was withdrawn.', { number: withdrawn.number }) }}
      <button
        v-if="withdrawn.asked_at === null"
        type="button"
        class="plain"
        @click="orders.move(withdrawn, 'draft')"
      >
        {{ t('Undo') }}
      </button>
    </p>
    <p v-if="ready && !open.length" class="quiet">
      {{
        t(
          'No order yet. Trial rods first: the length, a size up and a size down, tried with the real springs and lifters, then the set.',
        )
      }}
    </p>
    <CautionList :cautions="all.cautions" />
  </div>
</template>

<style scoped>
.order {
  display: flex;
  flex-direction: column;
  gap: 14px;
}
.now {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 360px;
  gap: 28px;
  align-items: start;
}
.what {
  overflow-x: auto;
}
.quiet {
  margin: 0;
  color: var(--quiet);
}
.none {
  margin: 4px 0;
  font-size: 22px;
}
tbody th {
  font-size: 21px;
  font-weight: 600;
  white-space: nowrap;
}
.long {
  font-size: 26px;
  font-weight: 600;
  white-space: nowrap;
}
.convert {
  margin: 8px 0 0;
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 8px 14px;
}
.warn {
  color: var(--alarm-ink);
  margin: 6px 0 0;
}
.out {
  display: flex;
  flex-direction: column;
  gap: 8px;
}
.files {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
}
.out kbd {
  color: inherit;
}
.switch {
  display: flex;
  align-items: center;
  gap: 10px;
  min-height: 44px;
  font-size: 14px;
  color: var(--quiet);
}
@container station (max-width: 960px) {
  .now {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
