import { frontEndsOf, siteNamed, type Site } from '@wisteria/store'
import type { IncomingHttpHeaders } from 'node:http'
import { LRUCache } from 'lru-cache'
import type { Kernel } from '../kernel/kernel.js'
import type { Identified } from '../access/memberships.js'
import { identify, keyMark } from '../access/callers.js'

/** A site as a read needs it before anything else. */
export interface SiteSnapshot {
  readonly site: Site
  /** Origins whose pages may read it. */
  readonly origins: ReadonlySet<string>
  /** The same for as long as every published answer is: part of the key of cached answers. */
  readonly stamp: string
}

interface Kept<Value> {
  /** After how many commits it was read. */
  readonly commits: number
  readonly value: Value
}

const maxKept = 1000

/**
 * Sites and access keys as of the newest commit. All changes of them pass through one queue of writes in this process, so counting
 * commits is enough to know whether they are current.
 */
export class Snapshots {
  readonly #kernel: Kernel
  readonly #sites = new LRUCache<string, Kept<SiteSnapshot | undefined>>({ max: maxKept })
  readonly #callers = new LRUCache<string, Kept<Identified>>({ max: maxKept })

  constructor(kernel: Kernel) {
    this.#kernel = kernel
  }

  /** A site, at once where nothing was written since it was read. */
  site(name: string): SiteSnapshot | undefined | Promise<SiteSnapshot | undefined> {
    const kept = this.#sites.get(name)
    return kept?.commits === this.#kernel.database.commits ? kept.value : this.#readSite(name)
  }

  async #readSite(name: string): Promise<SiteSnapshot | undefined> {
    const { database } = this.#kernel
    const { commits } = database
    const site = await siteNamed(database, name)
    const value = site && {
      site,
      origins: new Set((await frontEndsOf(database, site.id)).flatMap(({ origins }) => origins)),
      stamp: [
        site.id,
        site.publicGeneration,
        site.model.version,
        site.settingsVersion,
        site.projection,
        site.isOpen,
      ].join(' '),
    }
    this.#sites.set(name, { commits, value })
    return value
  }

  /** The caller. Only access keys are remembered: sessions and grants expire with the time. */
  caller(
    headers: IncomingHttpHeaders,
    method: string,
    name: string,
    site: Site | undefined,
  ): Identified | Promise<Identified> {
    const header = headers.authorization
    if (header === undefined || !header.startsWith(`Bearer ${keyMark}`) || header.length > 300)
      return identify(this.#kernel, headers, method, site)
    const kept = this.#callers.get(`${name} ${header}`)
    if (kept?.commits === this.#kernel.database.commits) return kept.value
    return this.#readCaller(headers, method, `${name} ${header}`, site)
  }

  async #readCaller(
    headers: IncomingHttpHeaders,
    method: string,
    name: string,
    site: Site | undefined,
  ): Promise<Identified> {
    const { commits } = this.#kernel.database
    const value = await identify(this.#kernel, headers, method, site)
    this.#callers.set(name, { commits, value })
    return value
  }
}
