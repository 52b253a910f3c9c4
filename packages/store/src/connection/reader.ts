import type { Environment, EventType } from '@wisteria/core'
import type { Tables } from '../tables/tables.js'

export type Binding = string | number | null

/** What loops that run by themselves look for. */
export type Work = 'deliveries' | 'schedules' | 'clearing'

/** Raw reads on one connection. */
export interface Reader {
  readonly tables: Tables
  /** Rows of a query with `?` bindings. */
  readonly all: <Row>(sql: string, bindings?: readonly Binding[]) => Promise<Row[]>
}

/** Reads what is committed, and counts the commits: while their number stays the same, so does everything that can be read. */
export interface CommittedReader extends Reader {
  readonly commits: number
}

/** Inside a transaction. Everything awaited in it, and nothing else, is committed together. */
export interface Transaction extends Reader {
  /** @returns how many rows it changed. */
  readonly run: (sql: string, bindings?: readonly Binding[]) => Promise<number>
  /** Says that there is work for a loop that runs by itself: it is woken once this is committed. */
  readonly touch: (what: Work) => void
  /** Who is told of every event, in this transaction. */
  readonly subscribers: readonly Subscriber[]
  /** What is committed, as long as nothing was written in this transaction: then what was read since the last commit holds. */
  readonly unchanged: CommittedReader | undefined
}

/** An event as its subscribers are told of it. */
export interface ToldEvent {
  /** The id of the site. */
  readonly site: string
  readonly sequence: number
  readonly type: EventType
  /** The id of the entry that it is about, if it is about one. */
  readonly entry: string | null
  /** ISO instant. */
  readonly at: string
  /** Whether published readers see a difference. */
  readonly isPublic: boolean
}

/** What follows from every event, in the transaction that tells of it: rows of a queue, say. */
export type Subscriber = (transaction: Transaction, event: ToldEvent, environment: Environment) => Promise<void>
