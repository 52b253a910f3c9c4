import type { AutomationStep, Data, Scope } from '@wisteria/core'
import { insertMany } from '../connection/inserting.js'
import type { Reader, Transaction } from '../connection/reader.js'
import { jsonOf, setColumns } from '../connection/updating.js'
import type { AutomationItemRow, AutomationRunRow } from '../tables/automationTables.js'

/** What a step did. */
export interface StepRecord {
  /** The number of the step, from 0. */
  readonly step: number
  readonly do: AutomationStep['do']
  /** ISO instant. */
  readonly at: string
  /** Whether its `if` was not true, so that it was skipped. */
  readonly isSkipped?: boolean
  /** Of the entry that it was about. */
  readonly entry?: string
  readonly title?: string
  /** Whether the entry is new, was changed, or had the values already. */
  readonly outcome?: 'created' | 'updated' | 'unchanged'
  /** Of the answer to a call. */
  readonly status?: number
  /** When it goes on, or what it scheduled happens. */
  readonly until?: string
}

/** How far something is that goes through steps: a run, or an item of it. */
export interface RunProgress {
  /** The number of the step that comes next. */
  readonly step: number
  /** The results of its steps, by their names. */
  readonly results: Readonly<Record<string, Data>>
  /** What its steps did, one after the other. */
  readonly log: readonly StepRecord[]
  /** How often the step was tried without an answer. */
  readonly tries: number
  /** When it goes on; null once it has ended. */
  readonly nextAt: string | null
  readonly message: string
  readonly finishedAt: string | null
}

export interface AutomationRun extends RunProgress {
  readonly id: string
  readonly site: string
  readonly automation: string
  /** Of the definition that it began with. */
  readonly version: number
  /** Only one run of the automation has it. */
  readonly key: string | null
  /** What its paths can begin with. */
  readonly scope: Scope
  /** The ids of the automations whose acts led to it. */
  readonly cause: readonly string[]
  readonly actor: string
  readonly state: AutomationRunRow['state']
  /** The step whose items are made; null while there is none. */
  readonly eachStep: number | null
  /** Of its items. */
  readonly total: number
  readonly done: number
  readonly failed: number
  readonly createdAt: string
}

/** An item of a list that a step goes through. */
export interface AutomationItem extends RunProgress {
  readonly run: string
  readonly position: number
  readonly eachStep: number
  readonly input: Data
  readonly title: string
  readonly entry: string | null
  readonly state: AutomationItemRow['state']
}

const progressFrom = (row: AutomationRunRow | AutomationItemRow): RunProgress => ({
  step: row.step,
  results: JSON.parse(row.results) as Record<string, Data>,
  log: JSON.parse(row.log) as StepRecord[],
  tries: row.tries,
  nextAt: row.next_at,
  message: row.message,
  finishedAt: row.finished_at,
})

const runFrom = (row: AutomationRunRow): AutomationRun => ({
  id: row.id,
  site: row.site,
  automation: row.automation,
  version: row.version,
  key: row.key,
  scope: JSON.parse(row.scope) as Scope,
  cause: JSON.parse(row.cause) as string[],
  actor: row.actor,
  state: row.state,
  ...progressFrom(row),
  eachStep: row.each_step,
  total: row.total,
  done: row.done,
  failed: row.failed,
  createdAt: row.created_at,
})

const itemFrom = (row: AutomationItemRow): AutomationItem => ({
  run: row.run,
  position: row.position,
  eachStep: row.each_step,
  input: JSON.parse(row.input) as Data,
  title: row.title,
  entry: row.entry,
  state: row.state,
  ...progressFrom(row),
})

/** A run before it has begun. */
export type NewRun = Pick<
  AutomationRun,
  'id' | 'site' | 'automation' | 'version' | 'key' | 'scope' | 'cause' | 'actor' | 'createdAt'
>

