import { chmodSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs'
import { homedir } from 'node:os'
import { dirname, join } from 'node:path'
import { Editor, Reader, Service } from '@wisteria/client'
import { z } from 'zod'

const form = z.strictObject({ url: z.string(), site: z.string(), token: z.string() })
export type Saved = z.infer<typeof form>

/** A wrong call of a command: a sentence, and exit code 2. */
export class UsageError extends Error {}

const file = (): string =>
  process.env['WISTERIA_CONNECTION'] ||
  join(process.env['XDG_CONFIG_HOME'] || join(homedir(), '.config'), 'wisteria', 'connection.json')

export function saveConnection(connection: Saved): string {
  const path = file()
  mkdirSync(dirname(path), { recursive: true, mode: 0o700 })
  writeFileSync(path, JSON.stringify(connection, null, 2) + '\n', { mode: 0o600 })
  chmodSync(path, 0o600)
  return path
}

/** The connection of commands: WISTERIA_URL, WISTERIA_SITE and WISTERIA_TOKEN, each before the saved one. */
export function readConnection(): Saved {
  const { WISTERIA_URL: url, WISTERIA_SITE: site, WISTERIA_TOKEN: token } = process.env
  if (url && site && token) return { url, site, token }
  let text: string
  try {
    text = readFileSync(file(), 'utf8')
  } catch {
    throw new UsageError(
      'Not connected to a service. Run `wisteria connect URL`, or set WISTERIA_URL, WISTERIA_SITE and WISTERIA_TOKEN.',
    )
  }
  let read: z.ZodSafeParseResult<Saved>
  try {
    read = form.safeParse(JSON.parse(text))
  } catch {
    read = form.safeParse(undefined)
  }
  if (!read.success) throw new UsageError(`${file()} is not a saved connection. Run \`wisteria connect URL\` again.`)
  return { url: url || read.data.url, site: site || read.data.site, token: token || read.data.token }
}

/** The name of this program, for the account's list of sessions. */
export const namedFetch: typeof fetch = (input, init) => {
  const headers = new Headers(init?.headers)
  headers.set('User-Agent', 'wisteria')
  return fetch(input, { ...init, headers })
}

/** Whether the command is a dry run. */
let isDryRun = false
export const setDryRun = (now: boolean): void => void (isDryRun = now)
export const triesOnly = (): boolean => isDryRun

export function openEditor(): Editor {
  const { url, site, token } = readConnection()
  return new Editor({ baseUrl: url, site, token, fetch: namedFetch, isDryRun })
}

export function openService(): Service {
  const { url, token } = readConnection()
  return new Service({ baseUrl: url, token, fetch: namedFetch, isDryRun })
}

export function openReader(edition: 'published' | 'draft'): Reader {
  const { url, site, token } = readConnection()
  return new Reader({ baseUrl: url, site, token, edition, fetch: namedFetch })
}
