import { shapeOf, type Field } from './model.js'

/** `openingHours` to `OpeningHours`. */
export const pascal = (name: string): string => name.charAt(0).toUpperCase() + name.slice(1)

/** What GraphQL and TypeScript call a group: its owner, then the fields down to it, `VisitorInfoContact`. */
export const groupTypeName = (owner: string, fields: readonly Field[]): string =>
  owner + fields.map((field) => pascal(field.name)).join('')

/** What GraphQL and TypeScript call one of the things that a field may hold when these are of several types. */
export const itemTypeName = (owner: string, field: Field): string => `${owner}${pascal(field.name)}Item`

/** What GraphQL calls the values of a field of kind choice: `ActivityFormatChoice`. */
export const choiceTypeName = (owner: string, field: Field): string => `${owner}${pascal(field.name)}Choice`

/** What GraphQL calls the field that has the labels of a choice. */
export const labelFieldName = (name: string): string => `${name}Label`

/**
 * The names of a choice's values in GraphQL, by the value; also of those that they had before. What a name may not have becomes a low line; a name that is taken
 * already gets a number.
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
