import { isAffected, type WebhookEvent } from '@wisteria/client'

/** A page as it was sent, with the groups of its content. */
export interface CachedPage {
  readonly status: number
  readonly headers: Readonly<Record<string, string>>
  readonly body: string
  /** The groups of every read that went into it. */
  readonly groups: readonly string[]
}

const maxPages = 1000

/** Rendered pages, kept until an event names something that they were made from. */
export class PageCache {
  readonly #pages = new Map<string, CachedPage>()
  #generation = 0

  /** Counts events: a page that was begun before one may be stale already when it is done. */
  get generation(): number {
    return this.#generation
  }

  get(address: string): CachedPage | undefined {
    return this.#pages.get(address)
  }

  /** Keeps a page, unless an event came in since it was begun. */
  keep(address: string, page: CachedPage, begunAt: number): void {
    if (begunAt !== this.#generation) return
    if (this.#pages.size >= maxPages) this.#pages.delete(this.#pages.keys().next().value!)
    this.#pages.set(address, page)
  }

  /** Drops every page that an event reaches. @returns their addresses. */
  drop(event: WebhookEvent): string[] {
    this.#generation++
    const dropped = [...this.#pages].filter(([, page]) => isAffected(page.groups, event)).map(([address]) => address)
    for (const address of dropped) this.#pages.delete(address)
    return dropped
  }
}
