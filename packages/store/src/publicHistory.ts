import { upgradeDocument, type ContentType, type Document, type PublicHistory, type PublicLayers } from '@wisteria/core'
import type { Reader } from './database.js'
import type { Site } from './sites.js'
import type { PublicationRow } from './tables.js'

/** The layer name of what is not localized. */
export const sharedLayer = '*'

/**
 * What is public of an entry now, and what once was: read from its publications, the only truth about it. Documents are
 * read as the site's model has them.
 */
export async function publicHistoryOf(
  reader: Reader,
  site: Pick<Site, 'model'>,
  type: ContentType,
  entry: string,
): Promise<PublicHistory & { readonly revisions: Readonly<Record<string, number>> }> {
  const rows = await reader.all<Pick<PublicationRow, 'layer' | 'revision'>>(
    'select layer, revision from publications where entry = ? order by id',
    [entry],
  )
  const current = new Map<string, number | null>()
  for (const row of rows) current.set(row.layer, row.revision)
  const revisions = Object.fromEntries([...current].filter((pair): pair is [string, number] => pair[1] !== null))
  const withdrawn = [...current].flatMap(([layer, revision]) =>
    revision === null && layer !== sharedLayer ? [layer] : [],
  )
  const numbers = [...new Set(Object.values(revisions))]
  const documents = new Map<number, Document>()
  if (numbers.length > 0) {
    const found = await reader.all<{ number: number; document: string; model_version: number }>(
      `select number, document, model_version from revisions where entry = ? and number in (${numbers.map(() => '?').join(', ')})`,
      [entry, ...numbers],
    )
    for (const { number, document, model_version: version } of found)
      documents.set(number, upgradeDocument(site.model, type, JSON.parse(document) as Document, version))
  }
  return { layers: layersFrom(revisions, (revision) => documents.get(revision)!), withdrawn, revisions }
}

/** Layers from the revisions they were published from; undefined when the shared layer is not public. */
export function layersFrom(
  revisions: Readonly<Record<string, number>>,
  documentOf: (revision: number) => Document,
): PublicLayers | undefined {
  const shared = revisions[sharedLayer]
  if (shared === undefined) return undefined
  return {
    shared: documentOf(shared),
    locales: Object.fromEntries(
      Object.entries(revisions)
        .filter(([layer]) => layer !== sharedLayer)
        .map(([locale, revision]) => [locale, documentOf(revision)]),
    ),
  }
}
