import type { Automation, CloudEvent, Data } from '@wisteria/core'
import { segment, type Call } from './transport.js'

/** An automation of a site. */
export interface AutomationView {
  readonly name: string
  /** How events name it. */
  readonly actor: string
  readonly definition: Automation
  /** Of the definition: counts its changes, from 1. */
  readonly version: number
  readonly enabled: boolean
  /** Where programs send messages to; null where something else starts it. */
  readonly address: string | null
  readonly hasSecret: boolean
  /** The names of the values that its calls use. */
  readonly secrets: readonly string[]
  /** When its timetable starts it next. */
  readonly nextAt: string | null
  readonly runs: {
    readonly running: number
    readonly failed: number
    readonly done: number
    readonly stopped: number
    readonly latest: string | null
  }
  readonly createdAt: string
  readonly changedAt: string
  readonly changedBy: string
}

/** What a step did. */
export interface AutomationStepRecord {
  /** The number of the step, from 0. */
  readonly step: number
  readonly do: string
  readonly at: string
  readonly isSkipped?: boolean
  readonly entry?: string
  readonly outcome?: 'created' | 'updated' | 'unchanged'
  /** Of the answer to a call. */
  readonly status?: number
  /** When it goes on, or what it scheduled happens. */
  readonly until?: string
}

interface Progress {
  /** The number of the step that comes next. */
  readonly step: number
  /** The results of steps, by their names. */
  readonly results: Readonly<Record<string, Data>>
  readonly log: readonly AutomationStepRecord[]
  readonly tries: number
  readonly nextAt: string | null
  readonly message: string
  readonly finishedAt: string | null
}

export interface AutomationRunView extends Progress {
  readonly id: string
  readonly automation: string
  /** Of the definition that it began with. */
  readonly version: number
  readonly key: string | null
  readonly startedBy: string
  /** Whether another automation led to it. */
  readonly isCaused: boolean
  readonly trigger: Data
  readonly entry: Data
  readonly state: 'running' | 'done' | 'failed' | 'stopped'
  /** Of its items. */
  readonly total: number
  readonly done: number
  readonly failed: number
  readonly createdAt: string
}

export interface AutomationItemView extends Progress {
  readonly position: number
  readonly input: Data
  readonly title: string
  /** The entry that it is, if any, and its type. */
  readonly entry: string | null
  readonly type: string | null
  readonly state: 'waiting' | 'done' | 'failed'
}

/** What adopting a set of automations does to one of them. */
export interface AutomationChange {
  readonly name: string
  readonly label: string
  readonly does: 'added' | 'changed' | 'removed' | 'same'
  readonly parts: readonly string[]
  readonly running: number
}

export interface AutomationComparison {
  readonly changes: readonly AutomationChange[]
  /** The versions that it was made with: sent when the set is adopted. */
  readonly versions: Readonly<Record<string, number>>
}

/** What an automation would do. */
export interface AutomationTry {
  /** Whether it came to its end in the time that a try has. */
  readonly whole: boolean
  readonly run: AutomationRunView
  readonly items: readonly AutomationItemView[]
  /** The calls that would be made. */
  readonly calls: readonly {
    readonly position: number | null
    readonly step: number
    readonly method: string
    readonly address: string
    readonly body: string | null
  }[]
  readonly events: readonly CloudEvent[]
}

const base = '/automations'
const at = (name: string): string => `${base}/${segment(name)}`
const runAt = (id: string): string => `/automation-runs/${segment(id)}`

/** Automations of a site, and their runs. */
export class Automations {
  readonly #call: <Body>(request: Call) => Promise<Body>

  constructor(call: <Body>(request: Call) => Promise<Body>) {
    this.#call = call
  }

  list = () =>
    this.#call<{
      readonly automations: readonly AutomationView[]
      readonly versions: Readonly<Record<string, number>>
    }>({ path: base })
  get = (name: string) => this.#call<AutomationView>({ path: at(name) })
  /** Creates one, or changes the one that was read in a version. */
  set = (definition: Automation, version?: number) =>
    this.#call<AutomationView>({ method: 'PUT', path: at(definition.automation), body: { definition, version } })
  /** Says what it would do to make these the automations of the site. */
  compare = (automations: readonly Automation[]) =>
    this.#call<AutomationComparison>({
      method: 'POST',
      path: `${base}/compare`,
      body: { automations },
      isQuestion: true,
    })
  adopt = (automations: readonly Automation[], versions: AutomationComparison['versions']) =>
    this.#call<{ readonly changes: readonly AutomationChange[] }>({
      method: 'POST',
      path: `${base}/adopt`,
      body: { automations, versions },
    })
  /** Says what one would do, started for an entry, for entries, or by the body of a message. Nothing is changed. */
  try = (
    automation: Automation,
    start: { readonly entries?: readonly string[] | undefined; readonly body?: unknown } = {},
  ) =>
    this.#call<AutomationTry>({ method: 'POST', path: `${base}/try`, body: { automation, ...start }, isQuestion: true })
  enable = (name: string, enabled: boolean) =>
    this.#call<AutomationView>({ method: 'PATCH', path: at(name), body: { enabled } })
  remove = (name: string) => this.#call<undefined>({ method: 'DELETE', path: at(name) })
  /** Starts it by hand. */
  run = (name: string, entries?: readonly string[]) =>
    this.#call<{ readonly runs: readonly string[] }>({
      method: 'POST',
      path: `${at(name)}/run`,
      body: entries ? { entries } : {},
    })
  /** Makes a new secret for its address. */
  makeSecret = (name: string) =>
    this.#call<AutomationView & { readonly secret: string }>({ method: 'POST', path: `${at(name)}/secret` })
  /** Sets a value that its calls use. */
  setSecret = (name: string, secret: string, value: string) =>
    this.#call<AutomationView>({ method: 'PUT', path: `${at(name)}/secrets/${segment(secret)}`, body: { value } })
  removeSecret = (name: string, secret: string) =>
    this.#call<undefined>({ method: 'DELETE', path: `${at(name)}/secrets/${segment(secret)}` })

  runs = (
    name: string,
    query: { readonly state?: AutomationRunView['state'] | undefined; readonly first?: number } = {},
  ) => this.#call<{ readonly runs: readonly AutomationRunView[] }>({ path: `${at(name)}/runs`, query: { ...query } })
  getRun = (id: string) => this.#call<AutomationRunView>({ path: runAt(id) })
  items = (
    id: string,
    query: {
      readonly from?: number
      readonly first?: number
      readonly state?: AutomationItemView['state'] | undefined
    } = {},
  ) =>
    this.#call<{ readonly items: readonly AutomationItemView[]; readonly next: number | null }>({
      path: `${runAt(id)}/items`,
      query: { ...query },
    })
  stop = (id: string) => this.#call<AutomationRunView>({ method: 'POST', path: `${runAt(id)}/stop` })
  /** Goes on with what failed or was stopped. */
  retry = (id: string) => this.#call<AutomationRunView>({ method: 'POST', path: `${runAt(id)}/retry` })
}
