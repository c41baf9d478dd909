/** What bench mode says aloud, what it sounds like, and the screen that stays awake. */
import { useStorage, useWakeLock } from '@vueuse/core'
import { onScopeDispose, watch, type Ref } from 'vue'

let context: AudioContext | undefined

/** One beep: high where a reading was kept, low where it was not. */
function beep(kept: boolean): void {
  context ??= new AudioContext()
  const source = context.createOscillator()
  const loudness = context.createGain()
  source.frequency.value = kept ? 880 : 220
  loudness.gain.setValueAtTime(0.25, context.currentTime)
  loudness.gain.exponentialRampToValueAtTime(0.001, context.currentTime + 0.18)
  source.connect(loudness).connect(context.destination)
  source.start()
  source.stop(context.currentTime + 0.18)
}

/** Figures as they are read out: 10 3/8 is "10 and 3 eighths", 7.3425 digit by digit. */
export function spoken(words: string): string {
  const parts: Record<string, string> = { '2': 'half', '4': 'quarter', '8': 'eighth' }
  return words
    .replace(/(\d+) (\d)\/([248])/g, (_, n, a, b: string) => `${n} and ${a}/${b}`)
    .replace(/(\d)\/([248])/g, (_, a, b: string) => {
      const name = parts[b] ?? ''
      return a === '1' ? `a ${name}` : `${a} ${b === '2' ? 'halves' : `${name}s`}`
    })
    .replace(/(\d+)\.(\d+)/g, (_, a, b: string) => `${a} point ${[...b].join(' ')}`)
    .replace(/\b(\d{1,2})I\b/g, '$1 intake')
    .replace(/\b(\d{1,2})E\b/g, '$1 exhaust')
    .replace(/ in\b/g, '')
    .replaceAll('±', 'plus or minus')
    .replaceAll('·', ',')
}

export function useBenchMode(said: Ref<string>, kept: Ref<number>, refused: Ref<string>) {
  const speaks = useStorage('vivid-arm.speaks', false)
  const beeps = useStorage('vivid-arm.beeps', false)
  const canSpeak = 'speechSynthesis' in window
  function say(words: string) {
    if (!speaks.value || !canSpeak || !words) return
    speechSynthesis.cancel()
    speechSynthesis.speak(new SpeechSynthesisUtterance(spoken(words)))
  }
  watch(said, say)
  watch(speaks, (on) => (on ? say(said.value) : canSpeak && speechSynthesis.cancel()))
  watch(kept, () => beeps.value && beep(true))
  watch(refused, (words) => {
    if (!words) return
    if (beeps.value) beep(false)
    say(words)
  })
  const lock = useWakeLock()
  if (lock.isSupported.value) void lock.request('screen').catch(() => undefined)
  onScopeDispose(() => {
    void lock.release()
    if (canSpeak) speechSynthesis.cancel()
  })
  return { speaks, beeps, canSpeak }
}
