import type { Reader, Transaction } from '../connection/reader.js'

/** A value of the service itself, such as its signing key. */
export async function serviceValue(reader: Reader, name: string): Promise<string | undefined> {
  const [row] = await reader.all<{ value: string }>('select value from service where name = ?', [name])
  return row?.value
}

/** Stores a value of the service. */
export async function setServiceValue(transaction: Transaction, name: string, value: string): Promise<void> {
  await transaction.run(
    'insert into service (name, value) values (?, ?) on conflict (name) do update set value = excluded.value',
    [name, value],
  )
}

/** Stores a value of the service, unless it has one by that name. */
export async function initServiceValue(transaction: Transaction, name: string, value: string): Promise<void> {
  await transaction.run('insert into service (name, value) values (?, ?) on conflict do nothing', [name, value])
}
