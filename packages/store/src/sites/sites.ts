import { emptyModel, type Model, type SiteSettings } from '@wisteria/core'
import type { CommittedReader, Reader, Transaction } from '../connection/reader.js'
import type { SiteRow } from '../tables/tables.js'

/** A site with its model and settings as they are in force. */
export interface Site {
  readonly id: string
  readonly name: string
  /** Whether the published edition may be read without a key. */
  readonly isOpen: boolean
  readonly model: Model
  readonly settings: SiteSettings
  readonly settingsVersion: number
  /** The number of the newest event. */
  readonly sequence: number
  /** As events and answers carry it: `<epoch>.<number>`. */
  readonly publicGeneration: string
  /** The shelf its rows are read from. */
  readonly shelf: string
  /** While another model or other settings are being adopted: the site as it will be. Whoever writes rows writes both. */
  readonly next?: Site
}

/** What an adoption is to put in force. */
export interface AdoptionTask {
  readonly what: 'model' | 'settings'
  readonly model: Model
  readonly settings: SiteSettings
  readonly shelf: string
  /** When it began: rows that it changes have changed then. */
  readonly at: string
}

/** Parsed models and settings by site and version; a version never changes, so neither does what is kept. */
const parsed = new Map<string, unknown>()
const maxParsed = 200

async function once<Value>(key: string, load: () => Promise<Value>): Promise<Value> {
  const known = parsed.get(key)
  if (known !== undefined) return known as Value
  const value = await load()
  if (parsed.size >= maxParsed) parsed.delete(parsed.keys().next().value!)
  parsed.set(key, value)
  return value
}

/** Sites as they were read by name, and after how many commits: whoever writes next need not read them again. */
const known = new WeakMap<CommittedReader, Map<string, { readonly commits: number; readonly site: Site }>>()

export async function siteNamed(reader: Reader, name: string): Promise<Site | undefined> {
  const committed = 'commits' in reader ? (reader as CommittedReader) : undefined
  const commits = committed?.commits
  const [row] = await reader.all<SiteRow>('select * from sites where name = ?', [name])
  const site = row && (await siteOf(reader, row))
  if (site && committed) {
    const own = known.get(committed) ?? new Map<string, { commits: number; site: Site }>()
    known.set(committed, own.set(site.id, { commits: commits!, site }))
  }
  return site
}

export async function siteWithId(reader: Reader, id: string): Promise<Site> {
  const database = 'unchanged' in reader ? (reader as Transaction).unchanged : undefined
  const kept = database && known.get(database)?.get(id)
  // Within a transaction nobody else writes: what was read since the last commit is what is there.
  if (kept && kept.commits === database.commits) return kept.site
  const [row] = await reader.all<SiteRow>('select * from sites where id = ?', [id])
  return siteOf(reader, row!)
}

async function siteOf(reader: Reader, row: SiteRow): Promise<Site> {
  const model =
    row.model_version === 0
      ? emptyModel
      : await once(`model ${row.id} ${row.epoch} ${row.model_version}`, () =>
          modelAt(reader, row.id, row.model_version),
        )
  const settings = await once(`settings ${row.id} ${row.epoch} ${row.settings_version}`, () =>
    settingsAt(reader, row.id, row.settings_version),
  )
  const site: Site = {
    id: row.id,
    name: row.name,
    isOpen: row.open === 1,
    model,
    settings,
    settingsVersion: row.settings_version,
    sequence: row.sequence,
    publicGeneration: `${row.epoch}.${row.generation}`,
    shelf: row.shelf,
  }
  if (row.adoption === null) return site
  const task = await once(`adoption ${row.adoption}`, () => adoptionTask(reader, row.adoption!))
  return { ...site, next: { ...site, model: task.model, settings: task.settings, shelf: task.shelf } }
}

async function adoptionTask(reader: Reader, job: string): Promise<AdoptionTask> {
  const [row] = await reader.all<{ task: string }>('select task from jobs where id = ?', [job])
  return JSON.parse(row!.task) as AdoptionTask
}

export async function modelAt(reader: Reader, site: string, version: number): Promise<Model> {
  const [row] = await reader.all<{ model: string }>('select model from models where site = ? and version = ?', [
    site,
    version,
  ])
  return JSON.parse(row!.model) as Model
}

async function settingsAt(reader: Reader, site: string, version: number): Promise<SiteSettings> {
  const [row] = await reader.all<{ settings: string }>('select settings from settings where site = ? and version = ?', [
    site,
    version,
  ])
  return JSON.parse(row!.settings) as SiteSettings
}
