/** What a rod sounds like under the hand; off until it is switched on. */
import { createGlobalState, useStorage } from '@vueuse/core'
import type { Got } from '../../api/client'

export const useSound = createGlobalState(() => useStorage('vivid-arm.sound', false))

type Felt = NonNullable<Got['felt']>
/** How each feel sounds: knocks at so many seconds, their pitch and length; a drag rubs. */
const SOUNDS: Record<Felt, { at: number[]; hertz: number; seconds: number; rubs?: boolean }> = {
  rattles: { at: [0, 0.09, 0.2, 0.29], hertz: 1900, seconds: 0.03 },
  swings: { at: [0, 0.16], hertz: 1500, seconds: 0.025 },
  drags: { at: [0], hertz: 420, seconds: 0.4, rubs: true },
  springs: { at: [0], hertz: 190, seconds: 0.18 },
  solid: { at: [0], hertz: 90, seconds: 0.12 },
  nothing: { at: [], hertz: 0, seconds: 0 },
}
let context: AudioContext | undefined

export function sound(felt: Felt): void {
  if (!useSound().value) return
  context ??= new AudioContext()
  const { at, hertz, seconds, rubs } = SOUNDS[felt]
  for (const later of at) knock(context, context.currentTime + later, hertz, seconds, rubs ?? false)
}

function knock(on: AudioContext, start: number, hertz: number, seconds: number, rubs: boolean) {
  const loudness = on.createGain()
  loudness.gain.setValueAtTime(rubs ? 0.12 : 0.3, start)
  loudness.gain.exponentialRampToValueAtTime(0.001, start + seconds)
  loudness.connect(on.destination)
  const source = rubs ? noise(on, seconds, hertz, loudness) : tone(on, hertz, loudness)
  source.start(start)
  source.stop(start + seconds)
}

function tone(on: AudioContext, hertz: number, into: AudioNode): AudioScheduledSourceNode {
  const source = on.createOscillator()
  source.type = 'triangle'
  source.frequency.value = hertz
  source.connect(into)
  return source
}

function noise(
  on: AudioContext,
  seconds: number,
  hertz: number,
  into: AudioNode,
): AudioScheduledSourceNode {
  const buffer = on.createBuffer(1, Math.ceil(seconds * on.sampleRate), on.sampleRate)
  const samples = buffer.getChannelData(0)
  samples.forEach((_, i) => (samples[i] = Math.random() * 2 - 1))
  const source = on.createBufferSource()
  source.buffer = buffer
  const filter = on.createBiquadFilter()
  filter.type = 'bandpass'
  filter.frequency.value = hertz
  source.connect(filter).connect(into)
  return source
}
