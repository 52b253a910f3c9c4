import {
  composePublic,
  eachField,
  parentOf,
  publicRows,
  validate,
  withoutHidden,
  type ContentType,
  type Document,
  type EditionRow,
  type Field,
  type Problem,
  type PublicLayers,
} from '@wisteria/core'
import {
  holdersOf,
  isPublic,
  parentPathsOf,
  publicEntryWithFact,
  publicTitleOf,
  type Reader,
  type Site,
  type WorkingCopy,
} from '@wisteria/store'
import { referenceProblems } from '../workingCopies/saving.js'

/** The composed layers, without values that rules hide. */
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
      message: `${parentField.label} is empty, and ${type.label.toLowerCase()} entries need a parent. Choose one.`,
      parameters: { field: parentField.label, type: type.label },
    })
  if (isOrphan)
    problems.push({
      code: 'parentNotPublic',
      pointer: `/values/${parentField!.name}`,
      message: `${parentField!.label} is not public. Publish it first: the path of an entry depends on its parent's.`,
      parameters: { field: parentField!.label },
    })
  const slugField = type.fields.find((field) => field.kind === 'slug')
  const rows = publicRows(site.model, type, site.settings, after, parentPath, copy)
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
          parameters: { field: slugField?.label ?? 'Slug' },
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
    problems.push({
      code: holder.entry === copy.id ? 'pathTwice' : 'pathTaken',
      locale: row.locale,
      message,
      parameters: { path: row.path, entry: title ?? holder.entry, other: holder.locale },
      ...(slugPointer ? { pointer: slugPointer } : {}),
    })
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
      unique.push({ field, pointer: `/values/${[...on, field].map((step) => step.name).join('/')}` })
  })
  const problems: Problem[] = []
  for (const row of rows.filter((row) => locales.includes(row.locale)))
    for (const { field, pointer } of unique) {
      const fact = row.facts[field.id]
      if (fact === undefined || Array.isArray(fact)) continue
      const other = await publicEntryWithFact(reader, site, copy.type, field, row.locale, fact, copy.id, row.region)
      if (!other) continue
      const where = field.localized ? row.locale : undefined
      // A problem of a shared value is reported once.
      if (!where && problems.some((problem) => problem.pointer === pointer)) continue
      problems.push({
        code: 'notUnique',
        message: `${field.label}${where ? ` in ${where}` : ''} is the same as that of “${other.title || other.entry}”. Choose another.`,
        parameters: { field: field.label, entry: other.title || other.entry },
        pointer: where ? `${pointer}/${where}` : pointer,
        ...(where ? { locale: where } : {}),
      })
    }
  return problems
}
