import { upgradeDocument, WisteriaError, type Document, type Point } from '@wisteria/core'
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
