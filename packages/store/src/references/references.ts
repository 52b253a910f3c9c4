import { eachField, shapeOf, typeNamed, typeWithId, type ContentType } from '@wisteria/core'
import type { Reader } from '../connection/reader.js'
import type { PublicChange } from '../events/act.js'
import type { Site } from '../sites/sites.js'

/** The possible targets of references. */
export interface ReferenceTargets {
  /** The type of each entry that is not in the bin; undefined where the model no longer has it. */
  readonly types: ReadonlyMap<string, ContentType | undefined>
  /** The media type of each asset. */
  readonly mediaTypes: ReadonlyMap<string, string>
}

/** Those of some entries and assets that are there to be referred to. */
export async function referenceTargets(
  reader: Reader,
  site: Site,
  entries: readonly string[],
  assets: readonly string[],
): Promise<ReferenceTargets> {
  const rows = await reader.all<{ id: string; type: string | null; media: string | null }>(
    `select id, type, null as media from entries where id in (select value from json_each(?1)) and +site = ?3 and deleted_at is null
     union all select id, null, media_type from assets where id in (select value from json_each(?2)) and +site = ?3`,
    [JSON.stringify(entries), JSON.stringify(assets), site.id],
  )
  return {
    types: new Map(rows.flatMap(({ id, type }) => (type === null ? [] : [[id, typeWithId(site.model, type)]]))),
    mediaTypes: new Map(rows.flatMap(({ id, media }) => (media === null ? [] : [[id, media]]))),
  }
}

/**
 * The types whose public entries refer to some entries by fields of their own, by the id of the entry.
 * @param changed each with the locales to look in.
 */
export async function referrerTypes(
  reader: Reader,
  site: Site,
  changed: readonly { readonly id: string; readonly type: ContentType; readonly locales: readonly string[] }[],
): Promise<ReadonlyMap<string, readonly string[]>> {
  const owners = new Map<string, string>()
  const asked = changed.flatMap(({ id, type, locales }) =>
    site.model.types.flatMap((owner) => {
      const fields: string[] = []
      eachField(owner, (field) => {
        const shape = shapeOf(field)
        if (shape.is === 'reference' && shape.to.some((name) => typeNamed(site.model, name) === type))
          fields.push(field.id)
      })
      for (const field of fields) owners.set(field, owner.name)
      return fields.flatMap((field) => locales.map((locale) => [id, field, locale]))
    }),
  )
  if (asked.length === 0) return new Map()
  const rows = await reader.all<{ id: string; field: string }>(
    `select distinct a.value ->> 0 as id, a.value ->> 1 as field from json_each(?) a where exists (
       select 1 from published_refs r indexed by published_refs_by_field
       where r.projection = ? and r.field = a.value ->> 1 and r.locale = a.value ->> 2 and r.target = a.value ->> 0)`,
    [JSON.stringify(asked), site.projection],
  )
  const types = new Map<string, string[]>()
  for (const { id, field } of rows) types.set(id, [...(types.get(id) ?? []), owners.get(field)!])
  return types
}

/** The public entries that refer to an entry, by id. */
export async function publicReferrers(reader: Reader, site: Site, target: string, most: number): Promise<string[]> {
  const rows = await reader.all<{ entry: string }>(
    'select distinct entry from published_refs where projection = ? and target = ? order by entry limit ?',
    [site.projection, target, most],
  )
  return rows.map(({ entry }) => entry)
}

/** The entries that a working copy refers to and that are not public. */
export async function hiddenTargets(
  reader: Reader,
  site: Site,
  entry: string,
): Promise<{ id: string; type: string; title: string }[]> {
  const rows = await reader.all<{ id: string; type: string; title: string }>(
    `select distinct d.entry as id, d.type, d.title from draft_refs r indexed by draft_refs_by_entry join drafts d on d.projection = r.projection and d.entry = r.target and d.locale = ?
     where r.projection = ? and r.entry = ? and not exists (select 1 from published p where p.projection = r.projection and p.entry = r.target)`,
    [site.settings.defaultLocale, site.projection, entry],
  )
  return rows.map((row) => ({ ...row, type: typeWithId(site.model, row.type)?.name ?? '' }))
}

/** What a change of an asset changes in public. Undefined where no public entry shows it. */
export async function shownChange(reader: Reader, site: Site, asset: string): Promise<PublicChange | undefined> {
  const rows = await reader.all<{ path: string | null }>(
    `select distinct p.path from published_refs r indexed by published_refs_by_target
     join published p on p.projection = r.projection and p.entry = r.entry and p.locale = r.locale where r.projection = ? and r.target = ?`,
    [site.projection, asset],
  )
  if (rows.length === 0) return undefined
  return { entries: [], assets: [asset], paths: rows.flatMap(({ path }) => path ?? []).sort() }
}

/** The entries outside the bin whose working copies refer to another, by id. */
export async function workingCopiesReferringTo(reader: Reader, target: string): Promise<string[]> {
  const rows = await reader.all<{ id: string }>(
    `select e.id from revision_refs r join entries e on e.id = r.entry and e.revision = r.number and e.deleted_at is null
     where r.target = ?1 and e.id <> ?1 order by e.id`,
    [target],
  )
  return rows.map(({ id }) => id)
}
