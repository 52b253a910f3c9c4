import type { Command } from 'commander'
import { print } from '../output.js'
import { UsageError } from '../connection.js'
import { stopOnSignal } from './serve.js'

interface Options {
  readonly port: string
  readonly seconds: string
  readonly failures: string
  readonly callBack?: boolean
}

const whole = (name: string, text: string): number => {
  if (/^\d{1,5}$/.test(text)) return Number(text)
  throw new UsageError(`--${name} is a whole number, not “${text}”.`)
}

/** The variable that the secret of its connector is read from. */
export const translatorSecret = 'WISTERIA_CONNECTOR_SECRET'

export function addDemoTranslator(program: Command): void {
  program
    .command('demo-translator')
    .summary('run a simulated machine that translates')
    .description(
      `Runs a simulated machine that translates a few words into Dutch and Arabic, to try out connectors with: the same each time, and slow or failing on demand. It reads the secret of its connector from ${translatorSecret}.`,
    )
    .option('--port <n>', 'on this machine alone', '4702')
    .option('--seconds <n>', 'how long it works on each request', '0')
    .option('--failures <n>', 'how many times it fails on each request before it takes it', '0')
    .option('--call-back', 'call back when a translation is there')
    .action(async ({ port, seconds, failures, callBack }: Options) => {
      const { startTranslator } = await import('@wisteria/demo')
      const running = await startTranslator({
        port: whole('port', port),
        seconds: whole('seconds', seconds),
        failures: whole('failures', failures),
        callsBack: callBack === true,
        secret: process.env[translatorSecret] ?? '',
      })
      // Whoever started it as a process of its own, as the demo does, gets its address and tells it the secret.
      process.on('message', (secret) => running.setSecret(String(secret)))
      process.on('disconnect', () => void running.stop())
      if (process.send) {
        process.send(running.address)
        // Ctrl-C reaches both: the one that started it ends it.
        process.on('SIGINT', () => undefined)
        return
      }
      print(`Translates at ${running.address}. Ctrl-C stops.`)
      stopOnSignal(() => running.stop())
    })
}
