import type { Command } from 'commander'
import { print, say } from '../output.js'
import { UsageError } from '../connection.js'
import { stopOnSignal } from './serve.js'

interface Options {
  readonly port: string
  readonly mailPort: string
  readonly seconds: string
  readonly status: string
  readonly vanish?: boolean
}

const whole = (name: string, text: string, least: number, most: number): number => {
  const number = /^\d{1,5}$/.test(text) ? Number(text) : NaN
  if (number >= least && number <= most) return number
  throw new UsageError(`--${name} is a whole number from ${least} to ${most}, not “${text}”.`)
}

export function addDemoOutside(program: Command): void {
  program
    .command('demo-outside')
    .summary('run a simulated receiver, chat and mail server')
    .description(
      'Runs what is outside, simulated: a receiver for webhooks and calls, a chat, and a mail server. They print what they are sent, and are slow, fail or vanish as told: by these options, and while they run by a PUT of JSON.',
    )
    .option('--port <n>', 'of the receiver and the chat, on this machine alone', '4703')
    .option('--mail-port <n>', 'of the mail server', '4704')
    .option('--seconds <n>', 'how long they wait before they answer', '0')
    .option('--status <n>', 'what they answer', '200')
    .option('--vanish', 'close connections without an answer')
    .action(async ({ port, mailPort, seconds, status, vanish }: Options) => {
      const { startOutside } = await import('@wisteria/demo')
      const running = await startOutside({
        port: whole('port', port, 0, 65535),
        mailPort: whole('mail-port', mailPort, 0, 65535),
        behaviour: {
          seconds: whole('seconds', seconds, 0, 3600),
          status: whole('status', status, 200, 599),
          vanishes: vanish === true,
        },
        onSent: ({ to, status: answered, headers, body }) => {
          const what = to === 'mail' ? `to ${headers['to']}: ${headers['subject']}` : body.slice(0, 200)
          print(`${to.padEnd(8)} ${answered ?? 'vanished'}  ${what.replaceAll(/\s+/g, ' ')}`)
        },
      }).catch((error: NodeJS.ErrnoException) => {
        if (error.code !== 'EADDRINUSE') throw error
        throw new UsageError('A port is taken. Choose others with --port and --mail-port.')
      })
      print(`Receiver     ${running.receiver}`)
      print(`Chat         ${running.chat}`)
      print(`Mail server  ${running.mail}`)
      print(`What came, and how they answer: ${new URL('/', running.receiver).href}`)
      say('Ctrl-C stops.')
      stopOnSignal(() => running.stop())
    })
}
