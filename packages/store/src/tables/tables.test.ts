import { mkdtempSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { afterAll, expect, it } from 'vitest'
import { Database } from '../connection/database.js'
import { declaredTables } from './tables.js'

const folder = mkdtempSync(join(tmpdir(), 'wisteria-tables-'))
const database = await Database.open({ file: join(folder, 'wisteria.db') })
afterAll(() => database.close())

it.each(Object.values(declaredTables))('the table $name is declared as the migrations leave it', async (table) => {
  const columns = await database.all<{ name: string; type: string; notnull: number; pk: number }>(
    'select name, lower(type) as type, "notnull", pk from pragma_table_info(?)',
    [table.name],
  )
  const stored = columns.map(({ name, type, notnull, pk }) => ({
    name,
    type: type.replace(/^varchar.*/, 'text') || 'text',
    isNullable: notnull === 0 && pk === 0,
    isKey: pk > 0,
  }))
  const declared = Object.entries(table.columns).map(([name, { type, isNullable, isKey }]) => ({
    name,
    type,
    isNullable: isNullable ?? false,
    isKey: isKey ?? false,
  }))
  const byName = (first: { name: string }, other: { name: string }) => (first.name < other.name ? -1 : 1)
  expect(declared.sort(byName)).toEqual(stored.sort(byName))
})
