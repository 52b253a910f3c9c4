import { spawn } from 'node:child_process'
import { fileURLToPath } from 'node:url'

/** The built command line. */
export const program = fileURLToPath(new URL('../../packages/cli/dist/main.js', import.meta.url))

export interface Result {
  readonly code: number | null
  readonly out: string
  readonly err: string
  readonly json: <T = Record<string, unknown>>() => T
}

/** Runs the command line as its users do, with a configuration folder of its own. */
export function runIn(
  configuration: string,
  args: string[],
  environment: Record<string, string> = {},
  input?: string,
): Promise<Result> {
  return new Promise((resolve) => {
    const child = spawn(process.execPath, [program, ...args], {
      env: { ...process.env, XDG_CONFIG_HOME: configuration, ...environment },
    })
    let out = ''
    let err = ''
    child.stdout.setEncoding('utf8').on('data', (text: string) => (out += text))
    child.stderr.setEncoding('utf8').on('data', (text: string) => (err += text))
    child.stdin.end(input ?? '')
    child.once('close', (code) => resolve({ code, out, err, json: <T>() => JSON.parse(out) as T }))
  })
}
