import type { EditableEntry, UsedBy } from '@wisteria/client'
import { stringify } from 'yaml'
import { UsageError } from './connection.js'
import { print, printJson, printTable, when } from './output.js'

/** An entry, with its states and its values. */
export function printEntry(entry: EditableEntry): void {
  print(
    `${entry.title || '(no name yet)'}\n${entry.type} ${entry.id}, version ${entry.version}, ${when(entry.updatedAt)}`,
  )
  printTable(
    ['locale', 'state', 'path'],
    Object.entries(entry.states).map(([locale, state]) => [locale, state, entry.paths[locale] ?? '']),
  )
  print('\n' + stringify(entry.values).trimEnd())
}

/** The result for an entry, in a line. */
export function printResult(entry: EditableEntry, done: string, json: boolean | undefined): void {
  if (json) return printJson(entry)
  const states = Object.entries(entry.states).map(([locale, state]) => `${locale} ${state}`)
  print(`${done}: ${entry.title || entry.id} (${entry.id}), version ${entry.version}: ${states.join(', ')}`)
}

/** The value of `--at-version`. */
export function readVersion(text: string | undefined): number | undefined {
  if (text === undefined) return undefined
  if (!/^\d+$/.test(text)) throw new UsageError(`--at-version must be a number, not “${text}”.`)
  return Number(text)
}

/** A value on one short line. */
export function short(value: unknown): string {
  const text = value === null ? '(empty)' : typeof value === 'string' ? value : JSON.stringify(value)
  return text.length > 60 ? text.slice(0, 59) + '…' : text
}

/** The entries that refer to something. */
export function printUsedBy(all: readonly UsedBy[]): void {
  printTable(
    ['title', 'type', 'working copy', 'public', 'older revisions', 'id'],
    all.map((entry) => [
      entry.title || '(no name yet)',
      entry.type,
      entry.inWorkingCopy ? `refers${entry.inBin ? ' (deleted)' : ''}` : '',
      entry.inPublic ? 'refers' : '',
      entry.inRevisions.join(', '),
      entry.id,
    ]),
  )
}

/** Takes an option that can be repeated. */
export const collect = (item: string, all: string[]): string[] => [...all, item]
