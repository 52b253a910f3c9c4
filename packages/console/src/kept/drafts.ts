import { watch, type ComputedRef, type WatchSource } from 'vue'
import { browserStorage, keptRecords, type Dated } from './records'
import { openTabs, tab } from './tabs'

/** Something of a site that is being changed, and is not in force before it is sent. */
interface Draft<Kept> {
  readonly isChanged: ComputedRef<boolean>
  /** The stored form of a draft. */
  readonly record: () => Kept
}

/**
 * Drafts by site: each is stored until it is sent or discarded, on other pages too and while the console is closed. Leaving the
 * console with one asks for confirmation.
 * @param what its name in the browser's storage.
 * @param source the part of a draft that is watched.
 * @param isGood whether something in the storage is such a record.
 */
export function keptDrafts<Kept extends Dated, Kind extends Draft<Kept>>(
  what: string,
  source: (draft: Kind) => WatchSource,
  isGood: (record: Partial<Kept>) => boolean,
) {
  const opened = new Map<string, { readonly draft: Kind; readonly end: () => void }>()
  const forget = (site: string): void => opened.get(site)?.end()
  return {
    forget,
    opened: (site: string): Kind | undefined => opened.get(site)?.draft,
    /**
     * Opens one in place of the open one.
     * @param account its owner.
     * @param make gets the stored draft, if the console was left with unsent changes.
     */
    async open(site: string, account: string, make: (kept: Kept | undefined) => Kind): Promise<Kind> {
      const records = keptRecords<Kept>(browserStorage(), `wisteria/${what}/${account}/${site}`, tab, isGood)
      const kept = opened.has(site) ? undefined : records.recall(await openTabs())
      forget(site)
      const draft = make(kept)
      const onUnload = (event: BeforeUnloadEvent): void => (draft.isChanged.value ? event.preventDefault() : undefined)
      addEventListener('beforeunload', onUnload)
      const stop = watch(source(draft), () => (draft.isChanged.value ? records.keep(draft.record()) : records.drop()), {
        immediate: true,
      })
      const end = (): void => {
        stop()
        removeEventListener('beforeunload', onUnload)
        records.drop()
        opened.delete(site)
      }
      opened.set(site, { draft, end })
      return draft
    },
  }
}
