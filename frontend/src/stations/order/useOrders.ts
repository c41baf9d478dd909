/** A build's orders and the supplier; every write answers with all of them. */
import { useMutation, useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, ref, toValue, type MaybeRefOrGetter } from 'vue'
import { answer, api, problemOf, type Order, type Orders, type Problem } from '../../api/client'
import { put } from '../../kit/put'
import { asks, keys } from '../builds'

const POLL_MS = 4000
export type Tried = NonNullable<Order['rods'][number]['tried']>

export function useSupplier() {
  return useQuery({ queryKey: ['supplier'], queryFn: () => answer(api.GET('/api/supplier')) })
}

/** What the supplier asks for the set that is decided, or for an order as it was drafted. */
export function useOffers(
  build: MaybeRefOrGetter<string>,
  wanted: MaybeRefOrGetter<boolean>,
  order_id?: string,
) {
  return useQuery({
    queryKey: computed(() => [...keys.build(toValue(build)), 'offers', order_id ?? '']),
    enabled: computed(() => toValue(wanted)),
    queryFn: () =>
      answer(
        api.GET('/api/builds/{build_id}/offers', {
          params: { path: { build_id: toValue(build) }, query: { order_id } },
        }),
      ),
    retry: false,
  })
}

export function useOrders(build: MaybeRefOrGetter<string>) {
  const client = useQueryClient()
  const key = computed(() => keys.orders(toValue(build)))
  const problem = ref<Problem | null>(null)
  /** Which order a write is under way for, and what. */
  const busy = ref('')
  /** The write that the problem is of. */
  const refused = ref('')
  const path = () => ({ build_id: toValue(build) })
  const underWay = (o: Order) =>
    o.state === 'placed' && o.supplier !== '' && o.answer?.state !== 'delivered'
  const query = useQuery({
    queryKey: key,
    queryFn: () => asks.orders(toValue(build)),
  })
  useQuery({
    queryKey: computed(() => [...key.value, 'status']),
    enabled: computed(() => query.data.value?.orders.some(underWay) ?? false),
    refetchInterval: POLL_MS,
    retry: false,
    queryFn: async () => {
      for (const order of query.data.value?.orders.filter(underWay) ?? [])
        put(client, key.value, await answer(status(order)))
      return true
    },
  })
  const of = (o: Order) => ({ params: { path: { ...path(), order_id: o.id } } })
  const status = (o: Order) => api.POST('/api/builds/{build_id}/orders/{order_id}/status', of(o))

  const write = useMutation({
    scope: { id: 'orders' },
    mutationFn: ({ call }: { name: string; call: () => Promise<Orders> }) => call(),
    onMutate: ({ name }) => {
      busy.value = name
    },
    onSuccess: (orders) => {
      problem.value = null
      put(client, key.value, orders)
      void client.invalidateQueries({ queryKey: ['box'] })
      void client.invalidateQueries({ queryKey: [...keys.build(toValue(build)), 'decision'] })
    },
    onError: (error, { name }) => {
      problem.value = problemOf(error)
      refused.value = name
      void client.invalidateQueries({ queryKey: key.value })
    },
    onSettled: () => (busy.value = ''),
  })
  const run = (name: string, call: () => Promise<Orders>) =>
    write.mutateAsync({ name, call }).then(
      () => true,
      () => false,
    )

  return {
    ...query,
    problem,
    refused,
    busy,
    draft: (id: string, purpose: 'trial' | 'set', supplier: boolean, by: string) =>
      run('draft', () =>
        answer(
          api.POST('/api/builds/{build_id}/orders', {
            params: { path: path() },
            body: { id, purpose, supplier, by },
          }),
        ),
      ),
    place: (o: Order) =>
      run(`place ${o.id}`, () =>
        answer(
          api.POST('/api/builds/{build_id}/orders/{order_id}/place', {
            ...of(o),
            body: { second: o.second_of != null },
          }),
        ),
      ),
    askStatus: (o: Order) => run(`status ${o.id}`, () => answer(status(o))),
    receive: (
      o: Order,
      rods: string,
      convention: Order['convention'],
      unit: 'in' | 'mm',
      sure = false,
    ) =>
      run(`receive ${o.id}`, () =>
        answer(
          api.POST('/api/builds/{build_id}/orders/{order_id}/rods', {
            ...of(o),
            body: { rods, convention, unit, sure },
          }),
        ),
      ),
    tried: (o: Order, body: { number: number; result: Tried; valve: string; seen: string }) =>
      run(`tried ${o.id}`, () =>
        answer(api.POST('/api/builds/{build_id}/orders/{order_id}/tried', { ...of(o), body })),
      ),
    move: (o: Order, to: 'withdrawn' | 'draft' | 'trial' | 'fitted' | 'returned', reason = '') =>
      run(`move ${o.id}`, () =>
        answer(
          api.POST('/api/builds/{build_id}/orders/{order_id}/moves', {
            ...of(o),
            body: { version: o.version, to, reason },
          }),
        ),
      ),
  }
}
