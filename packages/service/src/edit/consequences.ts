import {
  changesBetween,
  composePublic,
  layersAfter,
  localesToPublish,
  localeTags,
  parentOf,
  publicRows,
  typeWithId,
  validate,
  type Problem,
  type PublicLayers,
  type PublishConsequences,
} from '@wisteria/core'
import {
  descendantsOf,
  holderOf,
  parentPathsOf,
  publicHistoryOf,
  type Reader,
  type RowsChanged,
  type Site,
  type WorkingCopy,
} from '@wisteria/store'
import { referenceProblems } from './saving.js'

export async function publishConsequences(
  reader: Reader,
  site: Site,
  copy: WorkingCopy,
  asked: readonly string[] | undefined,
): Promise<PublishConsequences> {
  const history = await publicHistoryOf(reader, copy.id)
  const locales = localesToPublish(site.model, site.settings, copy.type, copy.document, history, asked)
  const after = layersAfter(copy.document, locales, history.layers)
  const before = history.layers ? composePublic(site.model, copy.type, history.layers) : {}
  const composed = composePublic(site.model, copy.type, after)
  const paths = await pathsAfter(reader, site, copy, after)
  return {
    version: copy.version,
    locales,
    problems: await problemsOf(reader, site, copy, after),
    changes: changesBetween(site.model, copy.type, before, composed, localeTags(site.settings)),
    paths,
    hiddenReferences: await hiddenReferences(reader, site, copy),
    affects: await affectedBy(reader, site, copy.id, Object.keys(paths).length > 0),
  }
}

/** Everything that keeps these layers from being public. */
export async function problemsOf(
  reader: Reader,
  site: Site,
  copy: WorkingCopy,
  after: PublicLayers,
): Promise<Problem[]> {
  const { type } = copy
  const problems = validate(site.model, type, after, site.settings)
  problems.push(...(await referenceProblems(reader, site, copy)))
  const composed = composePublic(site.model, type, after)
  const parent = parentOf(type, composed)
  const parentField = type.fields.find((field) => field.name === type.parent)
  const parentPath = await parentPathsOf(reader, 'published', parent)
  const isOrphan =
    parent !== undefined && (await reader.all('select 1 from published where entry = ? limit 1', [parent])).length === 0
  if (isOrphan)
    problems.push({
      code: 'parentNotPublic',
      pointer: `/values/${parentField!.name}`,
      message: `${parentField!.label} is not public. Publish it first: an entry's path hangs on its parent's.`,
    })
  const slugField = type.fields.find((field) => field.kind === 'slug')
  for (const row of publicRows(site.model, type, site.settings, after, parentPath)) {
    const slugPointer = slugField
      ? `/values/${slugField.name}${slugField.localized ? '/' + row.locale : ''}`
      : undefined
    if (row.path === null) {
      const missing = type.path?.[row.locale] !== undefined && after.locales[row.locale] !== undefined && !isOrphan
      if (missing)
        problems.push({
          code: 'noPath',
          locale: row.locale,
          message: `${slugField?.label ?? 'Slug'} is empty in ${row.locale}, so there is no path. Write one.`,
          ...(slugPointer ? { pointer: slugPointer } : {}),
        })
      continue
    }
    const holder = await holderOf(reader, site.id, row.path)
    if (!holder?.isCurrent || (holder.entry === copy.id && holder.locale === row.locale)) continue
    const [other] = await reader.all<{ title: string }>('select title from published where entry = ? and locale = ?', [
      holder.entry,
      holder.locale,
    ])
    const message =
      holder.entry === copy.id
        ? `${row.path} would be the path in ${holder.locale} and in ${row.locale}. Choose another slug in one.`
        : `${row.path} belongs to “${other?.title ?? holder.entry}”. Choose another slug.`
    problems.push({ code: 'pathTaken', locale: row.locale, message, ...(slugPointer ? { pointer: slugPointer } : {}) })
  }
  return problems
}

async function pathsAfter(
  reader: Reader,
  site: Site,
  copy: WorkingCopy,
  after: PublicLayers,
): Promise<RowsChanged['paths']> {
  const parent = parentOf(copy.type, composePublic(site.model, copy.type, after))
  const parentPath = await parentPathsOf(reader, 'published', parent)
  const now = await reader.all<{ locale: string; path: string | null }>(
    'select locale, path from published where entry = ?',
    [copy.id],
  )
  return Object.fromEntries(
    publicRows(site.model, copy.type, site.settings, after, parentPath).flatMap(({ locale, path: to }) => {
      const from = now.find((row) => row.locale === locale)?.path ?? null
      return from === to ? [] : [[locale, { from, to }]]
    }),
  )
}

async function hiddenReferences(
  reader: Reader,
  site: Site,
  copy: WorkingCopy,
): Promise<PublishConsequences['hiddenReferences']> {
  const rows = await reader.all<{ id: string; type: string; title: string }>(
    `select distinct d.entry as id, d.type, d.title from draft_refs r join drafts d on d.entry = r.target and d.locale = ?
     where r.entry = ? and not exists (select 1 from published p where p.entry = r.target)`,
    [site.settings.defaultLocale, copy.id],
  )
  return rows.map((row) => ({ ...row, type: typeWithId(site.model, row.type)?.name ?? '' }))
}

async function affectedBy(
  reader: Reader,
  site: Site,
  entry: string,
  pathsChange: boolean,
): Promise<PublishConsequences['affects']> {
  const below = pathsChange ? (await descendantsOf(reader, site, 'published', entry)).map(({ id }) => id) : []
  const referring = await reader.all<{ entry: string }>(
    'select distinct entry from published_refs where target = ? order by entry limit 100',
    [entry],
  )
  const refers = referring.map((row) => row.entry).filter((id) => id !== entry && !below.includes(id))
  // Named in the default locale, or in any that it can be read in.
  const rows = await reader.all<{ entry: string; type: string; title: string }>(
    `select entry, type, title from published where entry in (select value from json_each(?)) order by locale = ?`,
    [JSON.stringify([...below, ...refers]), site.settings.defaultLocale],
  )
  const named = new Map(rows.map((row) => [row.entry, row]))
  return [...below, ...refers].flatMap((id) => {
    const row = named.get(id)
    if (!row) return []
    const type = typeWithId(site.model, row.type)?.name ?? ''
    return [{ id, type, title: row.title, because: below.includes(id) ? ('below' as const) : ('refers' as const) }]
  })
}
