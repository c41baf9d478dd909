import { describe, expect, it } from 'vitest'
import { stagesIn } from '../src/stations/sign_off/stages'

const torque = (value: number) => ({ value, angle_deg: null })
const turn = (angle_deg: number) => ({ value: null, angle_deg })

describe('stages of a fastener', () => {
  it.each([
    ['15; 22; 90°', [torque(15), torque(22), turn(90)]],
    ['15, 22, 90 °', [torque(15), torque(22), turn(90)]],
    ['22,5; 30', [torque(22.5), torque(30)]],
    ['22.5', [torque(22.5)]],
  ])('are read from %s in both languages', (text, stages) => {
    for (const language of ['en', 'de'] as const)
      expect(stagesIn(text, language)).toEqual({ stages, wrong: null })
  })

  it('take a comma alone as a decimal one only where it is written so', () => {
    expect(stagesIn('22,5', 'de')).toEqual({ stages: [torque(22.5)], wrong: null })
    expect(stagesIn('22,5', 'en')).toEqual({ wrong: '22,5' })
    expect(stagesIn('15,22,90°', 'de')).toEqual({ wrong: '15,22,90°' })
  })

  it.each([
    ['15;; 22', ''],
    ['tight', 'tight'],
    ['15; °', '°'],
  ])('are refused with the part that is none: %s', (text, wrong) => {
    expect(stagesIn(text, 'en')).toEqual({ wrong })
  })
})
