import {
  layersAfter,
  localesToPublish,
  parentOf,
  titleOf,
  localeTags,
  WisteriaError,
  type PublishTogether,
  type Problem,
} from '@wisteria/core'
import { publicHistoryOf, type Act, type Reader, type Site, type Transaction, type WorkingCopy } from '@wisteria/store'
import { problemsOf } from './publishProblems.js'
import { requireEntry } from '../workingCopies/entryView.js'
import { publish } from './publishing.js'
import { invalid, type Author } from '../workingCopies/saving.js'

/** More entries than this are published in a job instead of one transaction. */
export const maxBatch = 50

/** Parents come before their children. */
export function parentsFirst(copies: readonly WorkingCopy[]): WorkingCopy[] {
  const byId = new Map(copies.map((copy) => [copy.id, copy]))
  const sorted = new Set<WorkingCopy>()
  const add = (copy: WorkingCopy, on: ReadonlySet<string>): void => {
    if (sorted.has(copy) || on.has(copy.id)) return
    const parent = byId.get(parentOf(copy.type, copy.document) ?? '')
    if (parent) add(parent, new Set([...on, copy.id]))
    sorted.add(copy)
  }
  for (const copy of copies) add(copy, new Set())
  return [...sorted]
}

/**
 * Publishes an entry and others that it needs, all or nothing, as one act.
 * @throws WisteriaError `invalid` with every problem of the first that cannot be published, and its id.
 */
export async function publishBatch(
  transaction: Transaction,
  act: Act,
  author: Author,
  copy: WorkingCopy,
  asked: readonly string[] | undefined,
  others: readonly string[],
): Promise<WorkingCopy> {
  const copies = [copy]
  for (const id of new Set(others)) if (id !== copy.id) copies.push(await requireEntry(transaction, act.site, id))
  let published = copy
  for (const ready of parentsFirst(copies)) {
    try {
      const done = await publish(transaction, act, author, ready, ready === copy ? asked : undefined)
      if (ready === copy) published = done
    } catch (error) {
      if (ready === copy || !(error instanceof WisteriaError)) throw error
      throw naming(act.site, ready, error)
    }
  }
  return published
}

/** The same error, saying which of several entries it is about. */
function naming(site: Site, copy: WorkingCopy, error: WisteriaError): WisteriaError {
  const title = titleOf(copy.type, copy.document, [site.settings.defaultLocale, ...localeTags(site.settings)])
  const message = `“${title || copy.id}”: ${error.message}`
  if (error.code === 'invalid') {
    const named = invalid(
      error.problems.map((problem) => ({ ...problem, message: `“${title || copy.id}”: ${problem.message}` })),
    )
    return new WisteriaError('invalid', named.message, { problems: named.problems, extra: { entry: copy.id } })
  }
  return new WisteriaError(error.code, message, { problems: error.problems, extra: { ...error.extra, entry: copy.id } })
}

/** The blocking problems of publishing an entry together with others. A parent that is published too blocks nothing. */
export async function batchWith(
  reader: Reader,
  site: Site,
  copy: WorkingCopy,
  others: readonly string[],
): Promise<PublishTogether[]> {
  const coming = new Set([copy.id, ...others])
  const results: PublishTogether[] = []
  for (const id of new Set(others)) {
    const other = await requireEntry(reader, site, id)
    const history = await publicHistoryOf(reader, site, other.type, id)
    const locales = localesToPublish(site.model, site.settings, other.type, other.document, history, undefined)
    const problems = await problemsOf(reader, site, other, layersAfter(other.document, locales, history.layers))
    results.push({
      id,
      type: other.type.name,
      title: titleOf(other.type, other.document, [site.settings.defaultLocale, ...localeTags(site.settings)]),
      locales,
      problems: withoutComing(problems, other, coming),
    })
  }
  return results
}

/** The problems that are left when other entries are published in the same act. */
export function withoutComing(problems: readonly Problem[], copy: WorkingCopy, coming: ReadonlySet<string>): Problem[] {
  const parent = parentOf(copy.type, copy.document)
  return problems.filter((problem) => problem.code !== 'parentNotPublic' || !coming.has(parent ?? ''))
}
