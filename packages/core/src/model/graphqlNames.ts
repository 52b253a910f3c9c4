import { shapeOf, type Field } from './model.js'

/** `openingHours` to `OpeningHours`. */
export const pascal = (name: string): string => name.charAt(0).toUpperCase() + name.slice(1)

/** The name of a group in GraphQL and TypeScript: its owner, then the fields down to it, `VisitorInfoContact`. */
export const groupTypeName = (owner: string, fields: readonly Field[]): string =>
  owner + fields.map((field) => pascal(field.name)).join('')

/** The name in GraphQL and TypeScript of a union: the possible types of a field. */
export const itemTypeName = (owner: string, field: Field): string => `${owner}${pascal(field.name)}Item`

/** The name in GraphQL of the enum of a choice: `ActivityFormatChoice`. */
export const choiceTypeName = (owner: string, field: Field): string => `${owner}${pascal(field.name)}Choice`

/** The name in GraphQL of the field with the labels of a choice. */
export const labelFieldName = (name: string): string => `${name}Label`

/**
 * The names of a choice's values in GraphQL, by value; also of earlier values. Characters that a name may not have become
 * underscores; a name that is taken already gets a number.
 */
export function choiceNames(field: Field): ReadonlyMap<string, string> {
  const shape = shapeOf(field)
  const names = new Map<string, string>()
  const taken = new Set(['true', 'false', 'null'])
  const options = shape.is === 'choice' ? shape.options : []
  for (const value of [...options.map((option) => option.value), ...options.flatMap(({ was }) => was ?? [])]) {
    const plain = value.replace(/[^A-Za-z0-9_]/g, '_').replace(/^(?=\d|__)/, 'v')
    let name = plain
    for (let count = 2; taken.has(name); count++) name = `${plain}_${count}`
    taken.add(name)
    names.set(value, name)
  }
  return names
}
