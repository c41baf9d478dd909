/** A change of a kind's dimension sheet; the other kind's stays as it is. */
import type { GeometryFigures, Rocker } from '../../api/client'
import type { Wanted } from '../builds'

export const sheetWith = (
  arm: Rocker,
  change: (figures: GeometryFigures) => Partial<GeometryFigures>,
): Wanted => ({
  geometry: ({ geometry }) => {
    const own = geometry?.[arm.valve.kind] ?? arm.figures
    const { intake = null, exhaust = null } = geometry ?? {}
    return { intake, exhaust, [arm.valve.kind]: { ...own, ...change(own) } }
  },
})
