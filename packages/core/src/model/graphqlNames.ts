import type { Field } from './model.js'

/** `openingHours` to `OpeningHours`. */
export const pascal = (name: string): string => name.charAt(0).toUpperCase() + name.slice(1)

/** What GraphQL and TypeScript call a group: its owner, then the fields down to it, `VisitorInfoContact`. */
export const groupTypeName = (owner: string, fields: readonly Field[]): string =>
  owner + fields.map((field) => pascal(field.name)).join('')

/** What GraphQL and TypeScript call one of the things that a field may hold when these are of several types. */
export const itemTypeName = (owner: string, field: Field): string => `${owner}${pascal(field.name)}Item`
