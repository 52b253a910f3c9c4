import { z } from 'zod'
import { isKindName } from '../fields/kinds.js'

export const namePattern = /^[a-z][A-Za-z0-9]{0,63}$/
const name = z
  .string()
  .regex(namePattern, 'must be a name: a lowercase letter, then letters or digits, such as `openingHours`')
const label = z.string().min(1).max(120)
const help = z.string().min(1).max(1000)
const condition = z.string().min(1).max(10_000)
const whole = z.int().min(0)
const was = z.union([name, z.array(name).min(1).max(20)])

const check = z.union([condition, z.strictObject({ holds: condition, message: z.string().min(1).max(300).optional() })])
/** Rules across fields: one, or a list of them. */
const checks = z.union([check, z.array(check).min(1).max(20)])

const rules = { showIf: condition.optional(), requireIf: condition.optional(), lockIf: condition.optional() }

/** The options of every field, whatever its kind. Kind options are read by the kind's own schema. */
export const fieldSource = z.looseObject({
  kind: z.string().refine(isKindName, 'is not a field kind'),
  label: label.optional(),
  help: help.optional(),
  example: z.string().min(1).max(300).optional(),
  section: z.string().optional(),
  required: z.boolean().optional(),
  localized: z.boolean().optional(),
  many: z.boolean().optional(),
  count: z.strictObject({ min: whole.optional(), max: whole.optional() }).optional(),
  unique: z.boolean().optional(),
  indexed: z.boolean().optional(),
  default: z.unknown().optional(),
  ...rules,
  check: checks.optional(),
  was: was.optional(),
})

/** The options of every field, with a sentence each for the reference. */
export const fieldOptionSays: Readonly<Record<string, string>> = {
  kind: 'The field kind.',
  label: 'The label for editors; made from the name when left out.',
  help: 'A sentence below the control.',
  example: 'An example value, shown while the field is empty.',
  section: 'The section it is in.',
  required: 'Required to publish: has a value after fallback.',
  localized: 'Whether it holds a value per locale.',
  many: 'Whether it holds any number of values, in order.',
  count: '`{ min, max }`: how many values a field with multiple values has.',
  unique: 'Whether no two public entries of the type may have the same value in a locale.',
  indexed: 'Indexed: conditions and sorting by it stay fast at any size.',
  default:
    'The initial value of a new entry: a value, or `{ expression: … }` (a moment such as `today + 7 days`, the name of a field of the same kind, or a condition for a boolean).',
  showIf: 'A condition. The field is asked for, validated and published only where it holds.',
  requireIf: 'A condition. Where it holds, the field is required to publish.',
  lockIf: 'A condition: where it holds the field cannot be changed. May ask `entry.state`.',
  check:
    'Of a group: a condition over the fields in it that must hold to publish, or `{ holds, message }`, or a list of them.',
  was: 'Its earlier name, or a list of them: values are kept, and it also answers to that name until this line is removed.',
}
export const commonFieldOptions = Object.keys(fieldOptionSays)

const fields = z.record(z.string(), fieldSource)

const section = z.strictObject({
  label: label.optional(),
  help: help.optional(),
  collapsed: z.boolean().optional(),
  ...rules,
})
const sections = z.record(z.string(), section)
const icon = z.string().min(1).max(8)

/** The options of a type besides its fields, with a sentence each for the reference. */
export const typeOptionSays: Readonly<Record<string, string>> = {
  type: 'Its name; `block` in the file of a block type.',
  label: 'The label for people; made from the name when left out.',
  help: 'A sentence shown when a type is chosen.',
  icon: 'A symbol of a few characters.',
  plural: 'The name of its lists in GraphQL, where the English plural would be wrong.',
  cardinality: '`many`, or `one` for a type with exactly one entry, always there.',
  namedBy: 'The field that names an entry to people; the first text when left out.',
  path: 'A path pattern for each locale, such as `/nl/agenda/{slug}`; `{parent}` is the path of the entry above.',
  parent: 'The field of kind entry that names the parent.',
  order: 'The field of kind number that orders entries with the same parent.',
  menu: 'The field of kind boolean that says whether an entry is shown in menus.',
  root: '`false`: an entry without a parent is not published.',
  drafts: '`false`: a save publishes at once, and there is no separate working copy.',
  regional: '`true`: its entries belong to regions, and can have counterparts in others.',
  check:
    'A condition over its fields that must hold to publish, `until >= from`; with a message of its own `{ holds, message }`; or a list of them. A comparison of two fields is asked once both have a value.',
  was: 'The earlier name, which still works.',
  namesOf:
    'The model version whose names this file uses; `model pull --at` writes it. Fields and types that were renamed or removed since are recognised by it, and their values return.',
  sections: 'Named parts of the form.',
  fields: 'The fields, in the order of the form.',
}

export const typeSource = z.strictObject({
  type: name,
  label: label.optional(),
  help: help.optional(),
  icon: icon.optional(),
  plural: name.optional(),
  cardinality: z.enum(['many', 'one'], 'must be `many` or `one`').optional(),
  namedBy: z.string().optional(),
  path: z.record(z.string(), z.string()).optional(),
  parent: z.string().optional(),
  order: z.string().optional(),
  menu: z.string().optional(),
  root: z.boolean().optional(),
  drafts: z.boolean().optional(),
  regional: z.boolean().optional(),
  check: checks.optional(),
  was: was.optional(),
  namesOf: z.int().min(1).optional(),
  sections: sections.optional(),
  fields,
})

export const blockSource = z.strictObject({
  block: name,
  label: label.optional(),
  help: help.optional(),
  icon: icon.optional(),
  check: checks.optional(),
  was: was.optional(),
  namesOf: z.int().min(1).optional(),
  sections: sections.optional(),
  fields,
})

export type CheckSource = z.infer<typeof checks>
export type FieldSource = z.infer<typeof fieldSource>
export type SectionSource = z.infer<typeof section>
export type TypeSource = z.infer<typeof typeSource>
export type BlockSource = z.infer<typeof blockSource>
