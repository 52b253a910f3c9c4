import { eachField, kindOf, type ContentType, type Field, type Model } from '@wisteria/core'
import type { Transaction } from './database.js'
import { editionTables, factExpression, literal } from './editionTables.js'

/**
 * Makes the database's indexes of a shelf those that the model declares, in both editions: for each type one in the order of
 * entries and one in the order of changes, and an expression index for each field with `index: true` that holds one
 * comparable value. (Fields that hold many are served by the side tables.) All of them are partial by type: an index
 * over all types would have more columns to match, and without statistics SQLite takes that for the better one.
 */
export async function adjustFactIndexes(transaction: Transaction, shelf: string, model: Model): Promise<void> {
  const prefix = `fact_${shelf}_`
  const wanted = new Map<string, string>()
  for (const { rows } of Object.values(editionTables)) {
    for (const type of model.types) {
      const only = `where shelf = ${literal(shelf)} and type = ${literal(type.id)}`
      wanted.set(`${prefix}${rows}_${type.id}_entry`, `on ${rows} (locale, entry) ${only}`)
      wanted.set(`${prefix}${rows}_${type.id}_updated`, `on ${rows} (locale, updated_at, entry) ${only}`)
      wanted.set(`${prefix}${rows}_${type.id}_published`, `on ${rows} (locale, published_at, entry) ${only}`)
      for (const field of indexedFields(type)) {
        const name = `${prefix}${rows}_${type.id}_${field.id}`
        wanted.set(name, `on ${rows} (locale, ${factExpression(field.id)}, entry) ${only}`)
      }
    }
  }
  const present = await transaction.all<{ name: string }>(
    `select name from sqlite_master where type = 'index' and name like ? escape '\\'`,
    [prefix.replaceAll('_', '\\_') + '%'],
  )
  for (const { name } of present) if (!wanted.has(name)) await transaction.run(`drop index ${name}`)
  const names = new Set(present.map(({ name }) => name))
  for (const [name, definition] of wanted)
    if (!names.has(name)) await transaction.run(`create index ${name} ${definition}`)
}

/** Takes the indexes of a shelf away. */
export async function dropFactIndexes(transaction: Transaction, shelf: string): Promise<void> {
  await adjustFactIndexes(transaction, shelf, { version: 0, nextId: 1, types: [], blockTypes: [] })
}

/** The fields with one comparable fact that are to be fast, those of single groups too. */
function indexedFields(type: ContentType): Field[] {
  const all: Field[] = []
  eachField(type, (field, on) => {
    const { comparison } = kindOf(field)
    const isSingle = !field.many && on.every((group) => !group.many)
    if (field.index && isSingle && comparison !== undefined && comparison !== 'reference' && comparison !== 'presence')
      all.push(field)
  })
  return all
}
