/** Moving inside the server's batch: one frame of the mechanism between its settings and lifts. */
import type { Motion } from '../api/client'

export type Point = [number, number]

export interface Frame {
  setting: number
  lobe: number
  valve: number
  contact: number
  arm: number
  /** The arm line off square, degrees: to a roller's axle, to a shoe's contact. */
  line: number
  ratio: number
  fulcrum: Point
  tip: Point
  cup: Point
  seat: Point
}

const RADIAN = Math.PI / 180

/** Where a value stands in a rising list, as a fraction of an index. */
export function placeIn(list: number[], value: number): number {
  const last = list.length - 1
  if (last < 1) return 0
  const step = ((list[last] ?? 1) - (list[0] ?? 0)) / last
  return Math.min(Math.max((value - (list[0] ?? 0)) / step, 0), last)
}

function between(list: number[], at: number): number {
  const low = Math.floor(at)
  const first = list[low] ?? 0
  return first + ((list[Math.min(low + 1, list.length - 1)] ?? first) - first) * (at - low)
}

function inside(rows: number[][], setting: number, lift: number): number {
  const low = Math.floor(setting)
  const first = between(rows[low] ?? [], lift)
  const next = between(rows[Math.min(low + 1, rows.length - 1)] ?? [], lift)
  return first + (next - first) * (setting - low)
}

/** One row of a batch at a setting between two. */
export function rowAt(rows: number[][], setting: number): number[] {
  const low = Math.floor(setting)
  const next = rows[Math.min(low + 1, rows.length - 1)] ?? []
  return (rows[low] ?? []).map((v, i) => v + ((next[i] ?? v) - v) * (setting - low))
}

/** A figure of the settings at a setting between two. */
export function settingAt(
  batch: Motion,
  name: Exclude<keyof Motion['settings'], 'refused' | 'durations_deg'>,
  setting: number,
): number {
  return between(batch.settings[name], placeIn(batch.settings.setting_in, setting))
}

/** The mechanism at a setting and a share of the lobe's lift (0 closed, 1 full lift). */
export function frameAt(batch: Motion, setting: number, share: number): Frame {
  const s = placeIn(batch.settings.setting_in, setting)
  const l = share * (batch.lobe_in.length - 1)
  const lobe = between(batch.lobe_in, l)
  const arm = inside(batch.arm_deg, s, l)
  const phi = arm * RADIAN
  const theta = phi + batch.bend_deg * RADIAN
  const way = batch.lifter_deg * RADIAN
  const x = -between(batch.settings.fulcrum_in, s)
  const y = between(batch.settings.height_in, s)
  const valve = inside(batch.valve_in, s, l)
  const contact = inside(batch.contact_in, s, l)
  return {
    setting,
    lobe,
    arm,
    line: batch.tip === 'roller' ? arm : Math.atan2(-valve - y, contact - x) / RADIAN,
    valve,
    contact,
    ratio: inside(batch.ratio, s, l),
    fulcrum: [x, y],
    tip: [x + batch.arm_in * Math.cos(phi), y + batch.arm_in * Math.sin(phi)],
    cup: [x - batch.cup_in * Math.cos(theta), y - batch.cup_in * Math.sin(theta)],
    seat: [batch.seat_x_in + lobe * Math.sin(way), batch.seat_y_in + lobe * Math.cos(way)],
  }
}
