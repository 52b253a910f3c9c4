import { createServer, type IncomingMessage, type ServerResponse } from 'node:http'
import type { AddressInfo } from 'node:net'
import PostalMime from 'postal-mime'
import { SMTPServer } from 'smtp-server'

/*
 * The world outside, simulated: a program that webhooks and calls of automations reach, a chat, and a mail server. They keep what they
 * are sent, and answer as they are told.
 */

/** How the simulated world answers. */
export interface Behaviour {
  /** Of its answers, and for mails 4xx and 5xx as a mail server has them. */
  readonly status: number
  /** How long it waits before it answers. */
  readonly seconds: number
  /** Whether it closes connections without an answer. */
  readonly vanishes: boolean
}

/** Something that it was sent. */
export interface Sent {
  readonly to: 'receiver' | 'chat' | 'mail'
  /** ISO instant. */
  readonly at: string
  /** The answer; null where it vanished. */
  readonly status: number | null
  /** Names in lower case. */
  readonly headers: Readonly<Record<string, string>>
  /** Of a mail: its text. */
  readonly body: string
}

export interface OutsideOptions {
  /** For HTTP; 0 for any that is free. */
  readonly port: number
  readonly mailPort: number
  readonly behaviour?: Partial<Behaviour>
  /** Called for everything that comes. */
  readonly onSent?: (sent: Sent) => void
}

export interface RunningOutside {
  readonly receiver: string
  readonly chat: string
  readonly mail: string
  /** Everything that came, oldest first. */
  readonly sent: readonly Sent[]
  /** Changes how it answers from now on. */
  behave(behaviour: Partial<Behaviour>): void
  stop(): Promise<void>
}

/** The most that is kept, and the most bytes of one body. */
const mostKept = 10_000
const mostBytes = 10_000_000

/** Starts it on loopback. */
export async function startOutside({ port, mailPort, behaviour, onSent }: OutsideOptions): Promise<RunningOutside> {
  let now: Behaviour = { status: 200, seconds: 0, vanishes: false, ...behaviour }
  const sent: Sent[] = []
  const keep = (one: Omit<Sent, 'at'>): void => {
    const whole = { ...one, at: new Date().toISOString() }
    sent.push(whole)
    if (sent.length > mostKept) sent.shift()
    onSent?.(whole)
  }
  const waits = () => new Promise((resolve) => setTimeout(resolve, now.seconds * 1000))

  const answer = async (request: IncomingMessage, response: ServerResponse): Promise<void> => {
    const path = new URL(request.url ?? '/', 'http://outside').pathname
    const body = await bodyOf(request)
    if (body === undefined) return void response.writeHead(413).end()
    const json = (status: number, value: unknown): void =>
      void response.writeHead(status, { 'content-type': 'application/json' }).end(JSON.stringify(value) + '\n')
    if (request.method === 'GET' && path === '/') return json(200, { answers: now, sent })
    if (request.method === 'PUT' && path === '/') {
      const told = readBehaviour(body)
      if (typeof told === 'string') return json(400, { detail: told })
      now = { ...now, ...told }
      return json(200, { answers: now })
    }
    const to = path === '/chat' ? 'chat' : path === '/receiver' ? 'receiver' : undefined
    if (!to || request.method === 'PUT') return json(404, { detail: 'There are /receiver, /chat and /.' })
    await waits()
    const headers = Object.fromEntries(Object.entries(request.headers).map(([name, value]) => [name, String(value)]))
    const { status, vanishes } = now
    keep({ to, status: vanishes ? null : status, headers, body })
    if (vanishes) request.socket.destroy()
    else json(status, { got: sent.length })
  }
  const server = createServer((request, response) => {
    answer(request, response).catch(() => response.destroy())
  })

  const mail = new SMTPServer({
    authOptional: true,
    disabledCommands: ['STARTTLS', 'AUTH'],
    size: mostBytes,
    logger: false,
    onData: (stream, _, done) => {
      void (async () => {
        const chunks: Buffer[] = []
        for await (const chunk of stream) chunks.push(chunk as Buffer)
        const { headers, subject = '', text = '' } = await PostalMime.parse(Buffer.concat(chunks))
        await waits()
        const status = now.status < 400 ? 250 : now.status
        keep({
          to: 'mail',
          status: now.vanishes ? null : status,
          headers: { ...Object.fromEntries(headers.map(({ key, value }) => [key, value])), subject },
          body: text,
        })
        if (now.vanishes) return mail.connections.forEach((connection) => connection.close())
        done(status === 250 ? null : Object.assign(new Error('Told to refuse it'), { responseCode: status }))
      })().catch((error: unknown) => done(error as Error))
    },
  })
  mail.on('error', () => undefined)
  await new Promise<void>((resolve, reject) => {
    server.once('error', reject)
    server.listen(port, '127.0.0.1', resolve)
  })
  await new Promise<void>((resolve, reject) => {
    mail.once('error', reject)
    mail.listen(mailPort, '127.0.0.1', () => resolve())
  }).catch((error: unknown) => {
    server.close()
    throw error
  })
  const base = `http://127.0.0.1:${(server.address() as AddressInfo).port}`
  return {
    receiver: `${base}/receiver`,
    chat: `${base}/chat`,
    mail: `smtp://127.0.0.1:${(mail.server.address() as AddressInfo).port}`,
    sent,
    behave: (told) => (now = { ...now, ...told }),
    stop: async () => {
      server.closeAllConnections()
      await new Promise((resolve) => server.close(resolve))
      await new Promise<void>((resolve) => mail.close(() => resolve()))
    },
  }
}

/** The text of a body; undefined where it is too large. */
async function bodyOf(request: IncomingMessage): Promise<string | undefined> {
  const chunks: Buffer[] = []
  let size = 0
  for await (const chunk of request) {
    size += (chunk as Buffer).length
    if (size > mostBytes) return undefined
    chunks.push(chunk as Buffer)
  }
  return Buffer.concat(chunks).toString()
}

/** What somebody told it by JSON, or what is wrong with that. */
function readBehaviour(text: string): Partial<Behaviour> | string {
  const example = 'Send JSON such as { "status": 503, "seconds": 2, "vanishes": false }.'
  let told: unknown
  try {
    told = JSON.parse(text)
  } catch {
    return example
  }
  if (typeof told !== 'object' || told === null) return example
  const { status, seconds, vanishes, ...others } = told as Record<string, unknown>
  const isWhole = (value: unknown, least: number, most: number): boolean =>
    value === undefined || (Number.isInteger(value) && Number(value) >= least && Number(value) <= most)
  if (Object.keys(others).length > 0 || !isWhole(status, 200, 599) || !isWhole(seconds, 0, 3600)) return example
  if (vanishes !== undefined && typeof vanishes !== 'boolean') return example
  return told
}
