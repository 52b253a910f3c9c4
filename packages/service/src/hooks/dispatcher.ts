import { request as httpRequest } from 'node:http'
import { request as httpsRequest } from 'node:https'
import { makeId, toCloudEvent, type EventData, type EventType } from '@wisteria/core'
import type { DeliveryRow, EventRow, WebhookRow } from '@wisteria/store'
import type { Kernel } from '../kernel.js'
import { publicLookup, refuseAddress } from './addresses.js'
import { signedHeaders } from './signing.js'

type Due = DeliveryRow &
  Pick<WebhookRow, 'address' | 'secret'> & { site_name: string } & Pick<
    EventRow,
    'data' | 'type' | 'time' | 'actor' | 'action'
  > & { event_id: string }

interface Outcome {
  readonly status: number | null
  readonly answer: string
  readonly error: string | null
  readonly took: number
}

const timeoutMilliseconds = 15_000
const longestPause = 6 * 3_600_000
/** After this long an event is set aside: visible, and no longer in the way of later ones. */
const giveUpAfter = 3 * 86_400_000
const atOnce = 8
const answerKept = 500

/** The pause before the next try: doubling from a second, with up to half of it by chance, so that many do not come at once. */
export function pauseAfter(attempts: number, chance: number): number {
  return Math.round(Math.min(1000 * 2 ** Math.min(attempts - 1, 30), longestPause) * (1 + chance / 2))
}

/**
 * Delivers what the outbox holds. Of one webhook and entry only the oldest waiting event is under way, so that order is
 * kept; others do not wait for it. What was under way at a crash is simply still waiting.
 */
export class Dispatcher {
  readonly #kernel: Kernel
  readonly #underWay = new Set<Promise<void>>()
  #stopListening: (() => void) | undefined
  #timer: NodeJS.Timeout | undefined
  #running: Promise<void> | undefined
  #again = false
  #stopped = false
  readonly #busy = new Set<string>()

  constructor(kernel: Kernel) {
    this.#kernel = kernel
  }

  start(): void {
    this.#stopListening = this.#kernel.onCommitted(() => this.#wake())
    this.#wake()
  }

