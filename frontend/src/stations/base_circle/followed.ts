/** The plan of stops being worked through, so that the station goes on in its order. */
import { useStorage } from '@vueuse/core'
import { computed, toValue, type MaybeRefOrGetter } from 'vue'
import type { StopPlan } from '../../api/client'

interface Followed {
  title: string
  stops: StopPlan['stops']
}

export interface Place {
  /** The stop's number from 1, how many there are, and the stop itself. */
  number: number
  of: number
  stop: StopPlan['stops'][number]
  margin: number | null
}

export function useFollowed(build: MaybeRefOrGetter<string>) {
  const all = useStorage<Record<string, Followed>>('vivid-arm.plan', {})
  const plan = computed(() => all.value[toValue(build)] ?? null)
  const order = computed(
    () =>
      plan.value?.stops.flatMap((stop, i) =>
        stop.valves.map((v) => ({ name: v.name, margin: v.margin_deg, stop, number: i + 1 })),
      ) ?? [],
  )

  function follow(title: string, stops: StopPlan['stops']) {
    all.value = { ...all.value, [toValue(build)]: { title, stops } }
  }
  function leave() {
    all.value = Object.fromEntries(
      Object.entries(all.value).filter(([id]) => id !== toValue(build)),
    )
  }
  /** Where a valve stands in the plan; null when the plan does not have it. */
  function placeOf(name: string): Place | null {
    const found = order.value.find((o) => o.name === name)
    if (!found || !plan.value) return null
    const { number, stop, margin } = found
    return { number, stop, margin, of: plan.value.stops.length }
  }
  /** The valve that comes so many steps after this one in the plan. */
  function after(name: string, step: number): string | null {
    const at = order.value.findIndex((o) => o.name === name)
    if (at < 0) return null
    return order.value[(at + step + order.value.length) % order.value.length]?.name ?? null
  }

  /** How far the crank goes on from one stop to another, across the end of the cycle too. */
  function turnBetween(from: Place, to: Place): number | null {
    const [a, b] = [from.stop.crank_deg, to.stop.crank_deg]
    if (a === null || b === null) return to.stop.turn_deg
    return (((b - a) % 720) + 720) % 720
  }
  /** Whether a plan is followed and all its valves are among these. */
  const finished = (measured: string[]) =>
    order.value.length > 0 && order.value.every((o) => measured.includes(o.name))

  return { plan, follow, leave, placeOf, after, turnBetween, finished }
}
