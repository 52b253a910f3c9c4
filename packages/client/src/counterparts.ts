import type {
  CounterpartList,
  CounterpartPlan,
  Difference,
  EditableEntry,
  EntryCounterparts,
  Region,
  Side,
  SourceChanges,
} from '@wisteria/core'
import type { Job } from './answers.js'
import { segment, type Call, type Reply } from './transport.js'

/** The regions of a site besides the main one. */
export interface SiteRegions {
  readonly regions: readonly (Region & { readonly entries: number })[]
  /** The names of the types whose entries belong to regions. */
  readonly types: readonly string[]
}

/** Entries to copy to a region. */
export interface CounterpartOrder {
  readonly region: string
  readonly ids: readonly string[]
  /** Whether everything below them is copied too. */
  readonly withChildren?: boolean | undefined
}

/** Which side of one change of a source is wanted. */
export interface ChangeChoice {
  readonly how: Difference['how']
  readonly at: readonly string[]
  readonly locale?: string | null | undefined
  readonly side: Side
}

/** What is taken of a source. */
export interface TakingOrder {
  /** `changes` (when left out) merges what changed in the source; `everything` replaces the entry by it. */
  readonly take?: 'changes' | 'everything' | undefined
  readonly choices?: readonly ChangeChoice[] | undefined
  /** For places that were changed on both sides, where no choice names them. */
  readonly conflicts?: Side | undefined
  /** The version of the source that was looked at: it is refused (412) when that has changed since. */
  readonly sourceVersion?: number | undefined
}

/** Regions, and the counterparts of entries in them. */
export class Counterparts {
  readonly #call: <Body>(request: Call) => Promise<Body>
  readonly #reply: <Body>(request: Call) => Promise<Reply<Body>>

  constructor(call: <Body>(request: Call) => Promise<Body>, reply: <Body>(request: Call) => Promise<Reply<Body>>) {
    this.#call = call
    this.#reply = reply
  }

  /** The regions of the site, with the version that `setRegions` may ask for. */
  regions = async (): Promise<SiteRegions & { readonly version: string }> => {
    const { body, headers } = await this.#reply<SiteRegions>({ path: '/regions' })
    return { ...body, version: headers.get('etag') ?? '*' }
  }
  /** Adds, labels, orders and removes regions. @param version refused (412) when somebody has changed the settings since. */
  setRegions = (regions: readonly Region[], version?: string) =>
    this.#call<SiteRegions>({
      method: 'PUT',
      path: '/regions',
      body: { regions: regions.map(({ name, label }) => ({ name, label })) },
      ...(version === undefined ? {} : { headers: { 'If-Match': version } }),
    })

  /** A page of entries with their counterparts; `missing` and `behind` name a region. */
  list = (query: { type?: string; missing?: string; behind?: string; after?: number } = {}) =>
    this.#call<CounterpartList>({ path: '/counterparts', query })
  /** Where an entry has counterparts, and where none. */
  of = (entry: string) => this.#call<EntryCounterparts>({ path: `/entries/${segment(entry)}/counterparts` })
  /** What making counterparts would do. Changes nothing. */
  plan = (order: CounterpartOrder) =>
    this.#call<CounterpartPlan>({ method: 'POST', path: '/counterparts/plan', body: order, isQuestion: true })
  /** Copies entries to a region, as a job. */
  make = (order: CounterpartOrder) => this.#call<Job>({ method: 'POST', path: '/counterparts', body: order })

  /** What changed in the entry that this one was copied from. */
  changes = (entry: string) => this.#call<SourceChanges>({ path: `/entries/${segment(entry)}/source` })
  /** Takes changes of the entry that this one was copied from. @param version of the entry itself. */
  take = (entry: string, order: TakingOrder = {}, version?: number) =>
    this.#call<EditableEntry & { readonly taken: number; readonly left: number }>({
      method: 'POST',
      path: `/entries/${segment(entry)}/source`,
      body: order,
      ...(version === undefined ? {} : { headers: { 'If-Match': `"v${version}"` } }),
    })
  /** Puts an entry that was never public into a region, or says what it is the counterpart of; null for nothing. */
  place = (entry: string, region: string, counterpartOf?: string | null) =>
    this.#call<EditableEntry>({
      method: 'PUT',
      path: `/entries/${segment(entry)}/region`,
      body: { region, ...(counterpartOf === undefined ? {} : { counterpartOf }) },
    })
}
