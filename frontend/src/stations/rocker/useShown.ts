/** What the rocker's drawings show: a setting inside the batch, a share of the lift, two pins. */
import { t } from '../../kit/words'
import { useRafFn } from '@vueuse/core'
import { computed, ref, watch, type Ref } from 'vue'
import type { Motion, Rocker } from '../../api/client'
import { frameAt, placeIn, rowAt, settingAt } from '../../drawings/frame'

/** Faster than this nobody reads a figure that changes. */
const READ_MS = 80

export function useShown(arm: Ref<Rocker | undefined>, batch: Ref<Motion | undefined>) {
  const own = ref<number | null>(null)
  const now = computed(() => arm.value?.now_in ?? 0)
  const setting = computed(() => own.value ?? now.value)
  const share = ref(0.5)
  // The mechanism moves at every frame; figures, slider and tip follow as fast as they are read.
  const shareRead = ref(0.5)
  const put = (value: number) => (share.value = shareRead.value = value)
  const back = () => (own.value = null)
  watch(() => [arm.value?.valve.id, arm.value?.now_in], back)

  function show(value: number) {
    const list = batch.value?.settings.setting_in ?? []
    const low = list[0] ?? value
    const high = list[list.length - 1] ?? value
    own.value = Math.min(Math.max(value, low), high)
  }
  /** To the next one that can be had. */
  function step(by: number) {
    const list = batch.value?.stocked_in ?? []
    const at = setting.value
    const ahead = list.filter((s) => (by > 0 ? s > at + 1e-5 : s < at - 1e-5))
    const next = by > 0 ? ahead[0] : ahead[ahead.length - 1]
    if (next !== undefined) show(next)
  }

  const frame = computed(() => batch.value && frameAt(batch.value, setting.value, share.value))
  const read = computed(() => batch.value && frameAt(batch.value, setting.value, shareRead.value))
  const closed = computed(() => batch.value && frameAt(batch.value, now.value, 0))
  const lift = computed(() => (batch.value ? settingAt(batch.value, 'lift_in', setting.value) : 0))
  function bandAt(s: number) {
    const at = (name: 'inboard_in' | 'outboard_in') =>
      batch.value ? settingAt(batch.value, name, s) : 0
    return { low: at('inboard_in'), high: at('outboard_in') }
  }
  const band = computed(() => bandAt(setting.value))
  const sweep = computed(() => {
    const film = (batch.value?.film_in ?? 0) / 2
    return { low: band.value.low + film, high: band.value.high - film }
  })
  function curveAt(s: number) {
    const b = batch.value
    if (!b) return null
    const k = placeIn(b.settings.setting_in, s)
    const last = b.lobe_in.length - 1
    return {
      valve: rowAt(b.valve_in, k),
      contact: rowAt(b.contact_in, k),
      ratio: rowAt(b.ratio, k),
      arm: b.lobe_in.map((_, i) => frameAt(b, s, i / last).line),
    }
  }
  const curve = computed(() => curveAt(setting.value))
  function toValve(valve: number) {
    const list = curve.value?.valve ?? []
    const above = list.findIndex((v) => v >= valve)
    if (above < 0) put(1)
    else if (above === 0) put(0)
    else {
      const low = list[above - 1] ?? 0
      const part = (valve - low) / ((list[above] ?? 1) - low)
      put((above - 1 + part) / (list.length - 1))
    }
  }

  // Play: up and down once in three seconds, by the screen's own clock.
  const playing = ref(false)
  let phase = 0
  let readAt = 0
  const raf = useRafFn(
    ({ delta, timestamp }) => {
      phase = (phase + delta / 3000) % 1
      share.value = (1 - Math.cos(phase * 2 * Math.PI)) / 2
      if (timestamp - readAt < READ_MS) return
      readAt = timestamp
      shareRead.value = share.value
    },
    { immediate: false },
  )
  function play() {
    playing.value = !playing.value
    phase = Math.acos(1 - 2 * share.value) / (2 * Math.PI)
    if (playing.value) raf.resume()
    else {
      raf.pause()
      put(share.value)
    }
  }
  function stop(value: number) {
    if (playing.value) play()
    put(Math.min(Math.max(value, 0), 1))
  }
  const toHalf = () => (stop(0), toValve(lift.value / 2))

  const pins = ref<{ name: string; setting: number }[]>([])
  function pin() {
    const free = ['A', 'B'].find((n) => !pins.value.some((p) => p.name === n))
    if (free) pins.value = [...pins.value, { name: free, setting: setting.value }]
    else {
      const [first, last] = pins.value
      if (first && last)
        pins.value = [
          { ...last, name: 'A' },
          { name: 'B', setting: setting.value },
        ]
    }
  }
  const unpin = (name: string) => (pins.value = pins.value.filter((p) => p.name !== name))

  const away = computed(() => own.value !== null)
  const columns = computed(() => [
    { name: t('On the engine'), setting: now.value, pinned: false },
    ...(away.value ? [{ name: t('Shown'), setting: setting.value, pinned: false }] : []),
    ...pins.value.map((p) => ({ ...p, pinned: true })),
  ])
  /** The setting what is shown is held against. */
  const other = computed(() => pins.value[0]?.setting ?? (away.value ? now.value : null))
  const otherBand = computed(() => (other.value === null ? null : bandAt(other.value)))
  const otherCurve = computed(() => (other.value === null ? null : curveAt(other.value)))

  return {
    setting, share, shareRead, away, back, show, step, frame, read, closed, lift, band, otherBand, sweep,
    curve, otherCurve, toValve, toHalf, playing, play, stop, pins, pin, unpin, columns,
  } // prettier-ignore
}

export type Shown = ReturnType<typeof useShown>
