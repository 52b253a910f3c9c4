import { Validator } from '@cfworker/json-schema'
import { z } from 'zod'
import { defineKind } from './kind.js'

const maxJson = 200_000

interface Options {
  schema?: unknown
}

const validators = new WeakMap<object, Validator>()

function validatorOf(schema: object): Validator {
  const validator = validators.get(schema) ?? new Validator(schema, '2020-12', false)
  validators.set(schema, validator)
  return validator
}

/** Whether a schema can be used at all: broken references only show when it is. */
function isUsable(schema: unknown): boolean {
  if (typeof schema !== 'object' || schema === null || Array.isArray(schema)) return false
  try {
    validatorOf(schema).validate(null)
    return true
  } catch {
    return false
  }
}

export const json = defineKind<Options>({
  name: 'json',
  label: 'JSON',
  summary: 'Any JSON value, written by programs; checked against a JSON Schema (2020-12) when there is one.',
  example: 'dimensions: { kind: json, schema: { type: object, properties: { height: { type: number } } } }',
  options: z.strictObject({
    schema: z
      .unknown()
      .refine((schema) => schema === undefined || isUsable(schema), 'is not a JSON Schema that can be used')
      .optional(),
  }),
  descriptions: { schema: 'A JSON Schema (2020-12), written in YAML. References only inside itself.' },
  indexed: false,
  shape: ({ schema }) => ({ is: 'json', ...(schema === undefined ? {} : { schema }) }),
  checkForm: (value) =>
    JSON.stringify(value).length > maxJson ? `is longer than ${maxJson} characters as JSON` : undefined,
  checkRules: (value, { schema }) => {
    if (schema === undefined) return []
    const { valid, errors } = validatorOf(schema as object).validate(value)
    if (valid) return []
    // The outer errors only say that something inside is wrong: the last one has the reason.
    const inner = errors.at(-1)!
    const at = inner.instanceLocation.replace(/^#/, '') || '/'
    return [
      {
        code: 'schema',
        message: `does not fit its schema at \`${at}\`: ${inner.error}`,
        parameters: { at },
      },
    ]
  },
  comparison: 'presence',
  fact: () => 1,
  sample: ({ schema }, seed) => sampleOf(schema, seed, 0),
})

/** A value for the simpler part of JSON Schema; null for more complex schemas. */
function sampleOf(schema: unknown, seed: number, depth: number): unknown {
  if (typeof schema !== 'object' || schema === null || depth > 5) return schema === undefined ? { seed } : null
  const { type, properties, items, enum: options, const: only, minimum, minItems } = schema as Record<string, unknown>
  if (only !== undefined) return only
  if (Array.isArray(options)) return options[seed % options.length] as unknown
  switch (Array.isArray(type) ? (type as unknown[])[0] : (type ?? (properties ? 'object' : undefined))) {
    case 'object':
      return Object.fromEntries(
        Object.entries(properties ?? {}).map(([name, property]) => [name, sampleOf(property, seed, depth + 1)]),
      )
    case 'array':
      return Array.from({ length: Math.max(1, Number(minItems ?? 1)) }, (_, index) =>
        sampleOf(items ?? {}, seed + index, depth + 1),
      )
    case 'integer':
    case 'number':
      return Number(minimum ?? 0) + (seed % 10)
    case 'boolean':
      return seed % 2 === 0
    case 'string':
      return `text ${seed}`
    default:
      return null
  }
}
