import {
  consequencesOf,
  localeTags,
  makeId,
  readModelFiles,
  resolveModel,
  typeWithId,
  WisteriaError,
  type Model,
  type ModelFile,
  type SiteSettings,
} from '@wisteria/core'
import {
  Act,
  adjustFactIndexes,
  publicHistoryOf,
  recordPaths,
  siteWithId,
  workingCopyOf,
  writeDraftRows,
  writePublicRows,
  type ProposalRow,
  type Reader,
  type Site,
  type Transaction,
} from '@wisteria/store'
import { z } from 'zod'
import type { Kernel } from '../kernel.js'
import { route, type Route } from '../route.js'

const base = '/edit/v1/sites/{site}/model'

const files = z.array(z.strictObject({ name: z.string().min(1).max(300), text: z.string() })).max(2000)

async function countEntries(reader: Reader, site: Site): Promise<Record<string, number>> {
  const rows = await reader.all<{ type: string; count: number }>(
    'select type, count(*) as count from entries where site = ? group by type',
    [site.id],
  )
  return Object.fromEntries(rows.map((row) => [row.type, row.count]))
}

const comparisonOf = async (reader: Reader, site: Site, model: Model) =>
  consequencesOf(site.model, model, await countEntries(reader, site))

/**
 * Puts another model or other settings in force for everything that is stored: rebuilds the rows of both editions,
 * adjusts indexes and records moved paths. @returns the entries whose public bytes changed, and all their paths.
 */
async function rebuildUnder(transaction: Transaction, site: Site, at: string) {
  const paths = async () =>
    new Map(
      (
        await transaction.all<{ entry: string; locale: string; path: string | null }>(
          'select entry, locale, path from published where site = ?',
          [site.id],
        )
      ).map((row) => [`${row.entry} ${row.locale}`, row.path]),
    )
  const pathsBefore = await paths()
  const entries = await transaction.all<{ id: string; type: string }>(
    'select id, type from entries where site = ? order by id',
    [site.id],
  )
  const changed = new Map<string, { id: string; type: string }>()
  // Paths hang on parents' paths, so rows are written again until no path moves; the depth of the tree bounds it.
  for (let moved = true, round = 0; moved && round < 50; round++) {
    moved = false
    for (const entry of entries) {
      const type = typeWithId(site.model, entry.type)
      if (!type) continue
      if (round > 0 && type.parent === undefined) continue
      const { layers } = await publicHistoryOf(transaction, entry.id)
      const wrote = await writePublicRows(transaction, site, type, entry.id, layers, at)
      if (wrote.locales.length > 0) changed.set(entry.id, { id: entry.id, type: type.name })
      moved ||= type.parent !== undefined && Object.keys(wrote.paths).length > 0
    }
  }
  await rewriteDrafts(transaction, site, entries, at)
  await adjustFactIndexes(transaction, site.id, site.model)
  const pathsAfter = await paths()
  const moves = new Map<string, Record<string, { from: string | null; to: string | null }>>()
  for (const key of new Set([...pathsBefore.keys(), ...pathsAfter.keys()])) {
    const [from, to] = [pathsBefore.get(key) ?? null, pathsAfter.get(key) ?? null]
    if (from === to) continue
    const [entry, locale] = key.split(' ') as [string, string]
    moves.set(entry, { ...moves.get(entry), [locale]: { from, to } })
  }
  await recordPaths(
    transaction,
    site,
    [...moves].map(([entry, own]) => ({ entry, paths: own })),
    at,
  )
  const affected = [...new Set([...pathsBefore.values(), ...pathsAfter.values()])].filter((path) => path !== null)
  return { entries: [...changed.values()], paths: affected.sort() }
}

/** Writes the rows of all drafts again, and those of types with parents until no path moves. */
async function rewriteDrafts(
  transaction: Transaction,
  site: Site,
  entries: readonly { readonly id: string; readonly type: string }[],
  at: string,
): Promise<void> {
  const draftPaths = async () =>
    JSON.stringify(await transaction.all('select path from drafts where site = ? order by entry, locale', [site.id]))
  for (let before = '', now = await draftPaths(), round = 0; before !== now && round < 50; round++) {
    before = now
    for (const { id, type } of entries) {
      if (round > 0 && typeWithId(site.model, type)?.parent === undefined) continue
      const copy = await workingCopyOf(transaction, site, id)
      if (copy)
        await writeDraftRows(
          transaction,
          site,
          copy.type,
          copy,
          copy.document,
          await publicHistoryOf(transaction, id),
          at,
        )
    }
    now = await draftPaths()
  }
}

