import type { ConnectorView, OrderItemView, OrderView, RuleEvent, TranslationRuleView } from '@wisteria/core'
import { segment, type Call } from './transport.js'
import type { WorkFilter } from './translations.js'

/** The part of a connector that can be changed. */
export interface ConnectorChange {
  readonly label?: string | undefined
  readonly address?: string | undefined
  /** Null for all locales. */
  readonly locales?: readonly string[] | null | undefined
  readonly enabled?: boolean | undefined
}

/** A rule that orders by itself. */
export interface NewTranslationRule {
  readonly label: string
  /** The id or the label of a connector. */
  readonly connector: string
  readonly event: RuleEvent
  readonly type: string
  /** The condition that an entry must meet. */
  readonly where?: string | undefined
  /** All that the connector translates into, when left out. */
  readonly locales?: readonly string[] | undefined
  /** Whether results are published; otherwise they are drafts that are ready for review. */
  readonly publish?: boolean | undefined
}

/** Translations to order: of all entries with texts to translate, where neither a filter nor `ids` is given. */
export interface NewOrder extends WorkFilter {
  /** The id or the label of a connector. */
  readonly connector: string
  readonly locale: string
  readonly ids?: readonly string[] | undefined
  readonly publish?: boolean | undefined
}

/** Machines and agencies that translate: connectors, orders, and rules that order. */
export class Ordering {
  readonly #call: <Body>(request: Call) => Promise<Body>

  constructor(call: <Body>(request: Call) => Promise<Body>) {
    this.#call = call
  }

  connectors = () => this.#call<{ readonly connectors: readonly ConnectorView[] }>({ path: connectors })
  /** Only this answer contains the secret that requests to it are signed with. */
  addConnector = (connector: { label: string; address: string; locales?: readonly string[] | undefined }) =>
    this.#call<ConnectorView & { readonly secret: string }>({ method: 'POST', path: connectors, body: connector })
  changeConnector = (connector: string, change: ConnectorChange) =>
    this.#call<ConnectorView>({ method: 'PATCH', path: `${connectors}/${segment(connector)}`, body: change })
  /** Removes a connector with its rules and its orders. */
  removeConnector = (connector: string) =>
    this.#call<void>({ method: 'DELETE', path: `${connectors}/${segment(connector)}` })

  rules = () => this.#call<{ readonly rules: readonly TranslationRuleView[] }>({ path: rules })
  addRule = (rule: NewTranslationRule) => this.#call<TranslationRuleView>({ method: 'POST', path: rules, body: rule })
  enableRule = (rule: string, enabled: boolean) =>
    this.#call<TranslationRuleView>({ method: 'PATCH', path: `${rules}/${segment(rule)}`, body: { enabled } })
  removeRule = (rule: string) => this.#call<void>({ method: 'DELETE', path: `${rules}/${segment(rule)}` })

  /** The newest orders. */
  orders = () => this.#call<{ readonly orders: readonly OrderView[] }>({ path: orders })
  order = (order: NewOrder) => this.#call<OrderView>({ method: 'POST', path: orders, body: order })
  /** An order, and how far it is. */
  orderWith = (id: string) => this.#call<OrderView>({ path: `${orders}/${segment(id)}` })
  /** The entries of an order, each with its state, in pages. */
  orderEntries = (id: string, after?: number) =>
    this.#call<{ readonly entries: readonly OrderItemView[]; readonly next: number | null }>({
      path: `${orders}/${segment(id)}/entries`,
      query: { after: after === undefined ? undefined : String(after) },
    })
  /** Sends the entries that failed once more. */
  retryOrder = (id: string) => this.#call<OrderView>({ method: 'POST', path: `${orders}/${segment(id)}/retry` })
  /** Translations that come back later are not taken. */
  stopOrder = (id: string) => this.#call<OrderView>({ method: 'POST', path: `${orders}/${segment(id)}/stop` })
}

const connectors = '/translations/connectors'
const rules = '/translations/rules'
const orders = '/translations/orders'
