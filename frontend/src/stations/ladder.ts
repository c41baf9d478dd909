/** What a build's set-up gives to its length ladders. */
import type { Build } from '../api/client'
import { CONVENTIONS } from '../kit/format'

export function ladderOf(build: Build) {
  const same = build.order_convention === build.measuring_convention
  return {
    lifter: {
      low: build.preload_low_in,
      high: build.preload_high_in,
      target: build.preload_target_in,
      travel: build.travel_in,
    },
    axisWords: CONVENTIONS[build.measuring_convention],
    notchWords: same ? undefined : CONVENTIONS[build.order_convention],
  }
}
