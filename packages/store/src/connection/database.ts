import { Sequelize } from 'sequelize'
import sqlite3 from 'sqlite3'
import { migrations } from '../migrations/migrations.js'
import type { Binding, CommittedReader, Reader, Subscriber, Transaction, Work } from './reader.js'
import { Statements } from './statements.js'
import { tablesOn, type Tables } from '../tables/tables.js'

/** The folder was written by a newer version of the service. */
export class NewerDatabase extends Error {}

/** Called with the text of every statement that any database opened from now on runs; for tests that count them. */
let statementListener: ((sql: string) => void) | undefined
export const watchStatements = (listener: ((sql: string) => void) | undefined): void => {
  statementListener = listener
}

export interface DatabaseOptions {
  /** The database file. */
  readonly file: string
  /** Subscribers of every event, called within its transaction. */
  readonly subscribers?: readonly Subscriber[] | undefined
  /** Called when a write transaction begins and ends, for metrics. */
  readonly onTransaction?: ((phase: 'begun' | 'committed' | 'rolledBack') => void) | undefined
  /** Called after a commit, with the queues that have new work. */
  readonly onWork?: ((work: ReadonlySet<Work>) => void) | undefined
}

/**
 * The SQLite file. One connection writes, behind one queue: transactions never wait for each other inside SQLite. Parallel reads
 * have connections of their own and see only committed data.
 */
export class Database implements CommittedReader {
  readonly #connect: () => Sequelize
  readonly #writer: Sequelize
  /** Connections of their own; reads take them in turns. */
  readonly #readers: readonly Sequelize[]
  readonly #writeTables: Tables
  #writeDriver!: sqlite3.Database
  #statements: readonly Statements[] = []
  #turn = 0
  #commits = 0
  readonly tables: Tables
  readonly #subscribers: readonly Subscriber[]
  readonly #onTransaction: DatabaseOptions['onTransaction']
  readonly #onWork: DatabaseOptions['onWork']
  #writing!: Statements
  #queue: Promise<unknown> = Promise.resolve()
  #closed = false

