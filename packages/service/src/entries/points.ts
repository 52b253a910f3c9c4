import { upgradeDocument, WisteriaError, type Document, type Point } from '@wisteria/core'
import { publicHistoryOf, type Reader, type RevisionRow, type Site, type WorkingCopy } from '@wisteria/store'
import { readersSee } from '../publishing/consequences.js'

/** A revision of an entry. @throws WisteriaError `notFound` that says which there are. */
export async function requireRevision(reader: Reader, copy: WorkingCopy, number: number): Promise<RevisionRow> {
  const [row] = await reader.all<RevisionRow>('select * from revisions where entry = ? and number = ?', [
    copy.id,
    number,
  ])
  if (!row)
    throw new WisteriaError('notFound', `There is no revision ${number} of the entry: it has 1 to ${copy.revision}.`)
  return row
}

/** The entry as it was or is at some point, as the model of today reads it. */
export async function documentAt(reader: Reader, site: Site, copy: WorkingCopy, at: Point): Promise<Document> {
  if (at === 'working') return copy.document
  if (at === 'public') {
    const { layers } = await publicHistoryOf(reader, site, copy.type, copy.id)
    return layers ? readersSee(site, copy.type, layers) : {}
  }
  const row = await requireRevision(reader, copy, at)
  return upgradeDocument(site.model, copy.type, JSON.parse(row.document) as Document, row.model_version)
}
