import { watch, type ComputedRef, type WatchSource } from 'vue'
import { browserStorage, keptRecords, type Dated } from './records'
import { openTabs, tab } from './tabs'

/** Something of a site that is being changed, and is not in force before it is sent. */
interface Draft<Kept> {
  readonly isChanged: ComputedRef<boolean>
  /** What it takes to take it up again. */
  readonly record: () => Kept
}

/**
 * Drafts by site: each is kept until it is sent or discarded, on other pages too and while the console is gone. Leaving the
 * console with one asks.
 * @param what names them in the browser's storage.
 * @param source what a draft is watched by.
 * @param isGood whether something that was found in the storage is such a record.
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
     * Opens one instead of what was opened there before.
     * @param account whose it is.
     * @param make is given what was kept when the console was left with unsent changes.
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
