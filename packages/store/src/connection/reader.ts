import type { Tables } from '../tables/tables.js'

export type Binding = string | number | null

/** What loops that run by themselves look for. */
export type Work = 'deliveries' | 'schedules'

/** Raw reads on one connection. */
export interface Reader {
  readonly tables: Tables
  /** Rows of a query with `?` bindings. */
  all<Row>(sql: string, bindings?: readonly Binding[]): Promise<Row[]>
}

/** Reads what is committed, and counts the commits: while their number stays the same, so does everything that can be read. */
export interface CommittedReader extends Reader {
  readonly commits: number
}

/** Inside a transaction. Everything awaited in it, and nothing else, is committed together. */
export interface Transaction extends Reader {
  /** @returns how many rows it changed. */
  run(sql: string, bindings?: readonly Binding[]): Promise<number>
  /** Says that there is work for a loop that runs by itself: it is woken once this is committed. */
  touch(what: Work): void
  /** What is committed, as long as nothing was written in this transaction: then what was read since the last commit holds. */
  readonly unchanged: CommittedReader | undefined
}
