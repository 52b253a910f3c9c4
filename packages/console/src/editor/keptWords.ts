type Values = Record<string, unknown>

/** What was written on a desk and had not reached the service. */
export interface Words {
  /** When they were kept: an ISO instant. */
  readonly at: string
  /** The version that they were written on. */
  readonly version: number
  /** The values of that version. */
  readonly saved: Values
  readonly values: Values
}

/**
 * Words kept in the browser until the service has them: what a crash, an empty battery or a lost network cannot take.
 * @param storage undefined where the browser gives none.
 */
export function keptWords(storage: Storage | undefined, account: string, place: string) {
  const key = `${prefix}${account}/${place}`
  return {
    /** @returns whether they are safe: there may be no room, or no storage. */
    keep(words: Words): boolean {
      try {
        storage?.setItem(key, JSON.stringify(words))
        return storage !== undefined
      } catch {
        return false
      }
    },
    recall(): Words | undefined {
      try {
        const words = JSON.parse(storage?.getItem(key) ?? 'null') as Words | null
        return words && typeof words.version === 'number' && words.saved && words.values ? words : undefined
      } catch {
        return undefined
      }
    },
    drop: () => storage?.removeItem(key),
  }
}

const prefix = 'wisteria/words/'

/** The browser's storage, where it may be used. */
export function browserStorage(): Storage | undefined {
  try {
    return globalThis.localStorage
  } catch {
    return undefined
  }
}