  private constructor(options: DatabaseOptions) {
    this.#connect = () =>
      new Sequelize({ dialect: 'sqlite', dialectModule: sqlite3, storage: options.file, logging: false })
    this.#writer = this.#connect()
    this.#readers = Array.from({ length: readConnections }, this.#connect)
    this.#writeTables = tablesOn(this.#writer)
    this.tables = tablesOn(this.#readers[0]!)
    this.#subscribers = options.subscribers ?? []
    this.#onTransaction = options.onTransaction
    this.#onWork = options.onWork
  }

  static async open(options: DatabaseOptions): Promise<Database> {
    const database = new Database(options)
    for (const connection of [database.#writer, ...database.#readers]) {
      for (const pragma of [
        'journal_mode = wal',
        'synchronous = full',
        'foreign_keys = on',
        'busy_timeout = 5000',
        // The log shrinks again after a busy hour, in bytes.
        'journal_size_limit = 67108864',
        // Kilobytes. Most reads find their pages here or in the cache of the operating system.
        `cache_size = -${connection === database.#writer ? 16_000 : 8_000}`,
      ])
        await connection.query(`pragma ${pragma}`)
    }
    database.#writeDriver = await driverOf(database.#writer)
    database.#writing = new Statements(database.#writeDriver)
    if (statementListener)
      for (const connection of [database.#writer, ...database.#readers])
        (await driverOf(connection)).on('trace', (sql: string) => statementListener?.(sql))
    const statements: Statements[] = []
    for (const reader of database.#readers) {
      statements.push(new Statements(await driverOf(reader)))
      await reader.query('pragma query_only = on')
    }
    database.#statements = statements
    await database.#migrate()
    return database
  }

  /**
   * Migrates the tables to the schema of this version. Each migration is recorded in its own transaction, so that a crash leaves
   * both or neither.
   * @throws NewerDatabase when it has migrations that this version does not know.
   */
  async #migrate(): Promise<void> {
    await this.write(({ run }) =>
      run('create table if not exists migrations (name varchar(255) not null unique primary key)'),
    )
    const done = await this.all<{ name: string }>('select name from migrations order by name')
    const unknown = done.filter(({ name }) => !migrations.some((migration) => migration.name === name))
    if (unknown.length > 0)
      throw new NewerDatabase(`it was written by a newer version (${unknown.map(({ name }) => name).join(', ')})`)
    if (done.length === migrations.length) return
    // It is slow to load, and usually has nothing to do.
    const { Umzug } = await import('umzug')
    const umzug = new Umzug({
      migrations: migrations.map(({ name, statements }) => ({
        name,
        up: () =>
          this.write(async (transaction) => {
            // Tables that refer to each other are rebuilt: only the end state must be consistent.
            await transaction.run('pragma defer_foreign_keys = on')
            for (const statement of statements) await transaction.run(statement)
            await transaction.run('insert into migrations (name) values (?)', [name])
          }),
      })),
      storage: {
        executed: () => Promise.resolve(done.map(({ name }) => name)),
        logMigration: () => Promise.resolve(),
        unlogMigration: () => Promise.resolve(),
      },
      logger: undefined,
    })
    await umzug.up()
  }

  /** Rows of a query on a reading connection, by a statement that is kept ready. */
  all<Row>(sql: string, bindings: readonly Binding[] = []): Promise<Row[]> {
    this.#turn = (this.#turn + 1) % this.#statements.length
    return this.#statements[this.#turn]!.all<Row>(sql, bindings)
  }

  /**
   * Reads everything as it is at one moment, however long it takes and whatever is written meanwhile. The log of the file grows
   * until it ends, so it must not wait for anybody outside.
   */
  async snapshot<Result>(work: (reader: Reader) => Promise<Result>): Promise<Result> {
    const connection = this.#connect()
    const statements = new Statements(await driverOf(connection))
    try {
      for (const statement of ['pragma query_only = on', 'pragma busy_timeout = 5000', 'begin'])
        await statements.run(statement, [])
      return await work({
        tables: tablesOn(connection),
        all: (sql, bindings = []) => statements.all(sql, bindings),
      })
    } finally {
      await statements.run('rollback', []).catch(() => undefined)
      await statements.close()
      await connection.close()
    }
  }

  /** Rejects where the file can no longer be read. */
  async probe(): Promise<void> {
    await this.all('select 1')
  }

  /** How many transactions have been committed: while it stays the same, so does everything that can be read. */
  get commits(): number {
    return this.#commits
  }

  /**
   * Runs work in one transaction; it commits when the work resolves and leaves nothing behind when it rejects. Work must not call
   * `write` again: it would wait for itself.
   * @param isRepeatable for work that is done again if a loss of power undoes it: the commit does not wait for the disk. A later
   * commit puts it on the disk too.
   */
  write<Result>(work: (transaction: Transaction) => Promise<Result>, isRepeatable = false): Promise<Result> {
    if (this.#closed) return Promise.reject(new Error('the database is closed'))
    if (isRepeatable) return this.#queued(() => this.#withoutSync(() => this.#transact(work)))
    return this.#queued(() => this.#transact(work))
  }

  /** One after the other. */
  #queued<Result>(run: () => Promise<Result>): Promise<Result> {
    const done = this.#queue.then(run, run)
    this.#queue = done.catch(() => undefined)
    return done
  }

  async #withoutSync<Result>(run: () => Promise<Result>): Promise<Result> {
    await this.#writing.run('pragma synchronous = normal', [])
    try {
      return await run()
    } finally {
      await this.#writing.run('pragma synchronous = full', [])
    }
  }

  async #transact<Result>(work: (transaction: Transaction) => Promise<Result>): Promise<Result> {
    const touched = new Set<Work>()
    await this.#writing.run('begin immediate', [])
    this.#onTransaction?.('begun')
    let result: Result
    let isChanged = false
    const tables = this.#writeTables
    const database = this as CommittedReader
    try {
      result = await work({
        // Callers of these may write with them.
        get tables() {
          isChanged = true
          return tables
        },
        all: (sql, bindings = []) => {
          // Statements that begin otherwise change rows and return them.
          isChanged ||= !/^\s*(select|with|explain|pragma)\b/i.test(sql)
          return this.#writing.all(sql, bindings)
        },
        run: (sql, bindings = []) => {
          isChanged = true
          return this.#writing.run(sql, bindings)
        },
        subscribers: this.#subscribers,
        touch: (what) => void touched.add(what),
        get unchanged() {
          return isChanged ? undefined : database
        },
      })
      await this.#writing.run('commit', [])
      this.#commits++
    } catch (error) {
      await this.#writing.run('rollback', []).catch(() => undefined)
      this.#onTransaction?.('rolledBack')
      throw error
    }
    this.#onTransaction?.('committed')
    if (touched.size > 0) this.#onWork?.(touched)
    return result
  }

  /** Waits for running writes, then closes. */
  async close(): Promise<void> {
    this.#closed = true
    await this.#queue
    for (const statements of [this.#writing, ...this.#statements]) await statements.close()
    for (const reader of this.#readers) await reader.close()
    await this.#writer.close()
  }
}

/** More of them were no faster on a machine with two cores; one would wait for every slow query. */
const readConnections = 2

/** A connection's own driver: `?` bindings, and no parsing of the text by Sequelize. */
async function driverOf(sequelize: Sequelize): Promise<sqlite3.Database> {
  return (await sequelize.connectionManager.getConnection({ type: 'write' })) as sqlite3.Database
}
