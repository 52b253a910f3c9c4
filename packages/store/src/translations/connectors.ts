import type { RuleEvent } from '@wisteria/core'
import { insertMany } from '../connection/inserting.js'
import type { Reader, Transaction } from '../connection/reader.js'
import type { Site } from '../sites/sites.js'
import type { ConnectorRow, TranslationRuleRow } from '../tables/tables.js'

/** An address that translates: a machine, or an agency. */
export interface Connector {
  readonly id: string
  readonly site: string
  readonly label: string
  readonly address: string
  readonly secret: string
  /** The locales that it translates into; empty for all. */
  readonly locales: readonly string[]
  readonly isEnabled: boolean
  readonly createdAt: string
  readonly createdBy: string
}

/** A translation that is ordered by itself after an event. */
export interface TranslationRule {
  readonly id: string
  readonly site: string
  readonly connector: string
  readonly label: string
  /** The type of the event. */
  readonly event: RuleEvent
  /** The internal id of the type of entries. */
  readonly type: string
  /** Which entries; empty for all of the type. */
  readonly condition: string
  /** Empty for all that the connector translates into. */
  readonly locales: readonly string[]
  readonly publishes: boolean
  readonly isEnabled: boolean
  /** Why it did nothing the last time, where it could not be carried out. */
  readonly message: string
  readonly createdAt: string
  /** Whose rights it has. */
  readonly actor: string
}

const connectorFrom = (row: ConnectorRow): Connector => ({
  id: row.id,
  site: row.site,
  label: row.label,
  address: row.address,
  secret: row.secret,
  locales: JSON.parse(row.locales) as string[],
  isEnabled: row.enabled === 1,
  createdAt: row.created_at,
  createdBy: row.created_by,
})

/** The connectors of a site, oldest first. */
export async function connectorsOf(reader: Reader, site: Site): Promise<Connector[]> {
  const rows = await reader.all<ConnectorRow>('select * from connectors where site = ? order by created_at, id', [
    site.id,
  ])
  return rows.map(connectorFrom)
}

export async function connectorWithId(reader: Reader, id: string): Promise<Connector | undefined> {
  const [row] = await reader.all<ConnectorRow>('select * from connectors where id = ?', [id])
  return row && connectorFrom(row)
}

export async function insertConnector(transaction: Transaction, connector: Connector): Promise<void> {
  await insertMany(transaction, 'connectors', [
    {
      id: connector.id,
      site: connector.site,
      label: connector.label,
      address: connector.address,
      secret: connector.secret,
      locales: JSON.stringify(connector.locales),
      enabled: connector.isEnabled ? 1 : 0,
      created_at: connector.createdAt,
      created_by: connector.createdBy,
    },
  ])
}

/** Stores the part of a connector that can change: everything but its secret and its author. */
export async function changeConnector(
  transaction: Transaction,
  { id, label, address, locales, isEnabled }: Connector,
): Promise<void> {
  await transaction.run('update connectors set label = ?, address = ?, locales = ?, enabled = ? where id = ?', [
    label,
    address,
    JSON.stringify(locales),
    isEnabled ? 1 : 0,
    id,
  ])
}

/** Deletes a connector with its rules and its orders. */
export async function deleteConnector(transaction: Transaction, id: string): Promise<void> {
  await transaction.run('delete from connectors where id = ?', [id])
}

const ruleFrom = (row: TranslationRuleRow): TranslationRule => ({
  id: row.id,
  site: row.site,
  connector: row.connector,
  label: row.label,
  event: row.event as RuleEvent,
  type: row.type,
  condition: row.condition,
  locales: JSON.parse(row.locales) as string[],
  publishes: row.publish === 1,
  isEnabled: row.enabled === 1,
  message: row.message,
  createdAt: row.created_at,
  actor: row.actor,
})

/** The rules of a site, oldest first. */
export async function translationRulesOf(reader: Reader, site: Site): Promise<TranslationRule[]> {
  const rows = await reader.all<TranslationRuleRow>(
    'select * from translation_rules where site = ? order by created_at, id',
    [site.id],
  )
  return rows.map(ruleFrom)
}

export async function translationRuleWithId(reader: Reader, id: string): Promise<TranslationRule | undefined> {
  const [row] = await reader.all<TranslationRuleRow>('select * from translation_rules where id = ?', [id])
  return row && ruleFrom(row)
}

export async function insertTranslationRule(transaction: Transaction, rule: TranslationRule): Promise<void> {
  await insertMany(transaction, 'translation_rules', [
    {
      id: rule.id,
      site: rule.site,
      connector: rule.connector,
      label: rule.label,
      event: rule.event,
      type: rule.type,
      condition: rule.condition,
      locales: JSON.stringify(rule.locales),
      publish: rule.publishes ? 1 : 0,
      enabled: rule.isEnabled ? 1 : 0,
      message: rule.message,
      created_at: rule.createdAt,
      actor: rule.actor,
    },
  ])
}

/** Switches a rule off or on. */
export async function enableTranslationRule(transaction: Transaction, id: string, isEnabled: boolean): Promise<void> {
  await transaction.run('update translation_rules set enabled = ? where id = ?', [isEnabled ? 1 : 0, id])
}

/** Records why a rule did nothing; empty where it did. */
export async function noteTranslationRule(transaction: Transaction, id: string, message: string): Promise<void> {
  await transaction.run('update translation_rules set message = ? where id = ? and message <> ?', [
    message,
    id,
    message,
  ])
}

export async function deleteTranslationRule(transaction: Transaction, id: string): Promise<void> {
  await transaction.run('delete from translation_rules where id = ?', [id])
}

/** The actor of what a connector translated: events by it trigger no rule (migration 0020). */
export const actorOfConnector = (id: string): string => `connector:${id}`

/** An event that a rule has still to look at. */
export interface TranslationTrigger {
  readonly site: string
  readonly sequence: number
  readonly rule: string
  readonly entry: string
}

/** The oldest events that rules have still to look at. */
export const openTriggers = (reader: Reader, most: number, skipped: readonly string[]): Promise<TranslationTrigger[]> =>
  reader.all(
    `select * from translation_triggers where sequence || ' ' || rule not in (select value from json_each(?))
     order by site, sequence, rule limit ?`,
    [JSON.stringify(skipped), most],
  )

export async function deleteTranslationTrigger(
  transaction: Transaction,
  { site, sequence, rule }: TranslationTrigger,
): Promise<void> {
  await transaction.run('delete from translation_triggers where site = ? and sequence = ? and rule = ?', [
    site,
    sequence,
    rule,
  ])
}
