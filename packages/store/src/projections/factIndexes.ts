import { eachField, kindOf, type ContentType, type Field, type Model } from '@wisteria/core'
import type { Transaction } from '../connection/reader.js'
import { editionTables, factExpression, literal } from './editionTables.js'

/**
 * The database's indexes that a model declares, in both editions: for each type one in the order of entries and one in the order of
 * changes, and an expression index for each field with `indexed: true` and one comparable value. (The side tables serve fields with
 * multiple values.) All of them are partial by type: an index over all types would have more columns to match, and without
 * statistics SQLite prefers such a one. They serve every projection set, so that a new one has them from its first row: making an
 * index reads the whole table, and blocks others.
 */
function indexesOf(model: Model): Map<string, string> {
  const wanted = new Map<string, string>()
  for (const { rows } of Object.values(editionTables)) {
    for (const type of model.types) {
      const only = `where type = ${literal(type.id)}`
      const index = (name: string, column: string) =>
        wanted.set(`fact_${rows}_${type.id}_${name}`, `on ${rows} (projection, locale, ${column}entry) ${only}`)
      index('entry', '')
      index('updated', 'updated_at, ')
      index('published', 'published_at, ')
      for (const field of indexedFields(type)) index(field.id, `${factExpression(field.id)}, `)
    }
  }
  return wanted
}

const present = async (transaction: Transaction): Promise<Set<string>> =>
  new Set(
    (
      await transaction.all<{ name: string }>(
        "select name from sqlite_master where type = 'index' and name like 'fact\\_%' escape '\\'",
      )
    ).map(({ name }) => name),
  )

/** Makes the indexes of a model that are not there yet. */
export async function addFactIndexes(transaction: Transaction, model: Model): Promise<void> {
  const existing = await present(transaction)
  for (const [name, definition] of indexesOf(model))
    if (!existing.has(name)) await transaction.run(`create index ${name} ${definition}`)
}

/** Drops the indexes that no model declares any more. */
export async function dropFactIndexes(transaction: Transaction, models: readonly Model[]): Promise<void> {
  const wanted = new Set(models.flatMap((model) => [...indexesOf(model).keys()]))
  for (const name of await present(transaction)) if (!wanted.has(name)) await transaction.run(`drop index ${name}`)
}

/** The indexed fields with one comparable fact, also of single groups. */
export function indexedFields(type: ContentType): Field[] {
  const all: Field[] = []
  eachField(type, (field, on) => {
    const { comparison } = kindOf(field)
    const isSingle = !field.many && on.every((group) => !group.many)
    if (
      field.indexed &&
      isSingle &&
      comparison !== undefined &&
      comparison !== 'reference' &&
      comparison !== 'presence'
    )
      all.push(field)
  })
  return all
}
