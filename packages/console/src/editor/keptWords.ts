import type { Unreadable } from './unreadable'

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
  /** What stood in controls and was no value. */
  readonly unread?: readonly Unreadable[]
}

/**
 * Words kept in the browser until the service has them: what a crash, an empty battery or a lost network cannot take. Each
 * tab keeps its own, so that one tab's save takes nothing of another's.
 * @param storage undefined where the browser gives none.
 */
export function keptWords(storage: Storage | undefined, account: string, place: string, tab: string) {
  const shared = `${prefix}${account}/${place}#`
  const own = shared + tab
  const keys = (): string[] => {
    try {
      return storage ? Object.keys(storage).filter((key) => key.startsWith(shared)) : []
    } catch {
      return []
    }
  }
  return {
    /** @returns whether they are safe: there may be no room, or no storage. */
    keep(words: Words): boolean {
      try {
        storage?.setItem(own, JSON.stringify(words))
        return storage !== undefined
      } catch {
        return false
      }
    },
    /**
     * The newest words that a tab left here which is no longer open, or this one. They are this tab's from then on.
     * @param isOpen whether another tab is there to save its own.
     */
    recall(isOpen: (tab: string) => boolean): Words | undefined {
      const left = keys()
        .filter((key) => key === own || !isOpen(key.slice(shared.length)))
        .flatMap((key) => {
          const words = read(storage, key)
          return words ? [{ key, words }] : []
        })
        .sort((one, other) => one.words.at.localeCompare(other.words.at))
        .at(-1)
      if (!left) return undefined
      if (left.key !== own && this.keep(left.words)) storage?.removeItem(left.key)
      return left.words
    },
    drop: () => storage?.removeItem(own),
  }
}

function read(storage: Storage | undefined, key: string): Words | undefined {
  try {
    const words = JSON.parse(storage?.getItem(key) ?? 'null') as Words | null
    return words && typeof words.version === 'number' && words.saved && words.values ? words : undefined
  } catch {
    return undefined
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
