import { localeTags, titleOf, typeWithId, type UsedBy } from '@wisteria/core'
import type { Reader } from '../connection/reader.js'
import type { Site } from '../sites/sites.js'
import { workingCopiesOf } from '../entries/workingCopies.js'

/** More than so many are not named. */
export const maxReferrers = 200

/**
 * The entries that use an entry or an asset. Stored working copies count, also hidden values and values of removed fields. Entries
 * of removed types are left out, because they cannot be opened.
 * @param only `current` leaves out entries of which only an older revision uses it.
 */
export async function referrersOf(
  reader: Reader,
  site: Site,
  target: string,
  only: 'current' | 'all' = 'current',
): Promise<UsedBy[]> {
  const rows = await reader.all<{
    id: string
    type: string
    draft: number
    public: number
    bin: number
    older: string | null
  }>(
    `select e.id, e.type, max(u.draft) as draft, max(u.public) as public, e.deleted_at is not null as bin,
       group_concat(u.number) as older
     from (
       select r.entry, r.number = h.revision as draft, 0 as public, iif(r.number = h.revision, null, r.number) as number
         from revision_refs r join entries h on h.id = r.entry where r.target = ?1
       union all select entry, 0, 1, null from published_refs where projection = ?2 and target = ?1
     ) u join entries e on e.id = u.entry
     where e.site = ?3 and e.id <> ?1 and e.type in (select value from json_each(?4))
     group by e.id ${only === 'current' ? 'having max(u.draft) = 1 or max(u.public) = 1' : ''}
     order by e.id limit ${maxReferrers}`,
    [target, site.projection, site.id, JSON.stringify(site.model.types.map(({ id }) => id))],
  )
  const copies = new Map([
    ...(await workingCopiesOf(
      reader,
      site,
      rows.flatMap((row) => (row.bin ? [] : [row.id])),
    )),
    ...(await workingCopiesOf(
      reader,
      site,
      rows.flatMap((row) => (row.bin ? [row.id] : [])),
      'binned',
    )),
  ])
  const order = [site.settings.defaultLocale, ...localeTags(site.settings)]
  return rows
    .map((row): UsedBy => {
      const copy = copies.get(row.id)
      const isCurrent = row.draft === 1 || row.public === 1
      return {
        id: row.id,
        type: typeWithId(site.model, row.type)!.name,
        title: copy ? titleOf(copy.type, copy.document, order) : '',
        inWorkingCopy: row.draft === 1,
        inPublic: row.public === 1,
        inBin: row.bin === 1,
        inRevisions: isCurrent ? [] : numbersIn(row.older),
      }
    })
    .sort((a, b) => (a.title < b.title ? -1 : a.title > b.title ? 1 : a.id < b.id ? -1 : 1))
}

const numbersIn = (list: string | null): number[] =>
  (list ?? '')
    .split(',')
    .filter(Boolean)
    .map(Number)
    .sort((a, b) => b - a)
