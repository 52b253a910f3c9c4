import { localeTags, makeId, typeWithId, withDefaults, WisteriaError, type Environment } from '@wisteria/core'
import type { Reader, Transaction } from '../connection/reader.js'
import {
  deleteEntriesOfType,
  forgetMerging,
  insertEntries,
  onlyEntryOf,
  type WorkingCopy,
} from '../entries/workingCopies.js'
import { Act, type PublicChange } from '../events/act.js'
import { writeDraftRows } from '../projections/editionWriting.js'
import { withdrawLocales } from '../publications/retiringLocales.js'
import {
  switchProjection,
  insertModel,
  insertSettings,
  siteWithId,
  type AdoptionTask,
  type Site,
} from '../sites/sites.js'
import { maxNamed, refuseLosses, type Progress } from './building.js'

/** One short transaction: after it everybody reads the next projection set. */
export async function switchTo(
  transaction: Transaction,
  environment: Environment,
  site: Site,
  next: Site,
  task: AdoptionTask,
  progress: Progress,
): Promise<void> {
  const touched = await touchedSince(transaction, site, task.at, task.sequence)
  await requireNothingLost(transaction, site, next, touched)
  const change = await differenceOf(transaction, site, next, progress, touched)
  await movePaths(transaction, site, next, progress, touched, task.at)
  const act = new Act(transaction, site, task.actor, environment)
  if (task.what === 'model') {
    await insertModel(transaction, site.id, {
      model: task.model,
      files: task.files,
      consequences: task.consequences,
      sequence: act.sequence,
      at: task.at,
      actor: task.actor,
    })
  } else {
    const { at, actor } = task
    await insertSettings(transaction, site.id, site.settingsVersion + 1, task.settings, act.sequence, at, actor)
    const stays = localeTags(task.settings)
    const gone = localeTags(site.settings).filter((tag) => !stays.includes(tag))
    await withdrawLocales(transaction, site, gone, { ...act, sequence: act.sequence })
  }
  await switchProjection(transaction, site.id, next.projection)
  if ((task.model.conversions?.length ?? 0) > (site.model.conversions?.length ?? 0))
    await forgetMerging(transaction, site.id)
  // Entries of a removed type are deleted: only types with exactly one entry can be removed while they have one.
  for (const type of site.model.types)
    if (!typeWithId(next.model, type.id)) await deleteEntriesOfType(transaction, site.id, type.id)
  await act.tell(
    task.what === 'model' ? 'model.adopted' : 'settings.changed',
    task.what === 'model' ? { modelVersion: task.model.version } : {},
    change,
  )
  await makeOnlyEntries(transaction, environment, await siteWithId(transaction, site.id), task.actor)
}

/** Values written while rows were built may not be convertible. */
async function requireNothingLost(
  transaction: Transaction,
  site: Site,
  next: Site,
  touched: readonly { readonly id: string; readonly type: string }[],
): Promise<void> {
  const typed = touched.flatMap(({ id, type: typeId }) => {
    const type = typeWithId(next.model, typeId)
    return type ? [{ id, type }] : []
  })
  await refuseLosses(transaction, site, next, typed)
}

/** Types with exactly one entry have it from the start. */
export async function makeOnlyEntries(
  transaction: Transaction,
  environment: Environment,
  site: Site,
  actor: string,
): Promise<void> {
  for (const type of site.model.types) {
    if (type.cardinality !== 'one' || (await onlyEntryOf(transaction, site, type.id)) !== undefined) continue
    const moment = { now: environment.now(), timeZone: site.settings.timeZone }
    const document = withDefaults(site.model, type, {}, site.settings, moment, environment.random)
    const act = new Act(transaction, await siteWithId(transaction, site.id), actor, environment)
    const entry = { id: makeId(environment), type, document, origins: {} }
    const [copy] = (await insertEntries(transaction, site, [entry], actor, act.at)) as [WorkingCopy]
    await writeDraftRows(transaction, site, type, copy, document, { layers: undefined, withdrawn: [] }, act.at)
    await act.tell('entry.created', { entry: { id: copy.id, type: type.name }, version: copy.version })
  }
}

