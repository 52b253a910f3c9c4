import type { Binding, Transaction } from './database.js'

/** How many rows one statement may bring. */
const maxRowsAtOnce = 100

/** Inserts rows that all have the columns of the first. */
export async function insertMany(transaction: Transaction, table: string, rows: readonly object[]): Promise<void> {
  const [first] = rows
  if (!first) return
  const columns = Object.keys(first)
  const one = `(${columns.map(() => '?').join(', ')})`
  for (let from = 0; from < rows.length; from += maxRowsAtOnce) {
    const some = rows.slice(from, from + maxRowsAtOnce) as Record<string, Binding>[]
    await transaction.run(
      `insert into ${table} (${columns.join(', ')}) values ${some.map(() => one).join(', ')}`,
      some.flatMap((row) => columns.map((column) => row[column]!)),
    )
  }
}
