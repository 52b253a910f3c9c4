import type { Model } from '@wisteria/core'
import { kindOf } from '@wisteria/core'
import type { Transaction } from './database.js'
import { editionTables, factExpression, literal } from './editionTables.js'

/**
 * Makes the database's indexes those that the model declares: one expression index for each field with `index: true`
 * that holds one comparable value, in both editions. Fields that hold many are served by the side tables.
 */
export async function adjustFactIndexes(transaction: Transaction, site: string, model: Model): Promise<void> {
  const prefix = `fact_${site}_`
  const wanted = new Map<string, string>()
  for (const { rows } of Object.values(editionTables)) {
    for (const type of model.types) {
      for (const field of type.fields) {
        const comparison = kindOf(field).comparison
        if (!field.index || field.many || comparison === undefined || comparison === 'reference') continue
        wanted.set(
          `${prefix}${rows}_${type.id}_${field.id}`,
          `on ${rows} (locale, ${factExpression(field.id)}, entry) where site = ${literal(site)} and type = ${literal(type.id)}`,
        )
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
