import type { Binding, Reader, Transaction } from './reader.js'

/** The most rows that one statement inserts: its text is limited. */
const maxRowsAtOnce = 1_000

/** Inserts rows that all have the columns of the first. The statement is the same whatever their number. */
export async function insertMany(transaction: Transaction, table: string, rows: readonly object[]): Promise<void> {
  for (const [text, bindings] of insertions(table, rows)) await transaction.run(text, bindings)
}

/** Inserts rows, and reads back some columns of each. */
export async function insertReturning<Row>(
  transaction: Reader,
  table: string,
  rows: readonly object[],
  columns: string,
): Promise<Row[]> {
  const all: Row[] = []
  for (const [text, bindings] of insertions(table, rows))
    all.push(...(await transaction.all<Row>(`${text} returning ${columns}`, bindings)))
  return all
}

function* insertions(table: string, rows: readonly object[]): Generator<[string, Binding[]]> {
  const [first] = rows
  if (!first) return
  const columns = Object.keys(first)
  const text = `insert into ${table} (${columns.join(', ')}) select ${columns.map((_, index) => `value ->> ${index}`).join(', ')} from json_each(?)`
  for (let from = 0; from < rows.length; from += maxRowsAtOnce) {
    const some = rows.slice(from, from + maxRowsAtOnce) as Record<string, Binding>[]
    yield [text, [JSON.stringify(some.map((row) => columns.map((column) => row[column])))]]
  }
}
