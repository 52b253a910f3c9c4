import {
  upgradeDocument,
  type ContentType,
  type Document,
  type Origins,
  type PublicHistory,
  type PublicLayers,
} from '@wisteria/core'
import type { Reader } from '../connection/reader.js'
import type { WorkingCopy } from '../entries/workingCopies.js'
import type { Site } from '../sites/sites.js'

/** The name of the layer of shared values. */
export const sharedLayer = '*'

/** The public layers of an entry, with the revision of each. */
export type KnownHistory = PublicHistory & { readonly revisions: Readonly<Record<string, number>> }

/** The public layers of one entry, and its earlier ones. */
export async function publicHistoryOf(
  reader: Reader,
  site: Pick<Site, 'model'>,
  type: ContentType,
  entry: string,
): Promise<KnownHistory> {
  return (await publicHistoriesOf(reader, site, [{ id: entry, type }])).get(entry)!
}

/**
 * The public layers of some entries, and their earlier ones: read from their publications, the only truth about them. Documents are
 * read in the form of the site's model.
 * @param copies working copies that were read already: their revisions are not read again.
 * @returns by entry, for each of the given ones.
 */
export async function publicHistoriesOf(
  reader: Reader,
  site: Pick<Site, 'model'>,
  entries: readonly { readonly id: string; readonly type: ContentType }[],
  copies: ReadonlyMap<string, Pick<WorkingCopy, 'revision' | 'document'>> = new Map(),
): Promise<Map<string, KnownHistory>> {
  const ids = JSON.stringify(entries.map(({ id }) => id))
  // The newest publication of each layer: SQLite returns the row of `max`.
  const rows = await reader.all<{
    entry: string
    archived_at: string | null
    layer: string | null
    revision: number | null
  }>(
    `select e.id as entry, e.archived_at, p.layer, p.revision from entries e left join (
       select entry, layer, revision, max(id) from publications where entry in (select value from json_each(?1)) group by entry, layer
     ) p on p.entry = e.id where e.id in (select value from json_each(?1))`,
    [ids],
  )
  const archived = new Set(rows.flatMap(({ entry, archived_at: at }) => (at === null ? [] : [entry])))
  const current = new Map<string, Map<string, number | null>>(entries.map(({ id }) => [id, new Map()]))
  for (const row of rows) if (row.layer !== null) current.get(row.entry)!.set(row.layer, row.revision)
  const wanted = [...current].flatMap(([entry, layers]) =>
    [...new Set(layers.values())].flatMap((revision) =>
      revision === null || revision === copies.get(entry)?.revision ? [] : [[entry, revision]],
    ),
  )
  const found =
    wanted.length === 0
      ? []
      : await reader.all<{ entry: string; number: number; document: string; model_version: number }>(
          `select r.entry, r.number, r.document, r.model_version from json_each(?) w
           join revisions r on r.entry = w.value ->> 0 and r.number = w.value ->> 1`,
          [JSON.stringify(wanted)],
        )
  const written = new Map(found.map((row) => [`${row.entry} ${row.number}`, row]))
  return new Map(
    entries.map(({ id, type }) => {
      const layers = [...current.get(id)!]
      const revisions = Object.fromEntries(layers.filter((pair): pair is [string, number] => pair[1] !== null))
      const documents = new Map<number, Document>()
      const documentOf = (revision: number): Document => {
        const copy = copies.get(id)
        const standing = copy?.revision === revision ? copy.document : documents.get(revision)
        if (standing) return standing
        const row = written.get(`${id} ${revision}`)!
        const document = upgradeDocument(site.model, type, JSON.parse(row.document) as Document, row.model_version)
        documents.set(revision, document)
        return document
      }
      return [
        id,
        {
          layers: layersFrom(revisions, documentOf),
          withdrawn: layers.flatMap(([layer, revision]) => (revision === null && layer !== sharedLayer ? [layer] : [])),
          revisions,
          ...(archived.has(id) ? { archived: true } : {}),
        },
      ]
    }),
  )
}

/** The public layers of an entry once some of them come from other revisions, or from none. */
export function historyAfter(
  history: KnownHistory,
  changed: Readonly<Record<string, number | null>>,
  layers: PublicLayers | undefined,
): KnownHistory {
  const all = { ...history.revisions, ...changed }
  const revisions = Object.fromEntries(Object.entries(all).filter((pair): pair is [string, number] => pair[1] !== null))
  const gone = Object.entries(changed).flatMap(([layer, revision]) => (revision === null ? [layer] : []))
  const withdrawn = new Set(
    [...history.withdrawn, ...gone].filter((layer) => layer !== sharedLayer && !(layer in revisions)),
  )
  return { ...history, layers, revisions, withdrawn: [...withdrawn] }
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

/** Whether anything of a site has ever been public. */
export async function hasBeenPublic(reader: Reader, site: string): Promise<boolean> {
  return (await reader.all('select 1 from publications where site = ? limit 1', [site])).length > 0
}

/**
 * The origins of public translations: of each locale from the revision that it was published from.
 * @param layers the revisions of the layers, by entry.
 */
export async function originsOfLayers(
  reader: Reader,
  layers: ReadonlyMap<string, Readonly<Record<string, number>>>,
): Promise<Map<string, Origins>> {
  const wanted = [...layers].flatMap(([entry, revisions]) =>
    Object.entries(revisions).flatMap(([layer, revision]) => (layer === sharedLayer ? [] : [[entry, layer, revision]])),
  )
  const rows = await reader.all<{ entry: string; layer: string; origins: string | null }>(
    `select r.entry, w.value ->> 1 as layer, r.origins -> (w.value ->> 1) as origins from json_each(?) w
     join revisions r on r.entry = w.value ->> 0 and r.number = w.value ->> 2`,
    [JSON.stringify(wanted)],
  )
  const byEntry = new Map<string, Record<string, Origins[string]>>()
  for (const { entry, layer, origins } of rows)
    if (origins !== null) byEntry.set(entry, { ...byEntry.get(entry), [layer]: JSON.parse(origins) as Origins[string] })
  return byEntry
}
