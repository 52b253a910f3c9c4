import type { Document, StoredEntry, WrittenDocument } from '@wisteria/core'
import type { Reader } from '../connection/reader.js'
import type { Site } from '../sites/sites.js'
import { sharedLayer } from './publicHistory.js'

/** So many entries are read at once. */
const batch = 500

/** The entries of a type with the documents that are in force, a batch at a time. Each document is read once. */
export async function* storedEntries(reader: Reader, site: Site, type: string): AsyncGenerator<StoredEntry> {
  for (let after = ''; ;) {
    // The copy's revision, and those of the newest publication of each layer: SQLite returns the row of `max`.
    const rows = await reader.all<{ id: string; layer: string | null; revision: number | null }>(
      `with asked as materialized (select id, revision from entries where site = ?1 and type = ?2 and id > ?3 order by id limit ${batch})
       select id, null as layer, revision from asked
       union all select entry, layer, revision from (
         select p.entry, p.layer, p.revision, max(p.id) from asked join publications p on p.entry = asked.id group by p.entry, p.layer)`,
      [site.id, type, after],
    )
    const copies = rows.flatMap(({ id, layer, revision }) => (layer === null ? [{ id, revision: revision! }] : []))
    if (copies.length === 0) return
    for (const { id } of copies) if (id > after) after = id
    const wanted = new Set(rows.flatMap(({ id, revision }) => (revision === null ? [] : [`${id} ${revision}`])))
    const documents = await reader.all<{ entry: string; number: number; document: string; model_version: number }>(
      `select r.entry, r.number, r.document, r.model_version from json_each(?) w
       join revisions r on r.entry = w.value ->> 0 and r.number = w.value ->> 1`,
      [JSON.stringify([...wanted].map((pair) => pair.split(' ')))],
    )
    const written = new Map<string, WrittenDocument>(
      documents.map((row) => [
        `${row.entry} ${row.number}`,
        { document: JSON.parse(row.document) as Document, modelVersion: row.model_version },
      ]),
    )
    const layersOf = new Map<string, [layer: string, written: WrittenDocument][]>()
    for (const { id, layer, revision } of rows)
      if (layer !== null && revision !== null)
        layersOf.set(id, [...(layersOf.get(id) ?? []), [layer, written.get(`${id} ${revision}`)!]])
    for (const { id, revision } of copies) {
      const layers = new Map(layersOf.get(id))
      const shared = layers.get(sharedLayer)
      layers.delete(sharedLayer)
      yield {
        id,
        type,
        copy: written.get(`${id} ${revision}`)!,
        ...(shared ? { layers: { shared, locales: Object.fromEntries(layers) } } : {}),
      }
    }
  }
}
