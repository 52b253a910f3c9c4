import { readFileSync, renameSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { beginHistory, positionsOf, type Database, type HistoryPosition } from '@wisteria/store'
import type { Environment } from '@wisteria/core'

/** A file beside the database with the position of its history: it stays when an older database replaces this one. */
const fileIn = (folder: string): string => join(folder, 'positions.json')

export async function notePositions(database: Database, folder: string): Promise<void> {
  const text = JSON.stringify(await positionsOf(database))
  writeFileSync(fileIn(folder) + '.new', text, { mode: 0o600 })
  renameSync(fileIn(folder) + '.new', fileIn(folder))
}

/** Whether the database is older than the last one here: restored from a copy. */
export async function isRestored(database: Database, folder: string): Promise<boolean> {
  let noted: Record<string, HistoryPosition>
  try {
    noted = JSON.parse(readFileSync(fileIn(folder), 'utf8')) as Record<string, HistoryPosition>
  } catch {
    return false
  }
  return Object.entries(await positionsOf(database)).some(([site, now]) => {
    const before = noted[site]
    return before !== undefined && (before.epoch !== now.epoch || before.sequence > now.sequence)
  })
}

/** Begins another history, and records it. */
export async function beginNotedHistory(
  database: Database,
  write: Database['write'],
  environment: Environment,
  folder: string,
): Promise<void> {
  await write((transaction) => beginHistory(transaction, environment))
  await notePositions(database, folder)
}