  /** Takes up nothing new, and waits for what is under way. */
  async stop(): Promise<void> {
    this.#stopped = true
    this.#stopListening?.()
    clearTimeout(this.#timer)
    await this.#running
    await Promise.all(this.#underWay)
  }

  #wake(): void {
    if (this.#stopped) return
    this.#again = true
    this.#running ??= this.#run()
      .catch((error: unknown) => {
        this.#kernel.logger.error({ err: error }, 'webhooks: looking for work failed')
        this.#sleep(1000)
      })
      .finally(() => {
        this.#running = undefined
        if (this.#again) this.#wake()
      })
  }

  async #run(): Promise<void> {
    while (this.#again && !this.#stopped) {
      this.#again = false
      clearTimeout(this.#timer)
      for (const due of await this.#findDue()) {
        if (this.#underWay.size >= atOnce) break
        this.#take(due)
      }
      const [next] = await this.#kernel.database.all<{ at: string | null }>(
        "select min(next_at) as at from deliveries where status = 'waiting' and next_at > ?",
        [this.#kernel.at],
      )
      if (next?.at) this.#sleep(Math.min(Date.parse(next.at) - this.#kernel.now + 5, 60_000))
    }
  }

  #sleep(milliseconds: number): void {
    clearTimeout(this.#timer)
    this.#timer = setTimeout(() => this.#wake(), Math.max(milliseconds, 10))
    this.#timer.unref()
  }

  #take(due: Due): void {
    const queue = `${due.webhook} ${due.entry}`
    if (this.#busy.has(queue)) return
    this.#busy.add(queue)
    const done = this.#deliver(due)
      .catch((error: unknown) =>
        this.#kernel.logger.error({ err: error, delivery: due.id }, 'webhooks: a delivery failed'),
      )
      .finally(() => {
        this.#busy.delete(queue)
        this.#underWay.delete(done)
        this.#wake()
      })
    this.#underWay.add(done)
  }

  /** Of each webhook and entry, the oldest waiting event, when its time has come. */
  #findDue(): Promise<Due[]> {
    return this.#kernel.database.all<Due>(
      `select d.*, w.address, w.secret, s.name as site_name, e.id as event_id, e.type, e.time, e.actor, e.action, e.data
       from deliveries d join webhooks w on w.id = d.webhook join sites s on s.id = d.site
       join events e on e.site = d.site and e.sequence = d.sequence
       where d.status = 'waiting' and d.next_at <= ? and w.enabled = 1
         and not exists (select 1 from deliveries o where o.webhook = d.webhook and o.entry = d.entry and o.status = 'waiting' and o.sequence < d.sequence)
       order by d.sequence limit 50`,
      [this.#kernel.at],
    )
  }

  async #deliver(due: Due): Promise<void> {
    const { database, logger } = this.#kernel
    const body = JSON.stringify(
      toCloudEvent({
        id: due.event_id, sequence: due.sequence, site: due.site_name, type: due.type as EventType, time: due.time, actor: due.actor, action: due.action,
        data: JSON.parse(due.data) as EventData,
      }), // prettier-ignore
    )
    const outcome = await this.#send(due, body)
    const isAccepted = outcome.status !== null && outcome.status >= 200 && outcome.status < 300
    const attempts = due.attempts + 1
    const now = this.#kernel.now
    const isOver = !isAccepted && now - Date.parse(due.created_at) > giveUpAfter
    const nextAt = new Date(now + pauseAfter(attempts, Math.random())).toISOString()
    await database.write(async ({ tables, run }) => {
      await tables.attempts.create({
        id: makeId(this.#kernel.surroundings),
        delivery: due.id,
        at: new Date(now).toISOString(),
        ...outcome,
      })
      await run('update deliveries set attempts = ?, status = ?, next_at = ? where id = ?', [
        attempts,
        isAccepted ? 'delivered' : isOver ? 'setAside' : 'waiting',
        nextAt,
        due.id,
      ])
    })
    if (!isAccepted)
      logger.warn(
        {
          webhook: due.webhook,
          sequence: due.sequence,
          attempts,
          status: outcome.status,
          error: outcome.error,
          nextAt,
        },
        isOver ? 'webhook event set aside' : 'webhook not accepted, will try again',
      )
  }

  #send(due: Due, body: string): Promise<Outcome> {
    const began = performance.now()
    const allowPrivate = this.#kernel.options.allowPrivateAddresses
    return new Promise((resolve) => {
      const settle = (status: number | null, answer: string, error: string | null) =>
        resolve({ status, answer: answer.slice(0, answerKept), error, took: Math.round(performance.now() - began) })
      const refused = refuseAddress(due.address, allowPrivate)
      if (refused) return settle(null, '', `The address ${refused}.`)
      const url = new URL(due.address)
      const send = url.protocol === 'https:' ? httpsRequest : httpRequest
      const headers = {
        'content-type': 'application/cloudevents+json; charset=utf-8',
        'content-length': String(Buffer.byteLength(body)),
        'user-agent': 'Wisteria',
        ...signedHeaders(due.secret, due.event_id, Math.floor(this.#kernel.now / 1000), body),
      }
      const request = send(
        url,
        { method: 'POST', headers, timeout: timeoutMilliseconds, ...(allowPrivate ? {} : { lookup: publicLookup }) },
        (response) => {
          let answer = ''
          response.setEncoding('utf8')
          response.on('data', (chunk: string) => {
            if (answer.length < answerKept) answer += chunk
          })
          response.on('end', () => settle(response.statusCode ?? null, answer, null))
          response.on('error', (error) => settle(null, answer, error.message))
        },
      )
      const limit = setTimeout(
        () => request.destroy(new Error(`no answer within ${timeoutMilliseconds / 1000} s`)),
        timeoutMilliseconds,
      )
      request.on('close', () => clearTimeout(limit))
      request.on('error', (error) => settle(null, '', error.message))
      request.end(body)
    })
  }
}
