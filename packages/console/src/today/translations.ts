import { decide, type WorkEntry, type WorkSum } from '@wisteria/core'
import { addWork, toDo } from '../translating/sums'
import type { Site } from '../session'

/** What waits for translation in a locale that the user may write. */
export interface LocaleWork {
  readonly tag: string
  readonly label: string
  readonly sum: Pick<WorkSum, 'units' | 'words'>
}

/** The translations that wait for the user on a site. */
export interface TranslationsWaiting {
  /** Assigned to the user, those that are due first. */
  readonly mine: readonly WorkEntry[]
  /** Ready for review, for users who may publish. */
  readonly ready: readonly WorkEntry[]
  readonly locales: readonly LocaleWork[]
}

export async function translationsWaiting({ caller, editor }: Site): Promise<TranslationsWaiting> {
  const { translations } = editor
  const mayPublish = decide(caller, 'entry.publish').allowed
  const [board, mine, ready] = await Promise.all([
    translations.board(),
    translations.work({ assignee: 'me', first: 10 }),
    mayPublish ? translations.work({ ready: true, first: 10 }) : { entries: [] },
  ])
  const locales = board.locales.flatMap(({ tag, label }): LocaleWork[] => {
    if (!decide(caller, 'entry.translate', { locales: [tag] }).allowed) return []
    const sum = addWork(board.types.flatMap(({ work }) => work[tag] ?? []))
    return toDo(sum.units) > 0 ? [{ tag, label, sum }] : []
  })
  return { mine: mine.entries, ready: ready.entries, locales }
}

/** Whether nothing waits. */
export const isAllTranslated = ({ mine, ready, locales }: TranslationsWaiting): boolean =>
  mine.length + ready.length + locales.length === 0
