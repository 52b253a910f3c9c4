import { upgradeRichTextIn } from '@wisteria/core'

/** What is kept, and since when. */
export interface Dated {
  /** An ISO instant. */
  readonly at: string
}

/**
 * Unsaved work kept in the browser: what a crash, an empty battery or a lost network cannot take. Each tab keeps its own, so
 * that one tab's save takes nothing of another's.
 * @param storage undefined where the browser gives none.
 * @param place what it is about.
 * @param isGood whether something that was found there is such a record.
 */
export function keptRecords<Kept extends Dated>(
  storage: Storage | undefined,
  place: string,
  tab: string,
  isGood: (record: Partial<Kept>) => boolean,
) {
  const shared = `${place}#`
  const ownKey = shared + tab
  const keys = (): string[] => {
    try {
      return storage ? Object.keys(storage).filter((key) => key.startsWith(shared)) : []
    } catch {
      return []
    }
  }
  function read(key: string): Kept | undefined {
    try {
      const record = upgradeRichTextIn(JSON.parse(storage?.getItem(key) ?? 'null')) as Kept | null
      return record && typeof record.at === 'string' && isGood(record) ? record : undefined
    } catch {
      return undefined
    }
  }
  return {
    /** @returns whether it is safe: there may be no room, or no storage. */
    keep(record: Kept): boolean {
      try {
        storage?.setItem(ownKey, JSON.stringify(record))
        return storage !== undefined
      } catch {
        return false
      }
    },
    /**
     * The newest that a tab left here which is no longer open, or this one. It is this tab's from then on.
     * @param isOpen whether another tab is there to save its own.
     */
    recall(isOpen: (tab: string) => boolean): Kept | undefined {
      const left = keys()
        .filter((key) => key === ownKey || !isOpen(key.slice(shared.length)))
        .flatMap((key) => {
          const record = read(key)
          return record ? [{ key, record }] : []
        })
        .sort((a, b) => a.record.at.localeCompare(b.record.at))
        .at(-1)
      if (!left) return undefined
      if (left.key !== ownKey && this.keep(left.record)) storage?.removeItem(left.key)
      return left.record
    },
    drop: () => storage?.removeItem(ownKey),
  }
}

/** The browser's storage, if the browser permits it. */
export function browserStorage(): Storage | undefined {
  try {
    return globalThis.localStorage
  } catch {
    return undefined
  }
}
