import {
  changesBetween,
  composePublic,
  layersAfter,
  localesToPublish,
  localeTags,
  eachField,
  parentOf,
  publicRows,
  typeWithId,
  validate,
  withoutHidden,
  type ContentType,
  type Document,
  type EditionRow,
  type Field,
  type Problem,
  type PublicLayers,
  type PublishCheck,
  type PublishConsequences,
} from '@wisteria/core'
import {
  descendantsOf,
  hiddenTargets,
  holdersOf,
  isPublic,
  namedPublicRows,
  parentPathsOf,
  pathsOfEntry,
  publicEntryWithFact,
  publicHistoryOf,
  publicReferrers,
  publicTitleOf,
  type KnownHistory,
  type Reader,
  type RowsChanged,
  type Site,
  type WorkingCopy,
} from '@wisteria/store'
import { namesIn } from '../workingCopies/named.js'
import { referenceProblems } from '../workingCopies/saving.js'

export async function publishConsequences(
  reader: Reader,
  site: Site,
  copy: WorkingCopy,
  asked: readonly string[] | undefined,
): Promise<Omit<PublishConsequences, 'together'>> {
  const history = await publicHistoryOf(reader, site, copy.type, copy.id)
  const locales = localesToPublish(site.model, site.settings, copy.type, copy.document, history, asked)
  const after = layersAfter(copy.document, locales, history.layers)
  const before = history.layers ? readersSee(site, copy.type, history.layers) : {}
  const composed = readersSee(site, copy.type, after)
  const paths = await pathsAfter(reader, site, copy, after)
  const changes = changesBetween(site.model, copy.type, before, composed, localeTags(site.settings))
  return {
    version: copy.version,
    locales,
    problems: await problemsOf(reader, site, copy, after),
    changes,
    names: await namesIn(reader, site, changes),
    paths,
    hiddenReferences: await hiddenTargets(reader, site, copy.id),
    affects: await affectedBy(reader, site, copy.id, Object.keys(paths).length > 0),
  }
}

/** The blocking problems of a working copy, and where it differs from the published edition: part of every save's answer. */
export async function publishCheck(
  reader: Reader,
  site: Site,
  copy: WorkingCopy,
  history: KnownHistory,
): Promise<PublishCheck> {
  const locales = localesToPublish(site.model, site.settings, copy.type, copy.document, history, undefined)
  const after = layersAfter(copy.document, locales, history.layers)
  const before = history.layers ? readersSee(site, copy.type, history.layers) : {}
  const composed = readersSee(site, copy.type, after)
  const changes = changesBetween(site.model, copy.type, before, composed, localeTags(site.settings))
  return {
    locales,
    problems: await problemsOf(reader, site, copy, after),
    changes,
    names: await namesIn(reader, site, changes),
  }
}

/** What layers come to, without what rules hide. */
export const readersSee = (site: Site, type: ContentType, layers: PublicLayers): Document =>
  withoutHidden(site.model, type, composePublic(site.model, type, layers), site.settings)

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
  const parentPath = await parentPathsOf(reader, site, 'published', parent)
  const isOrphan = parent !== undefined && !(await isPublic(reader, site, parent))
  if (type.root === false && parent === undefined && parentField)
    problems.push({
      code: 'noParent',
      pointer: `/values/${parentField.name}`,
      message: `${parentField.label} is empty, and ${type.label.toLowerCase()} entries stand below another. Choose one.`,
    })
  if (isOrphan)
    problems.push({
      code: 'parentNotPublic',
      pointer: `/values/${parentField!.name}`,
      message: `${parentField!.label} is not public. Publish it first: an entry's path hangs on its parent's.`,
    })
  const slugField = type.fields.find((field) => field.kind === 'slug')
  const rows = publicRows(site.model, type, site.settings, after, parentPath)
  problems.push(...(await takenValues(reader, site, copy, rows, Object.keys(after.locales))))
  const holders = await holdersOf(
    reader,
    site.id,
    rows.flatMap((row) => row.path ?? []),
  )
  for (const row of rows) {
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
    const holder = holders.get(row.path)
    if (!holder?.isCurrent || (holder.entry === copy.id && holder.locale === row.locale)) continue
    const title = await publicTitleOf(reader, site, holder.entry, holder.locale)
    const message =
      holder.entry === copy.id
        ? `${row.path} would be the path in ${holder.locale} and in ${row.locale}. Choose another slug in one.`
        : `${row.path} belongs to “${title ?? holder.entry}”. Choose another slug.`
    problems.push({ code: 'pathTaken', locale: row.locale, message, ...(slugPointer ? { pointer: slugPointer } : {}) })
  }
  return problems
}

/** Values of unique fields that another public entry of the type has in the same locale. */
async function takenValues(
  reader: Reader,
  site: Site,
  copy: WorkingCopy,
  rows: readonly EditionRow[],
  locales: readonly string[],
): Promise<Problem[]> {
  const unique: { field: Field; pointer: string }[] = []
  eachField(copy.type, (field, on) => {
    if (field.unique || (field.kind === 'slug' && copy.type.path === undefined && on.length === 0))
      unique.push({ field, pointer: `/values/${[...on, field].map((one) => one.name).join('/')}` })
  })
  const problems: Problem[] = []
  for (const row of rows.filter((one) => locales.includes(one.locale)))
    for (const { field, pointer } of unique) {
      const fact = row.facts[field.id]
      if (fact === undefined || Array.isArray(fact)) continue
      const other = await publicEntryWithFact(reader, site, copy.type, field, row.locale, fact, copy.id)
      if (!other) continue
      const where = field.localized ? row.locale : undefined
      // A value that all locales share is told once.
      if (!where && problems.some((problem) => problem.pointer === pointer)) continue
      problems.push({
        code: 'notUnique',
        message: `${field.label}${where ? ` in ${where}` : ''} is the same as that of “${other.title || other.entry}”. Choose another.`,
        pointer: where ? `${pointer}/${where}` : pointer,
        ...(where ? { locale: where } : {}),
      })
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
  const parentPath = await parentPathsOf(reader, site, 'published', parent)
  const now = await pathsOfEntry(reader, site, 'published', copy.id)
  return Object.fromEntries(
    publicRows(site.model, copy.type, site.settings, after, parentPath).flatMap(({ locale, path: to }) => {
      const from = now.find((row) => row.locale === locale)?.path ?? null
      return from === to ? [] : [[locale, { from, to }]]
    }),
  )
}

/** So many public entries that refer to one are named. */
const maxReferring = 100

async function affectedBy(
  reader: Reader,
  site: Site,
  entry: string,
  pathsChange: boolean,
): Promise<PublishConsequences['affects']> {
  const below = pathsChange ? (await descendantsOf(reader, site, 'published', entry)).map(({ id }) => id) : []
  const referring = await publicReferrers(reader, site, entry, maxReferring)
  const refers = referring.filter((id) => id !== entry && !below.includes(id))
  const named = await namedPublicRows(reader, site, [...below, ...refers])
  return [...below, ...refers].flatMap((id) => {
    const row = named.get(id)
    if (!row) return []
    const type = typeWithId(site.model, row.type)?.name ?? ''
    return [{ id, type, title: row.title, because: below.includes(id) ? ('below' as const) : ('refers' as const) }]
  })
}
