/** What bench mode says aloud, what it sounds like, and the screen that stays awake. */
import { language, t } from '../../kit/words'
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

const FRACTIONS: Record<string, string> = {
  '1/2': t('a half'),
  '1/4': t('a quarter'),
  '3/4': t('3 quarters'),
  '1/8': t('an eighth'),
  '3/8': t('3 eighths'),
  '5/8': t('5 eighths'),
  '7/8': t('7 eighths'),
}
/** Figures as they are read out: 10 3/8 is "10 and 3 eighths", 7.3425 digit by digit. */
export function spoken(words: string): string {
  return words
    .replace(/(\d+ )?\b(\d\/[248])/g, (_, whole: string | undefined, part: string) => {
      const fraction = FRACTIONS[part] ?? part
      return whole ? t('{whole} and {fraction}', { whole: whole.trim(), fraction }) : fraction
    })
    .replace(/(\d+)[.,](\d+)/g, (_, whole: string, places: string) =>
      t('{whole} point {places}', { whole, places: [...places].join(' ') }),
    )
    .replace(/\b(\d{1,2})I\b/g, `$1 ${t('intake')}`)
    .replace(/\b(\d{1,2})E\b/g, `$1 ${t('exhaust')}`)
    .replace(/ in\b/g, '')
    .replaceAll('±', t('plus or minus'))
    .replaceAll('·', ',')
}

export function useBenchMode(said: Ref<string>, kept: Ref<number>, refused: Ref<string>) {
  const speaks = useStorage('vivid-arm.speaks', false)
  const beeps = useStorage('vivid-arm.beeps', false)
  const canSpeak = 'speechSynthesis' in window
  function say(words: string) {
    if (!speaks.value || !canSpeak || !words) return
    speechSynthesis.cancel()
    const utterance = new SpeechSynthesisUtterance(spoken(words))
    utterance.lang = language
    speechSynthesis.speak(utterance)
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
