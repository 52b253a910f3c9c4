import { upgradeRichTextIn } from '@wisteria/core'

/** The stored value, and since when. */
export interface Dated {
  /** An ISO instant. */
  readonly at: string
}

/**
 * Unsaved work stored in the browser, safe from a crash, an empty battery or a lost network. Each tab stores its own, so that a
 * save of one tab deletes nothing of another.
 * @param storage undefined where the browser has none.
 * @param place what it belongs to.
 * @param isGood whether something in the storage is such a record.
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
     * The newest record of a closed tab, or of this one. It belongs to this tab from then on.
     * @param isOpen whether another tab is open and saves its own.
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
