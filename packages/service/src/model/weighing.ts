import {
  anyField,
  consequencesOf,
  fieldNamed,
  insideGroup,
  ownersInside,
  ownersOf,
  Weighing,
  worstFirst,
  type Consequence,
  type Document,
  type Fielded,
  type Model,
  type PlaceReader,
  type StoredEntry,
} from '@wisteria/core'
import { sharedLayer, type FieldReadRow, type Reader, type Site } from '@wisteria/store'

const batch = 500

/** Every consequence of a proposed model: of the models themselves, on what is stored, and for who reads it. */
export async function consequencesFor(reader: Reader, site: Site, model: Model): Promise<Consequence[]> {
  const counts = await reader.all<{ type: string; kept: number; binned: number }>(
    'select type, count(*) - count(deleted_at) as kept, count(deleted_at) as binned from entries where site = ? group by type',
    [site.id],
  )
  const all = consequencesOf(
    site.model,
    model,
    Object.fromEntries(counts.map((row) => [row.type, row.kept])),
    Object.fromEntries(counts.map((row) => [row.type, row.binned])),
  )
  const weighing = new Weighing(site.model, model, site.settings)
  for (const type of weighing.types) for await (const entry of storedEntries(reader, site, type)) weighing.add(entry)
  return withReaders(reader, site, model, worstFirst([...all, ...weighing.consequences()]))
}

/** The entries of a type with the documents that are in force, a batch at a time. */
async function* storedEntries(reader: Reader, site: Site, type: string): AsyncGenerator<StoredEntry> {
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

/** Says of everything that breaks which access keys read it, and when they last did. */
async function withReaders(
  reader: Reader,
  site: Site,
  model: Model,
  all: readonly Consequence[],
): Promise<Consequence[]> {
  if (!all.some((one) => one.weight !== 'plain')) return [...all]
  const reads = await reader.all<FieldReadRow & { label: string }>(
    'select f.*, k.label from field_reads f join access_keys k on k.id = f.key where f.site = ? and k.revoked_at is null order by f.at desc',
    [site.id],
  )
  if (reads.length === 0) return [...all]
  return all.map((one) => {
    const place = one.weight === 'plain' ? undefined : (placeIn(site.model, one.place) ?? placeIn(model, one.place))
    if (!place) return one
    const owners = holdersOf(site.model, place.owner)
    const readers = new Map<string, PlaceReader>()
    for (const read of reads) {
      const isOwn =
        read.type === place.owner && (place.field === undefined || read.field === place.field || read.field === '*')
      const isAround = read.field === '*' && owners.has(read.type)
      if ((isOwn || isAround) && !readers.has(read.key))
        readers.set(read.key, { key: read.key, label: read.label, lastReadAt: read.at, name: read.name })
    }
    return readers.size > 0 ? { ...one, readers: [...readers.values()] } : one
  })
}

/** The ids behind a place such as `activity.price`. */
function placeIn(model: Model, place: string): { owner: string; field: string | undefined } | undefined {
  const [name, ...path] = place.split('.')
  const owner = ownersOf(model).find((one) => one.name === name)
  if (!owner) return undefined
  let here: Fielded | undefined = owner
  let id: string | undefined
  for (const step of path) {
    const field: ReturnType<typeof fieldNamed> = here && fieldNamed(here, step)
    if (!field) return undefined
    id = field.id
    here = insideGroup(field)
  }
  return { owner: owner.id, field: id }
}

/** The types whose whole entries bring a block type along. */
function holdersOf(model: Model, block: string): Set<string> {
  return new Set(
    model.types
      .filter((type) =>
        anyField(model, type, (field) => ownersInside(model, field).some((inside) => inside.id === block)),
      )
      .map((type) => type.id),
  )
}
