import { typeWithId, type ContentType } from '@wisteria/core'
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

/** The names of the types of some entries, whether they can be read or not. */
export async function typesOfEntries(reader: Reader, site: Site, ids: readonly string[]): Promise<string[]> {
  if (ids.length === 0) return []
  const rows = await reader.all<{ type: string }>(
    'select distinct type from entries where id in (select value from json_each(?)) and +site = ?',
    [JSON.stringify(ids), site.id],
  )
  return rows.flatMap((row) => typeWithId(site.model, row.type)?.name ?? [])
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

/** The public pages that show an asset: their bytes differ when it changes. Undefined where there are none. */
export async function publicHoldersOf(reader: Reader, site: Site, asset: string): Promise<PublicChange | undefined> {
  const rows = await reader.all<{ entry: string; type: string; path: string | null }>(
    `select distinct p.entry, p.type, p.path from published_refs r indexed by published_refs_by_target
     join published p on p.projection = r.projection and p.entry = r.entry and p.locale = r.locale where r.projection = ? and r.target = ?`,
    [site.projection, asset],
  )
  if (rows.length === 0) return undefined
  const types = new Map(rows.map((row) => [row.entry, typeWithId(site.model, row.type)?.name ?? '']))
  return {
    entries: [...types].map(([id, type]) => ({ id, type })),
    paths: rows.flatMap(({ path }) => path ?? []).sort(),
  }
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
