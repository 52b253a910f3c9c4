import { makeId, WisteriaError, type Automation, type Data, type Scope } from '@wisteria/core'
import {
  insertRun,
  type NewRun,
  type Site,
  type StoredAutomation,
  type Transaction,
  type WorkingCopy,
} from '@wisteria/store'
import type { Kernel } from '../kernel/kernel.js'
import { requireEntry } from '../workingCopies/entryView.js'
import { entryData } from './scope.js'

/** The most entries that one run is started for together, and the most runs that are started at once. */
const mostEntries = 20_000
const mostRuns = 200

/** What an automation is started with by hand. */
export interface HandStart {
  readonly entries?: readonly string[] | undefined
}

/** What the runs of a start by hand begin with: one for the site or a list, or one for each entry. */
export async function scopesByHand(
  transaction: Transaction,
  site: Site,
  { automation, starts }: Automation,
  actor: string,
  at: string,
  { entries = [] }: HandStart,
): Promise<Scope[]> {
  if (starts.by !== 'hand')
    throw new WisteriaError(
      'conflict',
      `\`${automation}\` is not started by hand: it is started by ${saysStart[starts.by]}.`,
    )
  const ids = [...new Set(entries)]
  const trigger: Data = { at, actor }
  if (starts.on === 'site') {
    if (ids.length > 0)
      throw new WisteriaError('invalid', `\`${automation}\` is started for the site, and for no entries.`)
    return [{ trigger }]
  }
  if (ids.length === 0) throw new WisteriaError('invalid', `\`${automation}\` is started for entries: say which.`)
  const most = starts.on === 'list' ? mostEntries : mostRuns
  if (ids.length > most)
    throw new WisteriaError(
      'tooCostly',
      `\`${automation}\` is started for at most ${most} entries at once, and these are ${ids.length}.`,
    )
  const copies: WorkingCopy[] = []
  for (const id of ids) {
    const copy = await requireEntry(transaction, site, id)
    if (starts.types && !starts.types.includes(copy.type.name))
      throw new WisteriaError(
        'invalid',
        `\`${automation}\` is for entries of ${starts.types.join(', ')}; ${id} is of ${copy.type.name}.`,
      )
    copies.push(copy)
  }
  if (starts.on === 'list')
    return [{ trigger: { at, actor, entries: copies.map(({ id, type }) => ({ id, type: type.name })) } }]
  const scopes: Scope[] = []
  for (const copy of copies) scopes.push({ trigger, entry: await entryData(transaction, site, copy) })
  return scopes
}

const saysStart = { event: 'events', timetable: 'its timetable', address: 'messages to its address' } as const

/** What a run by an event would begin with, had it been about an entry as it is now. */
export async function scopeOfEntry(
  transaction: Transaction,
  site: Site,
  event: string,
  at: string,
  id: string,
): Promise<Scope> {
  const copy = await requireEntry(transaction, site, id)
  const entry = await entryData(transaction, site, copy)
  const { defaultLocale: locale } = site.settings
  return { entry, before: entry, after: entry, trigger: { event, at, locale, locales: [locale], fields: [] } }
}

/** A run that begins at once. */
export const newRun = (
  kernel: Kernel,
  { id, site, version }: StoredAutomation,
  actor: string,
  scope: Scope,
  key: string | null = null,
): NewRun => ({
  id: makeId(kernel.environment),
  site,
  automation: id,
  version,
  key,
  scope,
  cause: [],
  actor,
  createdAt: kernel.at,
})

/** Starts an automation by hand. @returns the ids of the runs. */
export async function startByHand(
  kernel: Kernel,
  transaction: Transaction,
  site: Site,
  automation: StoredAutomation,
  actor: string,
  start: HandStart,
): Promise<string[]> {
  if (!automation.isEnabled)
    throw new WisteriaError('conflict', `\`${automation.definition.automation}\` is switched off.`)
  const runs: string[] = []
  for (const scope of await scopesByHand(transaction, site, automation.definition, actor, kernel.at, start)) {
    const run = newRun(kernel, automation, actor, scope)
    await insertRun(transaction, run)
    runs.push(run.id)
  }
  return runs
}
