import type { EntryChange, Environment, EventData, EventType, Model, SiteSettings } from '@wisteria/core'
import type { Tables } from '../tables/tables.js'

export type Binding = string | number | null

/** The queues of background loops. */
export type Work = 'deliveries' | 'schedules' | 'clearing' | 'orders' | 'automations'

/** Raw reads on one connection. */
export interface Reader {
  readonly tables: Tables
  /** Rows of a query with `?` bindings. */
  readonly all: <Row>(sql: string, bindings?: readonly Binding[]) => Promise<Row[]>
}

/** Reads committed data, and counts the commits: while the count is the same, all data is. */
export interface CommittedReader extends Reader {
  readonly commits: number
}

/** Inside a transaction. Everything awaited in it, and nothing else, is committed together. */
export interface Transaction extends Reader {
  /** @returns how many rows it changed. */
  readonly run: (sql: string, bindings?: readonly Binding[]) => Promise<number>
  /** Says that there is work for a background loop: the loop wakes once this is committed. */
  readonly touch: (what: Work) => void
  /** Subscribers of every event, in this transaction. */
  readonly subscribers: readonly Subscriber[]
  /** The count of commits, as long as this transaction has written nothing: then data read since the last commit is current. */
  readonly unchanged: CommittedReader | undefined
}

/** An event, as its subscribers get it. */
export interface ToldEvent {
  readonly site: { readonly id: string; readonly model: Model; readonly settings: SiteSettings }
  readonly sequence: number
  readonly type: EventType
  /** `account:…`, `key:…`, `automation:…` or `service`. */
  readonly actor: string
  /** Shared by all events of the act. */
  readonly action: string
  readonly data: EventData
  /** What it changed of its entry, for conditions; it is worked out where one asks. */
  readonly change: (() => EntryChange) | undefined
  /** ISO instant. */
  readonly at: string
  /** Whether published readers see a difference. */
  readonly isPublic: boolean
}

/** Work for every event, in its transaction: for example, rows of a queue. Those that come together are of one site and one type. */
export type Subscriber = (
  transaction: Transaction,
  events: readonly [ToldEvent, ...ToldEvent[]],
  environment: Environment,
) => Promise<void>
