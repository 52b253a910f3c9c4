import { LRUCache } from 'lru-cache'
import type sqlite3 from 'sqlite3'
import type { Binding } from './reader.js'

/** Prepared statements kept on a connection; the least recently used are dropped. */
const maxKept = 300
/** Longer texts are rarely repeated. */
const maxLength = 8_000

/** The prepared statements of one connection. */
export class Statements {
  readonly #driver: sqlite3.Database
  readonly #kept = new LRUCache<string, sqlite3.Statement>({
    max: maxKept,
    dispose: (statement, _, reason) => {
      if (reason === 'evict') statement.finalize()
    },
  })

  constructor(driver: sqlite3.Database) {
    this.#driver = driver
  }

  all<Row>(sql: string, bindings: readonly Binding[]): Promise<Row[]> {
    return new Promise((resolve, reject) => {
      const told = (error: Error | null, rows?: unknown[]): void =>
        error ? reject(error) : resolve((rows ?? []) as Row[])
      // A plan is asked for once; a kept statement of a change would count as a change that is still running.
      if (sql.length > maxLength || sql.startsWith('explain')) this.#driver.all(sql, bindings, told)
      else this.#ready(sql, reject).all(bindings, told)
    })
  }

  /** @returns how many rows it changed. */
  run(sql: string, bindings: readonly Binding[]): Promise<number> {
    return new Promise((resolve, reject) => {
      const told = function (this: sqlite3.RunResult, error: Error | null): void {
        if (error) reject(error)
        else resolve(this.changes)
      }
      if (sql.length > maxLength) this.#driver.run(sql, bindings, told)
      else this.#ready(sql, reject).run(bindings, told)
    })
  }

  /** The prepared statement of a text, prepared on first use. */
  #ready(sql: string, failed: (error: Error) => void): sqlite3.Statement {
    const kept = this.#kept.get(sql)
    if (kept) return kept
    const statement = this.#driver.prepare(sql, (error: Error | null) => {
      if (!error) return
      this.#kept.delete(sql)
      failed(error)
    })
    this.#kept.set(sql, statement)
    return statement
  }

  /** Finalizes all of them: a connection with open statements cannot be closed. */
  async close(): Promise<void> {
    const all = [...this.#kept.values()]
    this.#kept.clear()
    await Promise.all(all.map((statement) => new Promise<void>((resolve) => statement.finalize(() => resolve()))))
  }
}