/** Stores a run that begins at once. @returns whether it is new: not where another has its key. */
export async function insertRun(transaction: Transaction, run: NewRun): Promise<boolean> {
  const count = await transaction.run(
    `insert into automation_runs (id, site, automation, version, key, scope, cause, actor, state, step, results, log, total, done, failed, tries,
       next_at, message, created_at)
     values (?1, ?2, ?3, ?4, ?5, ?6, ?7, ?8, 'running', 0, '{}', '[]', 0, 0, 0, 0, ?9, '', ?9) on conflict do nothing`,
    [
      run.id,
      run.site,
      run.automation,
      run.version,
      run.key,
      JSON.stringify(run.scope),
      JSON.stringify(run.cause),
      run.actor,
      run.createdAt,
    ],
  )
  transaction.touch('automations')
  return count > 0
}

/** What changes of a run. */
export type RunChange = Partial<
  Pick<AutomationRun, keyof RunProgress | 'state' | 'eachStep' | 'total' | 'done' | 'failed'>
>

export const changeRun = (transaction: Transaction, id: string, change: RunChange): Promise<void> => {
  transaction.touch('automations')
  return setColumns(transaction, 'automation_runs', id, {
    ...progressColumns(change),
    state: change.state,
    each_step: change.eachStep,
    total: change.total,
    done: change.done,
    failed: change.failed,
  })
}

const progressColumns = (change: Partial<RunProgress>) => ({
  step: change.step,
  results: jsonOf(change.results),
  log: jsonOf(change.log),
  tries: change.tries,
  next_at: change.nextAt,
  message: change.message,
  finished_at: change.finishedAt,
})

export async function runOnSite(reader: Reader, site: string, id: string): Promise<AutomationRun | undefined> {
  const [row] = await reader.all<AutomationRunRow>('select * from automation_runs where site = ? and id = ?', [
    site,
    id,
  ])
  return row && runFrom(row)
}

export async function runWithKey(reader: Reader, automation: string, key: string): Promise<AutomationRun | undefined> {
  const [row] = await reader.all<AutomationRunRow>('select * from automation_runs where automation = ? and key = ?', [
    automation,
    key,
  ])
  return row && runFrom(row)
}

/** The newest runs of an automation. */
export async function runsOf(
  reader: Reader,
  automation: string,
  { state, most }: { readonly state?: AutomationRun['state'] | undefined; readonly most: number },
): Promise<AutomationRun[]> {
  const rows = await reader.all<AutomationRunRow>(
    `select * from automation_runs where automation = ?1 ${state ? 'and state = ?3' : ''} order by created_at desc, id desc limit ?2`,
    state ? [automation, most, state] : [automation, most],
  )
  return rows.map(runFrom)
}

/** How many runs of each automation of a site have which state, and when the newest began. */
export const countRuns = (
  reader: Reader,
  site: string,
): Promise<{ automation: string; state: AutomationRun['state']; count: number; latest: string }[]> =>
  reader.all(
    `select automation, state, count(*) as count, max(created_at) as latest from automation_runs
     where site = ? group by automation, state`,
    [site],
  )

/** Open runs whose time has come: of each automation the first, unless it is skipped. */
export async function dueRuns(
  reader: Reader,
  at: string,
  most: number,
  skipped: readonly string[],
): Promise<AutomationRun[]> {
  const rows = await reader.all<AutomationRunRow>(
    `select r.* from automations a cross join automation_runs r on r.id = (
         select f.id from automation_runs f where f.automation = a.id and f.state = 'running' and f.next_at <= ?1
         order by f.created_at, f.id limit 1)
     where r.id not in (select value from json_each(?2)) order by r.next_at limit ?3`,
    [at, JSON.stringify(skipped), most],
  )
  return rows.map(runFrom)
}

/** When the next open run goes on, after a time. */
export async function nextRunAt(reader: Reader, after: string): Promise<string | undefined> {
  const [row] = await reader.all<{ at: string | null }>(
    `select min(next_at) as at from automation_runs where state = 'running' and next_at > ?`,
    [after],
  )
  return row?.at ?? undefined
}

