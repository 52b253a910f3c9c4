import { fieldNamed, type ContentType } from '@wisteria/core'
import type { Reader } from '../connection/reader.js'
import type { Site } from '../sites/sites.js'
import type { DraftRow } from '../tables/tables.js'
import { factExpression, literal } from './editionTables.js'

/** An entry of a type that has parents. */
export type TreeRow = Pick<DraftRow, 'entry' | 'type' | 'title' | 'path' | 'region' | 'summary'> & {
  readonly parent: string | null
  /** Its number among its siblings. */
  readonly order: number | null
  readonly isInMenu: boolean | null
}

/**
 * Entries of types that have parents, in the order of readers: by their number, those without one last, then by title.
 * @param below only those directly below this entry; null for those at the root.
 */
export async function treeRows(reader: Reader, site: Site, most: number, below?: string | null): Promise<TreeRow[]> {
  const types = site.model.types.filter((type) => type.parent !== undefined)
  if (types.length === 0) return []
  // Field ids come from the model and not from outside; each type has its own fields for parent, order and menu. Each type has an
  // index of its own, so other types are not read.
  const fact = (type: ContentType, name: string | undefined): string => {
    const field = name === undefined ? undefined : fieldNamed(type, name)
    return field ? factExpression(field.id, 'd') : 'null'
  }
  const ofType = (type: ContentType): string =>
    `select d.entry, d.type, d.title, d.path, d.region, d.summary,
       (select r.target from draft_refs r where r.projection = d.projection and r.entry = d.entry and r.locale = d.locale and r.direct = 1
          and r.field = ${literal(fieldNamed(type, type.parent!)!.id)} limit 1) as parent,
       ${fact(type, type.order)} as place, ${fact(type, type.menu)} as menu
     from drafts d where d.projection = ?1 and d.locale = ?2 and d.type = ${literal(type.id)} and d.summary <> 'archived'`
  const where = below === undefined ? '' : below === null ? 'where parent is null' : 'where parent = ?4'
  const rows = await reader.all<Omit<TreeRow, 'order' | 'isInMenu'> & { place: number | null; menu: number | null }>(
    `select * from (${types.map(ofType).join(' union all ')}) ${where} order by place is null, place, title, entry limit ?3`,
    [site.projection, site.settings.defaultLocale, most, ...(typeof below === 'string' ? [below] : [])],
  )
  return rows.map(({ place, menu, ...row }) => ({ ...row, order: place, isInMenu: menu === null ? null : menu === 1 }))
}
