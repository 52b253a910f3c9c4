import { editFacts, isLocalized, sourceOf, translationBase, WisteriaError, type EntryTranslation } from '@wisteria/core'
import { idsOf, workingCopiesOf, type Site, type WorkingCopy } from '@wisteria/store'
import type { Kernel } from '../kernel/kernel.js'
import type { Answer } from '../kernel/route.js'
import { planList, requireType } from '../read/listQuery.js'
import { requireEntry } from '../workingCopies/entryView.js'
import type { OutgoingEntry, OutgoingFile } from './files/handedOut.js'
import { assetTypeName, translationsOfHeld } from './assetTexts.js'
import { translationOfEntry, withReferences } from './reading.js'

/** The formats of files with translations. */
export const fileFormats = ['xliff', 'csv', 'xlsx'] as const
export type FileFormat = (typeof fileFormats)[number]

export interface ExportOrder extends EntryScope {
  readonly locale: string
  readonly format: FileFormat
  readonly units: 'todo' | 'all'
  /** Also entries that they refer to, so many references deep. */
  readonly follow: number
}

/** The most entries of one file, and how many are read at once. */
const maxEntries = 100_000
const batch = 20

/** The entries whose translations are handed out: of a type, by a condition, or by their ids. */
export interface EntryScope {
  readonly type?: string | undefined
  readonly where?: string | undefined
  readonly search?: string | undefined
  /** Only these entries. */
  readonly ids?: readonly string[] | undefined
}

/** The ids of the entries of a scope. @throws WisteriaError for too many, unknown types and wrong conditions. */
export async function entriesInScope(kernel: Kernel, site: Site, order: EntryScope): Promise<string[]> {
  if (order.ids) {
    const ids = [...new Set(order.ids)]
    const copies = await workingCopiesOf(kernel.database, site, ids)
    for (const id of ids) if (!copies.has(id)) await requireEntry(kernel.database, site, id)
    return ids
  }
  const types =
    order.type === undefined
      ? site.model.types.filter((type) => isLocalized(site.model, type))
      : [requireType(site, order.type)]
  const { where, search } = order
  const ids: string[] = []
  // A condition over all types knows facts only, and no fields; without one, types that nobody translates are left out.
  const asked = order.type === undefined && where !== undefined ? [undefined] : types
  for (const type of asked) {
    const plan = planList(kernel, site, type, 'draft', { where, search, facts: editFacts })
    ids.push(...(await idsOf(kernel.database, plan.query, maxEntries + 1)))
    if (ids.length > maxEntries)
      throw new WisteriaError('tooCostly', `A file has at most ${maxEntries} entries. Use a narrower condition.`)
  }
  return ids
}

/** Entries with their units, a few at a time, each once; after each few the files that they hold. */
async function* outgoing(
  kernel: Kernel,
  site: Site,
  ids: readonly string[],
  order: ExportOrder,
  gone?: AbortSignal,
): AsyncGenerator<OutgoingEntry> {
  const seen = new Set<string>()
  for (let from = 0; from < ids.length; from += batch) {
    gone?.throwIfAborted()
    const some = await workingCopiesOf(kernel.database, site, ids.slice(from, from + batch))
    const own = ids.slice(from, from + batch).flatMap((id) => some.get(id) ?? [])
    const { copies } = await withReferences(kernel.database, site, own, order.follow, maxEntries)
    for (const copy of copies) {
      if (seen.has(copy.id) || copy.archivedAt !== null) continue
      seen.add(copy.id)
      const entry = await outgoingEntry(kernel, site, copy, order)
      if (entry.units.length > 0) yield entry
    }
    const { held } = await translationsOfHeld(kernel.database, site, copies, order.locale, order.units, maxEntries)
    for (const translation of held) {
      if (seen.has(translation.entry)) continue
      seen.add(translation.entry)
      yield outgoingTexts(kernel, site, translation, order)
    }
  }
}

async function outgoingEntry(
  kernel: Kernel,
  site: Site,
  copy: WorkingCopy,
  order: ExportOrder,
): Promise<OutgoingEntry> {
  const translation = await translationOfEntry(kernel.database, site, copy, order.locale, order.units)
  return outgoingTexts(kernel, site, translation, order)
}

function outgoingTexts(
  kernel: Kernel,
  site: Site,
  { entry, type, title, version, revision, units }: EntryTranslation,
  { locale }: ExportOrder,
): OutgoingEntry {
  const page = type === assetTypeName ? 'assets' : `entry/${entry}?locale=${locale}`
  return {
    entry,
    type,
    title,
    version,
    revision,
    address: `${kernel.baseUrl}/console/${site.name}/${page}`,
    units: units.map((unit) => ({ unit, base: translationBase(unit) })),
  }
}

/** A file for translators. It is written while it is sent, so its size does not matter; but for XLSX, which is packed as a whole. */
export async function exportTranslations(kernel: Kernel, site: Site, order: ExportOrder): Promise<Answer> {
  const ids = await entriesInScope(kernel, site, order)
  const file: OutgoingFile = { site: site.name, source: sourceOf(site.settings, order.locale), target: order.locale }
  const name = `${site.name}-${file.source}-${file.target}.${order.format === 'xliff' ? 'xlf' : order.format}`
  const headers = (type: string) => ({
    'Content-Type': type,
    'Content-Disposition': `attachment; filename="${name}"`,
    'Entry-Count': String(ids.length),
  })
  switch (order.format) {
    case 'xliff': {
      const { xliffEntry, xliffFoot, xliffHead } = await import('./files/xliffWriting.js')
      return {
        headers: headers('application/xliff+xml; charset=utf-8'),
        stream: async function* (gone) {
          yield xliffHead(file)
          for await (const entry of outgoing(kernel, site, ids, order, gone)) yield xliffEntry(entry, file)
          yield xliffFoot
        },
      }
    }
    case 'csv': {
      const { csvEntry, csvHead } = await import('./files/tables.js')
      return {
        headers: headers('text/csv; charset=utf-8'),
        stream: async function* (gone) {
          yield csvHead(file)
          for await (const entry of outgoing(kernel, site, ids, order, gone)) yield csvEntry(entry)
        },
      }
    }
    case 'xlsx': {
      const { writeXlsx } = await import('./files/tables.js')
      return {
        headers: headers('application/vnd.openxmlformats-officedocument.spreadsheetml.sheet'),
        text: await writeXlsx(file, outgoing(kernel, site, ids, order)),
      }
    }
  }
}
