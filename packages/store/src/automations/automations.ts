import type { Automation } from '@wisteria/core'
import type { Reader, Transaction } from '../connection/reader.js'
import { setColumns } from '../connection/updating.js'
import type { AutomationRow } from '../tables/automationTables.js'

/** An automation as it is stored. */
export interface StoredAutomation {
  readonly id: string
  readonly site: string
  /** Of the definition: counts its changes, from 1. */
  readonly version: number
  readonly definition: Automation
  readonly isEnabled: boolean
  /** Of its address; null where it has none. */
  readonly secret: string | null
  /** By name. */
  readonly secrets: Readonly<Record<string, string>>
  /** When its timetable starts it next, as an ISO instant. */
  readonly nextAt: string | null
  readonly createdAt: string
  readonly changedAt: string
  readonly changedBy: string
}

const automationFrom = (row: AutomationRow): StoredAutomation => ({
  id: row.id,
  site: row.site,
  version: row.version,
  definition: JSON.parse(row.definition) as Automation,
  isEnabled: row.enabled === 1,
  secret: row.secret,
  secrets: JSON.parse(row.secrets) as Record<string, string>,
  nextAt: row.next_at,
  createdAt: row.created_at,
  changedAt: row.changed_at,
  changedBy: row.changed_by,
})

const columnsOf = (automation: StoredAutomation) => ({
  name: automation.definition.automation,
  version: automation.version,
  definition: JSON.stringify(automation.definition),
  enabled: Number(automation.isEnabled),
  starts_by: automation.definition.starts.by,
  secret: automation.secret,
  secrets: JSON.stringify(automation.secrets),
  next_at: automation.nextAt,
  changed_at: automation.changedAt,
  changed_by: automation.changedBy,
})

export async function insertAutomation(transaction: Transaction, automation: StoredAutomation): Promise<void> {
  const { id, site, createdAt } = automation
  await transaction.tables.automations.create({ id, site, created_at: createdAt, ...columnsOf(automation) })
  await keepVersion(transaction, automation)
  transaction.touch('automations')
}

async function keepVersion(transaction: Transaction, { id, version, definition }: StoredAutomation): Promise<void> {
  await transaction.run(
    'insert into automation_versions (automation, version, definition) values (?, ?, ?) on conflict do nothing',
    [id, version, JSON.stringify(definition)],
  )
}

/** The definition that a run began with. */
export async function definitionOf(
  reader: Reader,
  { automation, version }: { readonly automation: string; readonly version: number },
): Promise<Automation> {
  const [row] = await reader.all<{ definition: string }>(
    'select definition from automation_versions where automation = ? and version = ?',
    [automation, version],
  )
  return JSON.parse(row!.definition) as Automation
}

/** Stores an automation under its id again. */
export async function changeAutomation(transaction: Transaction, automation: StoredAutomation): Promise<void> {
  await setColumns(transaction, 'automations', automation.id, columnsOf(automation))
  await keepVersion(transaction, automation)
  transaction.touch('automations')
}

/** Deletes an automation with its runs. */
export async function deleteAutomation(transaction: Transaction, id: string): Promise<void> {
  await transaction.run('delete from automations where id = ?', [id])
}

/** The automations of a site, by name. */
export async function automationsOf(reader: Reader, site: string): Promise<StoredAutomation[]> {
  const rows = await reader.all<AutomationRow>('select * from automations where site = ? order by name', [site])
  return rows.map(automationFrom)
}

export async function automationNamed(
  reader: Reader,
  site: string,
  name: string,
): Promise<StoredAutomation | undefined> {
  const [row] = await reader.all<AutomationRow>('select * from automations where site = ? and name = ?', [site, name])
  return row && automationFrom(row)
}

export async function automationWithId(reader: Reader, id: string): Promise<StoredAutomation | undefined> {
  const [row] = await reader.all<AutomationRow>('select * from automations where id = ?', [id])
  return row && automationFrom(row)
}

/** Those of a site that an event starts and that are switched on. */
export async function automationsFor(reader: Reader, site: string, event: string): Promise<StoredAutomation[]> {
  const rows = await reader.all<AutomationRow>(
    `select * from automations where site = ? and enabled = 1 and starts_by = 'event'
       and exists (select 1 from json_each(definition, '$.starts.events') where value = ?) order by name`,
    [site, event],
  )
  return rows.map(automationFrom)
}

/** Those whose timetable has come to a time. */
export async function timedAutomations(reader: Reader, at: string, most: number): Promise<StoredAutomation[]> {
  const rows = await reader.all<AutomationRow>(
    'select * from automations where next_at is not null and next_at <= ? and enabled = 1 order by next_at limit ?',
    [at, most],
  )
  return rows.map(automationFrom)
}

/** When a timetable starts an automation next. */
export async function nextTimedAt(reader: Reader): Promise<string | undefined> {
  const [row] = await reader.all<{ at: string | null }>(
    'select min(next_at) as at from automations where next_at is not null and enabled = 1',
  )
  return row?.at ?? undefined
}
