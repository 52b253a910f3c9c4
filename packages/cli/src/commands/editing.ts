import { spawnSync } from 'node:child_process'
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { WisteriaProblem, type EditableEntry, type Editor } from '@wisteria/client'
import type { Command } from 'commander'
import { parse, stringify } from 'yaml'
import { openEditor, UsageError } from '../connection.js'
import { printResult } from '../entryOutput.js'
import { print, printJson, say } from '../output.js'

type Values = Readonly<Record<string, unknown>>

const isMap = (value: unknown): value is Values => typeof value === 'object' && value !== null && !Array.isArray(value)
const same = (a: unknown, b: unknown): boolean => JSON.stringify(a) === JSON.stringify(b)

/** The differences between the values as written out and as read back, as a JSON Merge Patch (RFC 7396). */
export function patchBetween(before: Values, after: Values): Record<string, unknown> {
  const patch: Record<string, unknown> = {}
  for (const name of Object.keys(before)) if (!(name in after) || after[name] === undefined) patch[name] = null
  for (const [name, value] of Object.entries(after)) {
    const old = before[name]
    if (same(old, value)) continue
    patch[name] = isMap(old) && isMap(value) ? patchBetween(old, value) : value
  }
  return patch
}

const remarks = (entry: EditableEntry): string =>
  [
    `# ${entry.title || '(no name yet)'}: ${entry.type} ${entry.id}, version ${entry.version}.`,
    '# Save and close: what you changed is saved as a working copy, and nothing becomes public.',
    '# Take a line away to make its value missing. Leave everything as it is, or empty the file, to change nothing.',
    '',
  ].join('\n')

/** Opens a text in the user's editor. @returns the text afterwards. */
function writeIn(file: string): string {
  const editor = process.env['VISUAL'] || process.env['EDITOR']
  if (!editor) throw new UsageError('Set EDITOR to the editor that you write in, such as `EDITOR=vi`.')
  const { status, error } = spawnSync('/bin/sh', ['-c', `${editor} "$1"`, 'wisteria', file], { stdio: 'inherit' })
  if (error || status !== 0)
    throw new UsageError(`\`${editor}\` ended with ${error?.message ?? `code ${status}`}. Nothing was saved.`)
  return readFileSync(file, 'utf8')
}

function readBack(text: string): Values | undefined {
  const content: unknown = parse(text)
  if (content === null || content === undefined) return undefined
  if (!isMap(content)) throw new UsageError('The file must hold a map of field names to values.')
  return content
}

/** Saves the changes, and merges them with changes of others at other places. */
async function saveChanges(editor: Editor, entry: EditableEntry, patch: Values): Promise<EditableEntry> {
  const now = await editor.entry(entry.id)
  if (now.version === entry.version) return editor.patch(entry.id, entry.version, patch)
  const theirs = patchBetween(entry.values, now.values)
  const both = Object.keys(patch).filter((name) => name in theirs)
  if (both.length > 0)
    throw new UsageError(
      `Somebody changed ${both.join(', ')} meanwhile, up to version ${now.version}. Edit the entry again.`,
    )
  return editor.patch(entry.id, now.version, patch)
}

export function addEditing(entry: Command): void {
  entry
    .command('edit')
    .description(
      'Opens the values of an entry as YAML in your editor ($VISUAL or $EDITOR), and saves only what you changed.',
    )
    .argument('<id>', 'or the name of a type with exactly one entry')
    .option('--json', 'print JSON')
    .action(async (id: string, { json }: { json?: boolean }) => {
      const editor = openEditor()
      const entry = await editor.entry(id)
      const folder = mkdtempSync(join(tmpdir(), 'wisteria-'))
      const file = join(folder, `${entry.type}-${entry.id}.yaml`)
      let keeps = false
      try {
        writeFileSync(file, remarks(entry) + stringify(entry.values), { mode: 0o600 })
        const after = readBack(writeIn(file))
        const patch = after ? patchBetween(entry.values, after) : {}
        if (Object.keys(patch).length === 0) {
          if (json) printJson(entry)
          else print('Nothing was changed.')
          return
        }
        keeps = true
        printResult(await saveChanges(editor, entry, patch), `Saved ${Object.keys(patch).join(', ')}`, json)
        keeps = false
      } catch (error) {
        // The written text is not thrown away when it cannot be read or saved.
        keeps ||= !(error instanceof UsageError && error.message.includes('Nothing was saved'))
        if (keeps) say(`What you wrote is kept in ${file}.`)
        if (error instanceof WisteriaProblem || error instanceof UsageError) throw error
        throw new UsageError(`The file cannot be read: ${(error as Error).message.split('\n')[0]}`)
      } finally {
        if (!keeps) rmSync(folder, { recursive: true, force: true })
      }
    })
}
