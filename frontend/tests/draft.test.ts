// @vitest-environment happy-dom
import { ref } from 'vue'
import { describe, expect, it } from 'vitest'
import { usePrefs } from '../src/kit/prefs'
import { useDraft } from '../src/stations/rocker/useDraft'

describe('the mark being entered', () => {
  const { unit } = usePrefs()
  it('is drawn where it is typed, whatever the unit and the edge it counts from', () => {
    const draft = useDraft(ref(0.34))
    draft.low.value = '-0.020'
    draft.high.value = '30 thou'
    expect(draft.edges.value.low).toBeCloseTo(-0.02, 9)
    expect(draft.edges.value.high).toBeCloseTo(0.03, 9)
    draft.from.value = 'edge'
    draft.low.value = '0,150'
    expect(draft.edges.value.low).toBeCloseTo(-0.02, 9)
    draft.low.value = '3.81 mm'
    expect(draft.edges.value.low).toBeCloseTo(-0.02, 9)
  })
  it('draws nothing for what is no figure', () => {
    const draft = useDraft(ref(0.34))
    for (const text of ['', ' ', 'abc']) {
      draft.low.value = text
      expect(draft.edges.value.low).toBeNull()
    }
  })
  it('writes a dragged edge so that it is read back where it was let go', () => {
    for (const u of ['in', 'mm'] as const)
      for (const from of ['middle', 'edge'] as const) {
        unit.value = u
        const draft = useDraft(ref(0.34))
        draft.from.value = from
        draft.drag('high', 0.047)
        expect(draft.edges.value.high).toBeCloseTo(0.047, 3)
        expect(draft.edges.value.low).toBeNull()
      }
    unit.value = 'in'
  })
})
