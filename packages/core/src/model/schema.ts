import { z } from 'zod'
import { isKindName } from '../fields/kinds.js'

const name = z
  .string()
  .regex(
    /^[a-z][A-Za-z0-9]{0,63}$/,
    'must be a name: a lowercase letter, then letters or digits, such as `openingHours`',
  )
const label = z.string().min(1).max(120)
const help = z.string().min(1).max(1000)
const whole = z.int().min(0)

/** What every field may say, whatever its kind. Kind options are read by the kind's own schema. */
export const fieldSource = z.looseObject({
  kind: z.string().refine(isKindName, 'is not a field kind'),
  label: label.optional(),
  help: help.optional(),
  required: z.boolean().optional(),
  localized: z.boolean().optional(),
  many: z.boolean().optional(),
  count: z.strictObject({ min: whole.optional(), max: whole.optional() }).optional(),
  index: z.boolean().optional(),
  was: name.optional(),
})

export const commonFieldOptions = Object.keys(fieldSource.shape)

const fields = z.record(z.string(), fieldSource)

const pathSource = z.record(z.string(), z.string())

export const typeSource = z.strictObject({
  type: name,
  label: label.optional(),
  help: help.optional(),
  plural: name.optional(),
  cardinality: z.literal('many', 'must be `many`').optional(),
  namedBy: z.string().optional(),
  path: pathSource.optional(),
  parent: z.string().optional(),
  was: name.optional(),
  fields,
})

export const blockSource = z.strictObject({
  block: name,
  label: label.optional(),
  help: help.optional(),
  was: name.optional(),
  fields,
})

export type FieldSource = z.infer<typeof fieldSource>
export type TypeSource = z.infer<typeof typeSource>
export type BlockSource = z.infer<typeof blockSource>
export const namePattern = /^[a-z][A-Za-z0-9]{0,63}$/
