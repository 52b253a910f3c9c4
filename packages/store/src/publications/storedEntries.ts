import type { Document, StoredEntry } from '@wisteria/core'
import type { Reader } from '../connection/reader.js'
import type { Site } from '../sites/sites.js'
import { sharedLayer } from './publicHistory.js'

/** So many entries are read at once. */
const batch = 500

/** The entries of a type with the documents that are in force, a batch at a time. */
export async function* storedEntries(reader: Reader, site: Site, type: string): AsyncGenerator<StoredEntry> {
  interface Row {
    readonly id: string
    readonly layer: string | null
    readonly document: string
    readonly model_version: number
  }
  for (let after = ''; ;) {
    const ids = await reader.all<{ id: string }>(
      `select id from entries where site = ? and type = ? and id > ? order by id limit ${batch}`,
      [site.id, type, after],
    )
    if (ids.length === 0) return
    after = ids.at(-1)!.id
    const wanted = JSON.stringify(ids.map((row) => row.id))
    const copies = await reader.all<Row>(
      `select e.id, null as layer, r.document, r.model_version from entries e join revisions r on r.entry = e.id and r.number = e.revision
       where e.id in (select value from json_each(?))`,
      [wanted],
    )
    // The newest publication of each layer says what of it is public.
    const layers = await reader.all<Row>(
      `select p.entry as id, p.layer, r.document, r.model_version from publications p join revisions r on r.entry = p.entry and r.number = p.revision
       where p.entry in (select value from json_each(?)) and p.id = (select max(q.id) from publications q where q.entry = p.entry and q.layer = p.layer)`,
      [wanted],
    )
    const parsed = new Map<string, Document>()
    const written = (row: Row) => {
      const document = parsed.get(row.document) ?? (JSON.parse(row.document) as Document)
      parsed.set(row.document, document)
      return { document, modelVersion: row.model_version }
    }
    const byEntry = new Map<string, Row[]>()
    for (const row of layers) byEntry.set(row.id, [...(byEntry.get(row.id) ?? []), row])
    for (const copy of copies) {
      const own = byEntry.get(copy.id) ?? []
      const shared = own.find((row) => row.layer === sharedLayer)
      yield {
        id: copy.id,
        type,
        copy: written(copy),
        ...(shared
          ? {
              layers: {
                shared: written(shared),
                locales: Object.fromEntries(
                  own.filter((row) => row !== shared).map((row) => [row.layer!, written(row)]),
                ),
              },
            }
          : {}),
      }
    }
  }
}
