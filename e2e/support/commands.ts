import { spawn } from 'node:child_process'
import { fileURLToPath } from 'node:url'
import { runCommand } from '@wisteria/cli'

/** The built command line. */
export const program = fileURLToPath(new URL('../../packages/cli/dist/main.js', import.meta.url))

export interface Result {
  readonly code: number | null
  readonly out: string
  readonly err: string
  readonly json: <T = Record<string, unknown>>() => T
}

const result = (code: number | null, out: string, err: string): Result => ({
  code,
  out,
  err,
  json: <T>() => JSON.parse(out) as T,
})

/** Commands that run in this process take turns: they share its environment and its output. */
let turns: Promise<unknown> = Promise.resolve()

/**
 * Runs the command line with a configuration folder of its own. In this process, which is many times faster, except for
 * commands that read standard input, or wait for an editor while the service has to go on.
 */
export function runIn(
  configuration: string,
  args: readonly string[],
  environment: Readonly<Record<string, string>> = {},
  input?: string,
): Promise<Result> {
  if (input !== undefined || 'EDITOR' in environment) return spawnIn(configuration, args, environment, input)
  const turn = turns.then(() => runHere(args, { XDG_CONFIG_HOME: configuration, ...environment }))
  turns = turn.catch(() => undefined)
  return turn
}

async function runHere(args: readonly string[], environment: Readonly<Record<string, string>>): Promise<Result> {
  const before = { ...process.env }
  const [writeOut, writeErr] = [process.stdout.write.bind(process.stdout), process.stderr.write.bind(process.stderr)]
  let [out, err] = ['', '']
  Object.assign(process.env, environment)
  process.stdout.write = (text: string | Uint8Array) => ((out += String(text)), true)
  process.stderr.write = (text: string | Uint8Array) => ((err += String(text)), true)
  try {
    return result(await runCommand(args), out, err)
  } finally {
    process.stdout.write = writeOut
    process.stderr.write = writeErr
    for (const name of Object.keys(environment)) delete process.env[name]
    Object.assign(process.env, before)
  }
}

/** Runs the built command line in a process of its own, as its users do. */
export function spawnIn(
  configuration: string,
  args: readonly string[],
  environment: Readonly<Record<string, string>> = {},
  input = '',
  /** The folder that paths are read from. */
  cwd = process.cwd(),
): Promise<Result> {
  return new Promise((resolve) => {
    const child = spawn(process.execPath, [program, ...args], {
      cwd,
      env: { ...process.env, XDG_CONFIG_HOME: configuration, ...environment },
    })
    let [out, err] = ['', '']
    child.stdout.setEncoding('utf8').on('data', (text: string) => (out += text))
    child.stderr.setEncoding('utf8').on('data', (text: string) => (err += text))
    child.stdin.end(input)
    child.once('close', (code) => resolve(result(code, out, err)))
  })
}