/** The entries that were saved or published since an adoption began: their rows may be older than that. */
async function touchedSince(
  reader: Reader,
  site: Site,
  at: string,
  sequence: number,
): Promise<{ id: string; type: string }[]> {
  return reader.all<{ id: string; type: string }>(
    `select id, type from entries where site = ? and updated_at >= ?
     union select e.id, e.type from publications p join entries e on e.id = p.entry where p.site = ? and p.sequence >= ?`,
    [site.id, at, site.id, sequence],
  )
}

/**
 * The differences for published readers in another projection set.
 * @param progress the differences found while building; `touched`, the entries changed since, are compared again.
 */
async function differenceOf(
  reader: Reader,
  site: Site,
  next: Site,
  progress: Progress,
  touched: readonly { readonly id: string }[],
): Promise<PublicChange> {
  const suspects = [...new Set([...progress.changed, ...touched.map(({ id }) => id)])]
  if (suspects.length > maxNamed) return { entries: [], paths: [], all: true }
  const rows = await reader.all<{
    entry: string
    type: string
    projection: string
    locale: string
    doc: string
    path: string | null
  }>(
    'select entry, type, projection, locale, doc, path from published where projection in (?, ?) and entry in (select value from json_each(?)) order by entry',
    [site.projection, next.projection, JSON.stringify(suspects)],
  )
  const print = (entry: string, projection: string) =>
    JSON.stringify(
      rows
        .filter((row) => row.entry === entry && row.projection === projection)
        .map(({ locale, doc, path }) => [locale, doc, path])
        .sort(),
    )
  const changed = suspects.filter((entry) => print(entry, site.projection) !== print(entry, next.projection))
  const nameOf = (id: string) => (typeWithId(next.model, id) ?? typeWithId(site.model, id))?.name ?? ''
  const changedRows = rows.filter((row) => changed.includes(row.entry))
  return {
    entries: changed
      .sort()
      .map((id) => ({ id, type: nameOf(changedRows.find((row) => row.entry === id)?.type ?? '') })),
    paths: [...new Set(changedRows.flatMap((row) => row.path ?? []))].sort(),
  }
}

/** Whether touched entries have other paths in the next projection set. */
async function touchedMove(
  reader: Reader,
  site: Site,
  next: Site,
  touched: readonly { readonly id: string }[],
): Promise<boolean> {
  const rows = await reader.all<{ projection: string; entry: string; locale: string; path: string | null }>(
    'select projection, entry, locale, path from published where projection in (?, ?) and entry in (select value from json_each(?))',
    [site.projection, next.projection, JSON.stringify(touched.map(({ id }) => id))],
  )
  const on = (projection: string) =>
    JSON.stringify(
      rows
        .filter((row) => row.projection === projection)
        .map((row) => [row.entry, row.locale, row.path])
        .sort(),
    )
  return on(site.projection) !== on(next.projection)
}

/**
 * Records the paths that entries gain and lose by going over to another projection set.
 * @throws WisteriaError `conflict` that names a path which two entries would have.
 */
async function movePaths(
  transaction: Transaction,
  site: Site,
  next: Site,
  progress: Progress,
  touched: readonly { readonly id: string }[],
  at: string,
): Promise<void> {
  if (!progress.pathsMove && !(await touchedMove(transaction, site, next, touched))) return
  await transaction.run(
    `update paths set current = 0, since = ? where site = ? and current = 1
       and not exists (select 1 from published n where n.projection = ? and n.entry = paths.entry and n.locale = paths.locale and n.path = paths.path)`,
    [at, site.id, next.projection],
  )
  const [twice] = await transaction.all<{ path: string; one: string; other: string }>(
    `select path, min(title) as one, max(title) as other from published where projection = ? and path is not null group by path having count(*) > 1 limit 1`,
    [next.projection],
  )
  if (twice)
    throw new WisteriaError(
      'conflict',
      `“${twice.one}” and “${twice.other}” would both have the path ${twice.path}. Give one of them another slug first, or change the path pattern.`,
    )
  await transaction.run(
    `insert into paths (site, path, locale, entry, current, since)
       select ?, n.path, n.locale, n.entry, 1, ? from published n where n.projection = ? and n.path is not null
     on conflict (site, path) do update set locale = excluded.locale, entry = excluded.entry, current = 1,
       since = case when paths.current = 1 and paths.entry = excluded.entry and paths.locale = excluded.locale then paths.since else excluded.since end`,
    [site.id, at, next.projection],
  )
}
