import { spawn, type ChildProcess } from 'node:child_process'
import { existsSync } from 'node:fs'
import { fileURLToPath } from 'node:url'
import { Service } from '@wisteria/client'
import { expect } from 'vitest'
import { settings } from './models.js'
import { ownerOf } from './running.js'

const program = fileURLToPath(new URL('../../packages/cli/dist/main.js', import.meta.url))

/** A service in a process of its own, which can be killed at any moment. */
export interface KillableService {
  readonly process: ChildProcess
  readonly baseUrl: string
  readonly setUp: string | null
  /** The last event of its transactions. */
  readonly phase: () => string
  readonly ended: Promise<void>
}

/** Starts the service as users run it, printing when its transactions begin and end. */
export async function startProcess(folder: string): Promise<KillableService> {
  expect(existsSync(program), 'the command line is built: npm run prepare:all').toBe(true)
  const child = spawn(
    process.execPath,
    [
      '--conditions=bundled',
      program,
      'serve',
      '--data',
      folder,
      '--port',
      '0',
      '--json',
      '--log-level',
      'trace',
      '--allow-private-addresses',
    ],
    { stdio: ['ignore', 'pipe', 'pipe'] },
  )
  let out = ''
  let log = ''
  child.stderr.setEncoding('utf8').on('data', (text: string) => (log = (log + text).slice(-4000)))
  const ended = new Promise<void>((resolve) => child.once('close', () => resolve()))
  const announced = await new Promise<{ baseUrl: string; setUp: string | null }>((resolve, reject) => {
    child.once('exit', (code) => reject(new Error(`it did not start (${code}): ${log.slice(-600)}`)))
    child.stdout.setEncoding('utf8').on('data', (text: string) => {
      out += text
      if (out.trimEnd().endsWith('}')) resolve(JSON.parse(out) as { baseUrl: string; setUp: string | null })
    })
  })
  return {
    process: child,
    ...announced,
    ended,
    phase: () => [...log.matchAll(/"transaction":"(\w+)"/g)].at(-1)?.[1] ?? 'none',
  }
}

/** Sets up a service with an owner and an empty site. @returns the owner's token. */
export async function setUpProcess({ baseUrl, setUp }: KillableService): Promise<string> {
  const { token } = await new Service({ baseUrl }).setUp({
    code: new URL(setUp!).hash.slice(1),
    ...ownerOf,
    site: { name: 'marram', ...settings },
    as: 'token',
  })
  return token!
}
