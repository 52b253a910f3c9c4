import { decide, WisteriaError } from '@wisteria/core'
import { Act, siteWithId, workingCopyOf, type ScheduleRow, type Transaction } from '@wisteria/store'
import { publish, unpublish } from '../edit/publishing.js'
import { tellSchedule } from '../edit/schedules.js'
import type { Kernel } from '../kernel.js'
import { callerOfActor } from '../sessions/actors.js'

/** The longest that it sleeps: a clock that was set to another time is noticed by then, in milliseconds. */
const longestSleep = 20_000

/**
 * Does what is planned when its time has come: each plan in one transaction with what becomes of it, so that a crash leaves
 * either both or neither, and what came due while the service was down is done when it is back.
 */
export class Clockwork {
  readonly #kernel: Kernel
  #timer: ReturnType<typeof setTimeout> | undefined
  #running: Promise<void> | undefined
  #again = false
  #stopped = false
  #off: () => void = () => undefined

  constructor(kernel: Kernel) {
    this.#kernel = kernel
  }

  start(): void {
    this.#off = this.#kernel.onCommitted(() => this.#wake())
    this.#wake()
  }

  /** Finishes what is under way. */
  async stop(): Promise<void> {
    this.#stopped = true
    this.#off()
    clearTimeout(this.#timer)
    await this.#running
  }

  #wake(): void {
    if (this.#stopped) return
    this.#again = true
    this.#running ??= this.#run().finally(() => {
      this.#running = undefined
      if (this.#again) this.#wake()
    })
  }

  async #run(): Promise<void> {
    this.#again = false
    clearTimeout(this.#timer)
    for (;;) {
      if (this.#stopped) return
      const [next] = await this.#kernel.database.all<ScheduleRow>(
        "select * from schedules where state = 'planned' order by at, id limit 1",
      )
      if (!next) break
      const wait = Date.parse(next.at) - this.#kernel.now
      if (wait > 0) {
        this.#timer = setTimeout(() => this.#wake(), Math.min(wait, longestSleep))
        this.#timer.unref()
        return
      }
      try {
        await this.#carryOut(next.id)
      } catch (error) {
        this.#kernel.logger.error({ err: error, schedule: next.id }, 'a plan could not be carried out')
        this.#timer = setTimeout(() => this.#wake(), longestSleep)
        this.#timer.unref()
        return
      }
    }
  }

  /** One plan. What it would have to leave half done it leaves undone, and says why. */
  async #carryOut(id: string): Promise<void> {
    const kernel = this.#kernel
    try {
      await kernel.write((transaction) => this.#attempt(transaction, id))
    } catch (error) {
      if (!(error instanceof WisteriaError)) throw error
      const message = [
        error.message,
        ...(error.problems.length > 1 ? error.problems.map((one) => one.message) : []),
      ].join(' ')
      await kernel.write((transaction) => this.#giveUp(transaction, id, message))
    }
  }

  async #attempt(transaction: Transaction, id: string): Promise<void> {
    const row = await plannedRow(transaction, id)
    if (!row || Date.parse(row.at) > this.#kernel.now) return
    const site = await siteWithId(transaction, row.site)
    const copy = await workingCopyOf(transaction, site, row.entry)
    if (!copy) throw new WisteriaError('notFound', 'The entry is no longer there.')
    const caller = await callerOfActor(this.#kernel, row.actor, site)
    const may = decide(caller, 'entry.publish')
    if (!may.allowed)
      throw new WisteriaError(
        'forbidden',
        `Who planned it may not do it any more. ${caller.is === 'nobody' ? '' : may.because!}`.trim(),
      )
    const act = new Act(transaction, site, row.actor, this.#kernel.surroundings)
    const locales = row.locales === null ? undefined : (JSON.parse(row.locales) as string[])
    const author = { caller, actor: row.actor }
    if (row.does === 'publish') await publish(transaction, act, author, copy, locales)
    else await unpublish(transaction, act, author, copy, locales, false)
    await transaction.run("update schedules set state = 'done', ended_at = ? where id = ?", [act.at, id])
  }

  async #giveUp(transaction: Transaction, id: string, message: string): Promise<void> {
    const row = await plannedRow(transaction, id)
    if (!row) return
    const site = await siteWithId(transaction, row.site)
    const copy = await workingCopyOf(transaction, site, row.entry)
    const act = new Act(transaction, site, row.actor, this.#kernel.surroundings)
    await transaction.run("update schedules set state = 'failed', message = ?, ended_at = ? where id = ?", [
      message,
      act.at,
      id,
    ])
    if (copy) await tellSchedule(act, { ...row, state: 'failed', message }, { id: copy.id, type: copy.type.name }, true)
  }
}

/** A plan that still waits: it may have been moved or called off since it was looked for. */
async function plannedRow(transaction: Transaction, id: string): Promise<ScheduleRow | undefined> {
  const [row] = await transaction.all<ScheduleRow>("select * from schedules where id = ? and state = 'planned'", [id])
  return row
}
