import type { Binding, Transaction } from './reader.js'

/** Sets some columns of the row with an id; those that are undefined stay. */
export async function setColumns(
  transaction: Transaction,
  table: string,
  id: string,
  columns: Readonly<Record<string, Binding | undefined>>,
): Promise<void> {
  const set = Object.entries(columns).filter((column): column is [string, Binding] => column[1] !== undefined)
  if (set.length === 0) return
  await transaction.run(`update ${table} set ${set.map(([name]) => `${name} = ?`).join(', ')} where id = ?`, [
    ...set.map(([, value]) => value),
    id,
  ])
}

/** A value as JSON; undefined where there is none. */
export const jsonOf = (value: unknown): string | undefined => (value === undefined ? undefined : JSON.stringify(value))
