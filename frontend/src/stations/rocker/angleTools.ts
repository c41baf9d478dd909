/** What the arm's angle can be read with; two heights are typed as such, not in degrees. */
export const ANGLE_TOOLS = [
  { value: 'inclinometer', words: 'Inclinometer' },
  { value: 'square', words: 'Square' },
  { value: 'phone', words: 'Phone’s level' },
  { value: 'laser', words: 'Two lasers' },
  { value: 'heights', words: 'Two heights' },
] as const satisfies { value: string; words: string }[]
export type AngleTool = (typeof ANGLE_TOOLS)[number]['value']
export const HEIGHTS_EXAMPLE = '0.250 0.276 over 1.5'