/** Adopts a model that was compared with the one in force. */
async function adopt(
  kernel: Kernel,
  transaction: Transaction,
  site: Site,
  actor: string,
  model: Model,
  source: string,
): Promise<Model> {
  const consequences = await comparisonOf(transaction, site, model)
  const refused = consequences.filter((one) => one.weight === 'refused')
  if (refused.length > 0)
    throw new WisteriaError(
      'conflict',
      `The model cannot be adopted: ${refused.map((one) => `${one.place}: ${one.message}`).join(' ')}`,
      {
        problems: refused.map((one) => ({ code: one.code, message: `${one.place}: ${one.message}` })),
      },
    )
  const act = new Act(transaction, site, actor, kernel.surroundings)
  await transaction.tables.models.create({
    site: site.id, version: model.version, model: JSON.stringify(model), files: source, sequence: act.sequence, at: act.at, actor,
  }) // prettier-ignore
  await transaction.run('update sites set model_version = ? where id = ?', [model.version, site.id])
  await transaction.run('delete from proposals where site = ?', [site.id])
  const change = await rebuildUnder(transaction, { ...site, model }, act.at)
  await act.tell('model.adopted', { modelVersion: model.version }, change)
  return model
}

/** Settings in force from now on: appended, and everything stored rebuilt under them. */
export async function changeSettings(
  kernel: Kernel,
  transaction: Transaction,
  site: Site,
  actor: string,
  settings: SiteSettings,
): Promise<void> {
  const tags = localeTags(settings)
  const gone = localeTags(site.settings).find((tag) => !tags.includes(tag))
  if (gone !== undefined) {
    const [used] = await transaction.all('select 1 from publications p where p.site = ? and p.layer = ? limit 1', [
      site.id,
      gone,
    ])
    if (used)
      throw new WisteriaError(
        'conflict',
        `\`${gone}\` has been public in some entry, so it stays: its history would have nowhere to go.`,
      )
    const pattern = site.model.types.find((type) => type.path?.[gone] !== undefined)
    if (pattern)
      throw new WisteriaError(
        'conflict',
        `\`${gone}\` has a path pattern in the type ${pattern.name}. Adopt a model without it first.`,
      )
  }
  if (settings.defaultLocale !== site.settings.defaultLocale) {
    const [used] = await transaction.all('select 1 from publications where site = ? limit 1', [site.id])
    if (used) throw new WisteriaError('conflict', 'The default locale stays what it is once something has been public.')
  }
  const act = new Act(transaction, site, actor, kernel.surroundings)
  const version = site.settingsVersion + 1
  await transaction.tables.settings.create({
    site: site.id,
    version,
    settings: JSON.stringify(settings),
    sequence: act.sequence,
    at: act.at,
    actor,
  })
  await transaction.run('update sites set settings_version = ? where id = ?', [version, site.id])
  const change = await rebuildUnder(transaction, { ...site, settings }, act.at)
  await act.tell('settings.changed', {}, change)
}

export const modelRoutes: readonly Route[] = [
  route({
    method: 'GET',
    path: base,
    summary: 'The model in force, with its files as they were adopted.',
    permission: 'model.read',
    handle: async ({ kernel, site }) => {
      const [row] = await kernel.database.all<{ files: string; at: string; actor: string }>(
        'select files, at, actor from models where site = ? and version = ?',
        [site.id, site.model.version],
      )
      return {
        body: {
          ...site.model,
          adoptedAt: row?.at ?? null,
          adoptedBy: row?.actor ?? null,
          files: row ? (JSON.parse(row.files) as ModelFile[]) : [],
        },
      }
    },
  }),
  route({
    method: 'POST',
    path: `${base}/proposals`,
    summary:
      'Compares model files with the model in force: every consequence, and a proposal to adopt. Changes nothing.',
    permission: 'model.change',
    body: z.strictObject({ files }),
    handle: (request) =>
      request.write(async (transaction) => {
        const site = await siteWithId(transaction, request.site.id)
        const model = resolveModel(readModelFiles(request.body.files), site.model, localeTags(site.settings))
        const consequences = await comparisonOf(transaction, site, model)
        const id = makeId(request.kernel.surroundings)
        await transaction.tables.proposals.create({
          id, site: site.id, base_version: site.model.version, model: JSON.stringify(model), files: JSON.stringify(request.body.files),
          at: request.kernel.at, actor: request.actor,
        }) // prettier-ignore
        return {
          status: 201,
          body: {
            id,
            base: site.model.version,
            consequences,
            canBeAdopted: consequences.every((one) => one.weight !== 'refused'),
          },
        }
      }),
  }),
  route({
    method: 'POST',
    path: `${base}/proposals/{proposal}/adopt`,
    summary: 'Adopts a proposal, against exactly the model it was compared with.',
    permission: 'model.change',
    idempotent: true,
    handle: (request) =>
      request.write(async (transaction) => {
        const site = await siteWithId(transaction, request.site.id)
        const proposal = (await transaction.tables.proposals.findOne({
          where: { id: request.params['proposal']!, site: site.id },
          raw: true,
        })) as unknown as ProposalRow | null
        if (!proposal)
          throw new WisteriaError(
            'notFound',
            'There is no such proposal. A proposal goes when another model is adopted: compare again.',
          )
        if (proposal.base_version !== site.model.version)
          throw new WisteriaError('stale', 'Another model was adopted since this proposal was compared. Compare again.')
        const model = await adopt(
          request.kernel,
          transaction,
          site,
          request.actor,
          JSON.parse(proposal.model) as Model,
          proposal.files,
        )
        return {
          body: {
            version: model.version,
            types: model.types.map((type) => type.name),
            blockTypes: model.blockTypes.map((type) => type.name),
          },
        }
      }),
  }),
]