/** Adds items, which begin at once. */
export async function insertItems(
  transaction: Transaction,
  items: readonly Pick<AutomationItem, 'run' | 'position' | 'eachStep' | 'input' | 'title' | 'entry'>[],
  at: string,
): Promise<void> {
  const rows = items.map(({ run, position, eachStep, input, title, entry }) => ({
    run,
    position,
    each_step: eachStep,
    input: JSON.stringify(input ?? null),
    title,
    entry,
    state: 'waiting',
    step: 0,
    results: '{}',
    log: '[]',
    tries: 0,
    next_at: at,
    message: '',
  }))
  await insertMany(transaction, 'automation_items', rows)
}

/** What changes of an item. */
export type ItemChange = Partial<Pick<AutomationItem, keyof RunProgress | 'state' | 'title' | 'entry'>>

export async function changeItem(
  transaction: Transaction,
  { run, position }: Pick<AutomationItem, 'run' | 'position'>,
  change: ItemChange,
): Promise<void> {
  const columns = { ...progressColumns(change), state: change.state, title: change.title, entry: change.entry }
  const set = Object.entries(columns).filter(([, value]) => value !== undefined) as [string, string | number | null][]
  await transaction.run(
    `update automation_items set ${set.map(([name]) => `${name} = ?`).join(', ')} where run = ? and position = ?`,
    [...set.map(([, value]) => value), run, position],
  )
}

/** Waiting items of a run whose time has come, in their order. */
export async function dueItems(reader: Reader, run: string, at: string, most: number): Promise<AutomationItem[]> {
  const rows = await reader.all<AutomationItemRow>(
    `select * from automation_items where run = ? and state = 'waiting' and next_at <= ? order by position limit ?`,
    [run, at, most],
  )
  return rows.map(itemFrom)
}

/** When the next waiting item of a run goes on. */
export async function nextItemAt(reader: Reader, run: string): Promise<string | undefined> {
  const [row] = await reader.all<{ at: string | null }>(
    `select min(next_at) as at from automation_items where run = ? and state = 'waiting'`,
    [run],
  )
  return row?.at ?? undefined
}

/** How many items of a step have which state. */
export async function countItems(
  reader: Reader,
  run: string,
  eachStep: number,
): Promise<Record<AutomationItem['state'], number>> {
  const rows = await reader.all<{ state: AutomationItem['state']; count: number }>(
    'select state, count(*) as count from automation_items where run = ? and each_step = ? group by state',
    [run, eachStep],
  )
  return { waiting: 0, done: 0, failed: 0, ...Object.fromEntries(rows.map(({ state, count }) => [state, count])) }
}

/** Items of a run from a position on. */
export async function itemsOf(
  reader: Reader,
  run: string,
  { from, most, state }: { readonly from: number; readonly most: number; readonly state?: string | undefined },
): Promise<AutomationItem[]> {
  const rows = await reader.all<AutomationItemRow>(
    `select * from automation_items where run = ?1 and position >= ?2 ${state ? 'and state = ?4' : ''} order by position limit ?3`,
    state ? [run, from, most, state] : [run, from, most],
  )
  return rows.map(itemFrom)
}

/** Lets the failed items of a run wait again: each goes on at the step that failed. @returns how many. */
export const reopenItems = (transaction: Transaction, run: string, at: string): Promise<number> =>
  transaction.run(
    `update automation_items set state = 'waiting', tries = 0, next_at = ?2, message = '', finished_at = null
     where run = ?1 and state = 'failed'`,
    [run, at],
  )

/** Lets a run, and all its items, go on at once: for a try, which waits for nothing. */
export async function resumeNow(transaction: Transaction, run: string, at: string): Promise<void> {
  await transaction.run('update automation_runs set next_at = ?2 where id = ?1 and next_at > ?2', [run, at])
  await transaction.run('update automation_items set next_at = ?2 where run = ?1 and next_at > ?2', [run, at])
}
