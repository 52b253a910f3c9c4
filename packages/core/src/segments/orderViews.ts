import type { IncomingOutcome } from './incoming.js'

/** An address that translates: a machine, or an agency. */
export interface ConnectorView {
  readonly id: string
  readonly label: string
  readonly address: string
  /** The locales that it translates into; null for all. */
  readonly locales: readonly string[] | null
  readonly enabled: boolean
  readonly createdAt: string
  readonly createdBy: string
}

/** The events that a rule can wait for. */
export const ruleEvents = ['entry.published', 'entry.saved'] as const
export type RuleEvent = (typeof ruleEvents)[number]

/** A translation that is ordered by itself after an event. */
export interface TranslationRuleView {
  readonly id: string
  readonly label: string
  readonly connector: string
  readonly event: RuleEvent
  readonly type: string
  /** The condition that the entry must meet; null for all of the type. */
  readonly where: string | null
  /** Null for all that the connector translates into. */
  readonly locales: readonly string[] | null
  /** Whether results are published; otherwise they are drafts that are ready for review. */
  readonly publish: boolean
  readonly enabled: boolean
  /** Why it did nothing the last time; null where it did. */
  readonly problem: string | null
  readonly createdAt: string
  /** Whose rights it has. */
  readonly actor: string
}

/** Entries that a connector translates into a locale. */
export interface OrderView {
  readonly id: string
  readonly connector: string
  /** The rule that ordered it; null where somebody did. */
  readonly rule: string | null
  readonly locale: string
  readonly publish: boolean
  readonly state: 'running' | 'done' | 'stopped'
  /** Numbers of entries. */
  readonly total: number
  readonly done: number
  readonly failed: number
  /** Numbers of texts, and of words in their sources, that were sent so far. */
  readonly texts: number
  readonly words: number
  readonly actor: string
  readonly createdAt: string
  readonly endedAt: string | null
}

/** An entry in an order. */
export interface OrderItemView {
  readonly position: number
  readonly entry: string
  readonly title: string
  /** `waiting`: to be sent. `sent`: its translation is waited for. */
  readonly state: 'waiting' | 'sent' | 'done' | 'failed' | 'stopped'
  /** Attempts that failed, since the last one that did not. */
  readonly attempts: number
  /** When it is sent or asked about next. */
  readonly nextAt: string | null
  readonly texts: number
  readonly words: number
  /** How many texts have which outcome. */
  readonly outcomes: Readonly<Partial<Record<IncomingOutcome, number>>>
  /** Why it failed, or its result. */
  readonly message: string
}
