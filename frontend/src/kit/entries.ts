/** Entries that the server is still reading: whatever keeps them waits until they are read. */
const underway = new Set<Promise<boolean>>()

/** An entry is being read; whether it could be. */
export function isRead(reading: Promise<boolean>): Promise<boolean> {
  underway.add(reading)
  return reading.finally(() => underway.delete(reading))
}

/** All entries under way are read; whether all of them could be. */
export async function allRead(): Promise<boolean> {
  return (await Promise.all(underway)).every(Boolean)
}
