import { randomBytes } from 'node:crypto'
import { EventEmitter } from 'node:events'
import type { Permission, Environment } from '@wisteria/core'
import type { Database, Job, Transaction } from '@wisteria/store'
import type { Logger } from 'pino'
import type { ServiceOptions } from './options.js'
import { trustOf, type Trust } from './addresses.js'

/** The jobs, to begin or end one. */
export interface JobsAtWork {
  wake(): void
  abandon(job: Job): Promise<void>
  permissionFor(job: Job): Permission
}

/** Everything that each room of the running service uses. */
export class Kernel {
  readonly database: Database
  readonly options: ServiceOptions
  readonly logger: Logger
  readonly environment: Environment
  /** Proxies whose `X-Forwarded-For` is believed. */
  readonly trusted: Trust
  /** The address of the service, without a slash at the end. Set once it listens. */
  baseUrl = ''
  /** Set when the service starts. */
  jobs!: JobsAtWork
  /** Aborted when the service stops: streams close their connections. */
  readonly ending = new AbortController()
  readonly #committed = new EventEmitter()
  #latest = 0

  constructor(database: Database, options: ServiceOptions, logger: Logger, now: () => number = Date.now) {
    this.database = database
    this.options = options
    this.logger = logger
    this.trusted = trustOf(options.trustProxy)
    this.environment = {
      now: () => {
        const time = now()
        if (time > this.#latest) this.#latest = time
        return time
      },
      random: (bytes) => randomBytes(bytes),
    }
    // Every stream of changes listens.
    this.#committed.setMaxListeners(0)
  }

  get now(): number {
    return this.environment.now()
  }

  /** How far the clock was set back since this was asked last, in milliseconds. */
  takeSetBack(): number {
    const before = this.#latest
    this.#latest = 0
    return Math.max(0, before - this.now)
  }

  /** The time as an ISO instant. */
  get at(): string {
    return new Date(this.now).toISOString()
  }

  /** One transaction; waiting streams and loops are notified after it has committed. `isRepeatable` is the database's. */
  async write<Result>(work: (transaction: Transaction) => Promise<Result>, isRepeatable = false): Promise<Result> {
    const result = await this.database.write(work, isRepeatable)
    this.#committed.emit('committed')
    return result
  }

  /** Calls `listener` after every commit. @returns a function that stops it. */
  onCommitted(listener: () => void): () => void {
    this.#committed.on('committed', listener)
    return () => this.#committed.off('committed', listener)
  }
}
