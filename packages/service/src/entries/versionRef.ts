import { upgradeDocument, WisteriaError, type Document, type Origins, type Point } from '@wisteria/core'
import {
  publicHistoryOf,
  revisionOf,
  type Reader,
  type Site,
  type StoredRevision,
  type WorkingCopy,
} from '@wisteria/store'
import { readersSee } from '../publishing/publishProblems.js'

/** A revision of an entry. @throws WisteriaError `notFound` with the numbers that exist. */
export async function requireRevision(reader: Reader, copy: WorkingCopy, number: number): Promise<StoredRevision> {
  const revision = await revisionOf(reader, copy.id, number)
  if (!revision)
    throw new WisteriaError('notFound', `There is no revision ${number} of the entry: it has 1 to ${copy.revision}.`)
  return revision
}

/** The entry as it was or is at some point, as the model of today reads it. */
export async function documentAt(reader: Reader, site: Site, copy: WorkingCopy, at: Point): Promise<Document> {
  if (at === 'working') return copy.document
  if (at === 'public') {
    const { layers } = await publicHistoryOf(reader, site, copy.type, copy.id)
    return layers ? readersSee(site, copy.type, layers) : {}
  }
  const { document, modelVersion } = await requireRevision(reader, copy, at)
  return upgradeDocument(site.model, copy.type, document, modelVersion)
}

/** What the translated units of a revision, or of what is public, were made from, as far as that was recorded. */
export async function originsAt(
  reader: Reader,
  site: Site,
  copy: WorkingCopy,
  at: Exclude<Point, 'working'>,
): Promise<Origins> {
  if (at !== 'public') return (await requireRevision(reader, copy, at)).origins ?? {}
  const { revisions } = await publicHistoryOf(reader, site, copy.type, copy.id)
  const origins: Record<string, Origins[string]> = {}
  for (const [layer, number] of Object.entries(revisions)) {
    const units = (await revisionOf(reader, copy.id, number))?.origins?.[layer]
    if (units) origins[layer] = units
  }
  return origins
}
