import type { Schema } from '../parts.js'

export const ref = (name: string): Schema => ({ $ref: `#/components/schemas/${name}` })
export const json = (schema: Schema, example?: unknown): Schema => ({
  'application/json': { schema, ...(example === undefined ? {} : { example }) },
})

/** An object with all of these properties. */
/** @param optional members that may be absent. */
export const object = (properties: Record<string, Schema>, optional: Record<string, Schema> = {}): Schema => ({
  type: 'object',
  properties: { ...properties, ...optional },
  required: Object.keys(properties),
})
export const text = { type: 'string' }
export const instant = { type: 'string', format: 'date-time' }
export const cursor = { type: ['string', 'null'] }
