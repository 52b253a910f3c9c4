/** A name for this tab, as long as the page is open. */
export const tab: string = Array.from(globalThis.crypto.getRandomValues(new Uint32Array(2)), (part) =>
  part.toString(36),
).join('')

const lockOf = (name: string): string => `wisteria/tab/${name}`

/**
 * Holds a lock as long as the page is open. The browser releases it when the tab closes or crashes; where it has no locks, every
 * other tab counts as closed.
 */
const locks: LockManager | undefined = globalThis.navigator?.locks
void locks?.request(lockOf(tab), () => new Promise(() => undefined)).catch(() => undefined)

/** The tabs that are open now. */
export async function openTabs(): Promise<(name: string) => boolean> {
  const locksHeld = (await locks?.query().catch(() => undefined))?.held ?? []
  const names = new Set(locksHeld.map((lock) => lock.name))
  return (name) => name === tab || names.has(lockOf(name))
}
