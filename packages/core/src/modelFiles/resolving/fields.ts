import { conditionNames } from '../../conditions/condition.js'
import { kindNamed } from '../../fields/kinds.js'
import type { Check, Field, FieldOwner, Model } from '../../model/model.js'
import { kindOptions, type Located } from '../files.js'
import { conversionBetween } from '../reshaping.js'
import type { CheckSource, FieldSource } from '../schema.js'
import { labelFrom, listOf, present } from '../words.js'
import type { Resolving } from './resolving.js'

/** Names that every entry or block answers to, so no field may have them. */
const reservedFieldNames = new Set([
  'id', 'entryId', 'path', 'paths', 'locale', 'contentLocale', 'type', 'block', 'itemId', 'publishedAt', 'updatedAt', 'state', 'values',
  'and', 'or', 'not', 'any', 'in', 'true', 'false', 'null', ...conditionNames,
]) // prettier-ignore

/** The fields of a type, block type or group, with the ids that they had. */
export function resolveFields(
  resolving: Resolving,
  located: Located<unknown>,
  sources: Readonly<Record<string, FieldSource>>,
  old: FieldOwner | undefined,
  around: readonly string[],
  then: FieldOwner | undefined,
): Field[] {
  const taken = new Map<string, string>()
  for (const [name, { was }] of Object.entries(sources)) for (const earlier of listOf(was)) taken.set(earlier, name)
  return Object.entries(sources).map(([name, field]) => {
    const at = [...around, 'fields', name]
    if (reservedFieldNames.has(name))
      resolving.problems.push(
        located.problem(at, 'reservedName', `\`${name}\` is a reserved name. Choose another.`, true),
      )
    const holder = taken.get(name)
    if (holder !== undefined && holder !== name)
      resolving.problems.push(
        located.problem(
          at,
          'nameTaken',
          `\`${name}\` is the earlier name of \`${holder}\`, which still answers to it. Remove \`was: ${name}\` there first, or choose another name.`,
          true,
        ),
      )
    const was = listOf(field.was).filter((earlier) => earlier !== name)
    const same = resolving.predecessor(
      old?.fields ?? [],
      name,
      was,
      (message) => resolving.problems.push(located.problem([...at, 'was'], 'badRename', message)),
      then && { olds: then.fields, last: (id) => lastField(resolving.past, id) },
    )
    const meant = then?.fields.find((candidate) => candidate.name === name)
    const kind = kindNamed(field.kind)
    const many = field.many ?? false
    const resolved: Field = {
      id: same?.id ?? resolving.mint('f'),
      name,
      ...(was.length > 0 ? { aliases: was } : {}),
      kind: field.kind,
      label: field.label ?? labelFrom(name),
      ...present({
        help: field.help,
        example: field.example,
        section: field.section,
        showIf: field.showIf,
        requireIf: field.requireIf,
        lockIf: field.lockIf,
      }),
      required: field.required ?? false,
      localized: field.localized ?? false,
      many,
      ...(field.count ? { count: field.count } : {}),
      ...(field.unique ? { unique: true } : {}),
      ...(field.check === undefined ? {} : { checks: checksOf(field.check) }),
      indexed: field.unique === true || (field.indexed ?? kind.indexed),
      ...(field.default === undefined ? {} : { default: defaultOf(field.default) }),
      ...(field.kind === 'group'
        ? {
            fields: resolveFields(
              resolving,
              located,
              field['fields'] as Record<string, FieldSource>,
              same?.fields ? (same as Field & FieldOwner) : undefined,
              at,
              meant?.fields ? (meant as Field & FieldOwner) : undefined,
            ),
          }
        : {}),
      options: kindOptions(field),
    }
    const conversion = same && conversionBetween(same, resolved)
    if (conversion)
      resolving.conversions.push({
        version: resolving.version,
        field: resolved.id,
        ...conversion,
        locale: resolving.site.defaultLocale,
        timeZone: resolving.site.timeZone,
      })
    return resolved
  })
}

/** Rules across fields in their one form. */
export const checksOf = (written: CheckSource): Check[] =>
  [written]
    .flat()
    .map((check) => (typeof check === 'string' ? { holds: check } : { ...present(check), holds: check.holds }))

const defaultOf = (written: unknown): NonNullable<Field['default']> => {
  const keys = typeof written === 'object' && written !== null ? Object.keys(written) : []
  return keys.length === 1 && keys[0] === 'expression'
    ? { expression: String((written as { expression: unknown }).expression) }
    : { value: written }
}

/** A field as it last was, wherever it was. */
function lastField(past: readonly Model[], id: string): Field | undefined {
  const within = (fields: readonly Field[]): Field | undefined => {
    for (const field of fields) {
      const match = field.id === id ? field : within(field.fields ?? [])
      if (match) return match
    }
    return undefined
  }
  for (const model of past.toReversed())
    for (const owner of [...model.types, ...model.blockTypes]) {
      const match = within(owner.fields)
      if (match) return match
    }
  return undefined
}
