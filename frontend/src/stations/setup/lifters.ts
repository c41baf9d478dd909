/** The states a lifter can have while measuring. */
export const LIFTERS = [
  { value: 'solid', label: 'Solid checking lifter' },
  { value: 'bled', label: 'Hydraulic, bled down' },
  { value: 'pumped', label: 'Hydraulic, pumped up' },
] as const
