import { emptyModel, type Consequence, type Model, type ModelFile, type SiteSettings } from '@wisteria/core'
import { LRUCache } from 'lru-cache'
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
  /** The projection set its rows are read from. */
  readonly projection: string
  /** While another model or other settings are being adopted: the site with them. Every write of rows writes both. */
  readonly next?: Site
}

/** The model or settings of an adoption. */
export interface AdoptionTask {
  readonly what: 'model' | 'settings'
  readonly model: Model
  readonly settings: SiteSettings
  readonly projection: string
  /** When it began: rows that it changes have changed then. */
  readonly at: string
  /** The number of the first event since it began. */
  readonly sequence: number
  readonly actor: string
  /** Of a model: its files, and the consequences that were shown. */
  readonly files: readonly ModelFile[]
  readonly consequences: readonly Consequence[]
}

/** Parsed models and settings by site and version; a version never changes, so the cache is always current. */
const parsed = new LRUCache<string, object>({ max: 200 })

async function once<Value extends object>(key: string, load: () => Promise<Value>): Promise<Value> {
  const cached = parsed.get(key)
  if (cached !== undefined) return cached as Value
  const value = await load()
  parsed.set(key, value)
  return value
}

/** Sites by name, with the count of commits at reading: the next write need not read them again. */
const sites = new WeakMap<CommittedReader, Map<string, { readonly commits: number; readonly site: Site }>>()

export async function siteNamed(reader: Reader, name: string): Promise<Site | undefined> {
  const committed = 'commits' in reader ? (reader as CommittedReader) : undefined
  const commits = committed?.commits
  const [row] = await reader.all<SiteRow>('select * from sites where name = ?', [name])
  const site = row && (await siteOf(reader, row))
  if (site && committed) {
    const sitesOfReader = sites.get(committed) ?? new Map<string, { commits: number; site: Site }>()
    sites.set(committed, sitesOfReader.set(site.id, { commits: commits!, site }))
  }
  return site
}

export async function siteWithId(reader: Reader, id: string): Promise<Site> {
  const database = 'unchanged' in reader ? (reader as Transaction).unchanged : undefined
  const kept = database && sites.get(database)?.get(id)
  // Within a transaction nobody else writes, so a site read since the last commit is current.
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
    projection: row.projection,
  }
  if (row.adoption === null) return site
  const task = await once(`adoption ${row.adoption}`, () => adoptionTask(reader, row.adoption!))
  return { ...site, next: { ...site, model: task.model, settings: task.settings, projection: task.projection } }
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

/** The ids of all sites. */
export async function siteIds(reader: Reader): Promise<string[]> {
  return (await reader.all<{ id: string }>('select id from sites')).map(({ id }) => id)
}

/** The name and label of every site, by name. */
export async function siteLabels(reader: Reader): Promise<{ name: string; label: string }[]> {
  return reader.all(
    `select sites.name, json_extract(settings.settings, '$.label') as label from sites
     join settings on settings.site = sites.id and settings.version = sites.settings_version order by sites.name`,
  )
}

/** Creates a site without a model. */
export async function insertSite(
  transaction: Transaction,
  site: { readonly id: string; readonly name: string; readonly epoch: string; readonly settings: SiteSettings },
  at: string,
  actor: string,
): Promise<void> {
  await transaction.tables.sites.create({
    id: site.id,
    name: site.name,
    open: 0,
    model_version: 0,
    settings_version: 1,
    sequence: 0,
    generation: 0,
    epoch: site.epoch,
    created_at: at,
  })
  await transaction.tables.settings.create({
    site: site.id,
    version: 1,
    settings: JSON.stringify(site.settings),
    sequence: 0,
    at,
    actor,
  })
}

/** Opens the published edition of a site to readers without a key, or closes it. */
export async function changeOpen(transaction: Transaction, site: string, isOpen: boolean): Promise<void> {
  await transaction.run('update sites set open = ? where id = ?', [isOpen ? 1 : 0, site])
}

/** Stores settings as a new version, and puts them in force. */
export async function insertSettings(
  transaction: Transaction,
  site: string,
  version: number,
  settings: SiteSettings,
  sequence: number,
  at: string,
  actor: string,
): Promise<void> {
  await transaction.tables.settings.create({
    site,
    version,
    settings: JSON.stringify(settings),
    sequence,
    at,
    actor,
  })
  await transaction.run('update sites set settings_version = ? where id = ?', [version, site])
}

/** Stores a model as a new version, and puts it in force. */
export async function insertModel(
  transaction: Transaction,
  site: string,
  adopted: {
    readonly model: Model
    readonly files: readonly ModelFile[]
    readonly consequences: readonly Consequence[]
    readonly sequence: number
    readonly at: string
    readonly actor: string
  },
): Promise<void> {
  const { model, files, consequences, ...same } = adopted
  await transaction.tables.models.create({
    site,
    version: model.version,
    model: JSON.stringify(model),
    files: JSON.stringify(files),
    consequences: JSON.stringify(consequences),
    ...same,
  })
  await transaction.run('update sites set model_version = ? where id = ?', [model.version, site])
}

/** Records the job of a running adoption; null records that there is none, if it was the one of `only`. */
export async function markAdoption(
  transaction: Transaction,
  site: string,
  job: string | null,
  only?: string,
): Promise<void> {
  if (only === undefined) await transaction.run('update sites set adoption = ? where id = ?', [job, site])
  else await transaction.run('update sites set adoption = ? where id = ? and adoption = ?', [job, site, only])
}

/** Has a site read from another projection set; the adoption that built it is no longer under way. */
export async function switchProjection(transaction: Transaction, site: string, projection: string): Promise<void> {
  await transaction.run('update sites set projection = ?, adoption = null where id = ?', [projection, site])
}
