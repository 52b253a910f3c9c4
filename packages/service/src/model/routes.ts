import {
  didYouMean,
  fileNameOf,
  inLocales,
  localeTags,
  makeId,
  readModelFiles,
  resolveModel,
  withNamesOf,
  WisteriaError,
  type Consequence,
  type Model,
  type ModelFile,
} from '@wisteria/core'
import {
  adoptedModel,
  insertProposal,
  modelHistory,
  pastModels,
  proposalOnSite,
  siteWithId,
  type AdoptedModel,
  type Reader,
  type Site,
} from '@wisteria/store'
import { z } from 'zod'
import { requireOtherSite } from '../access/otherSites.js'
import { jobView } from '../jobs/jobs.js'
import type { Kernel } from '../kernel/kernel.js'
import { route, type Route } from '../kernel/route.js'
import { beginAdoption, requireNoAdoption } from './adopting.js'
import { consequencesFor, regionalFaults } from './modelConsequences.js'
import { fieldReadsOf } from '../read/fieldReads.js'

const base = '/edit/v1/sites/{site}/model'

const files = z.array(z.strictObject({ name: z.string().min(1).max(300), text: z.string() })).max(2000)

/** The model that files would make of a site's. */
async function modelFrom(reader: Reader, site: Site, from: readonly ModelFile[]): Promise<Model> {
  const source = readModelFiles(from)
  const isOfBefore = [...source.types, ...source.blocks].some((file) => file.source.namesOf !== undefined)
  return resolveModel(
    source,
    site.model,
    {
      locales: localeTags(site.settings),
      defaultLocale: site.settings.defaultLocale,
      timeZone: site.settings.timeZone,
    },
    isOfBefore ? await pastModels(reader, site.id) : [],
  )
}

/**
 * The files of another site's model; with `types` only those, among the site's own.
 * @throws WisteriaError `notFound` for a site that the caller is no member of, or types that it does not have.
 */
async function filesFrom(
  kernel: Kernel,
  site: Site,
  actor: string,
  from: string,
  types: readonly string[] | undefined,
): Promise<readonly ModelFile[]> {
  const source = await requireOtherSite(kernel, site, actor, from)
  const filesOf = async (of: Site): Promise<readonly ModelFile[]> =>
    (await adoptedModel(kernel.database, of.id, of.model.version))?.files ?? []
  const theirs = (await filesOf(source)).map((file) => inLocales(file, localeTags(site.settings)))
  if (!types) return theirs
  const own = await filesOf(site)
  const [there, here] = [byType(theirs), byType(own)]
  const unknown = types.find((name) => !there.has(name))
  if (unknown !== undefined)
    throw new WisteriaError(
      'notFound',
      `\`${unknown}\` is no type of ${source.settings.label}.${didYouMean(unknown, [...there.keys()])}`,
    )
  return [...new Map([...here, ...types.map((name) => [name, there.get(name)!] as const)]).values()]
}

/** Model files by the names of their types and blocks; each is named after its own, since two sites may name theirs alike. */
function byType(files: readonly ModelFile[]): Map<string, ModelFile> {
  return new Map(
    files.map((file) => {
      const { types, blocks } = readModelFiles([file])
      const { source } = [...types, ...blocks][0]!
      return ['type' in source ? source.type : source.block, { ...file, name: fileNameOf(source) }]
    }),
  )
}

/** @throws WisteriaError `notFound` with the versions that exist. */
async function requireModel(reader: Reader, site: Site, version: number): Promise<AdoptedModel> {
  const adopted = Number.isInteger(version) ? await adoptedModel(reader, site.id, version) : undefined
  if (!adopted)
    throw new WisteriaError(
      'notFound',
      `There is no version \`${version}\` of the model; the newest is ${site.model.version}.`,
    )
  return adopted
}

/** So many models that have been in force are shown. */
const maxHistory = 500

export const modelRoutes: readonly Route[] = [
  route({
    method: 'GET',
    path: base,
    summary: 'The model in force, with its files as they were adopted.',
    permission: 'model.read',
    handle: async ({ kernel, site }) => {
      const adopted = await adoptedModel(kernel.database, site.id, site.model.version)
      return {
        body: {
          ...site.model,
          adoptedAt: adopted?.at ?? null,
          adoptedBy: adopted?.actor ?? null,
          files: adopted?.files ?? [],
        },
      }
    },
  }),
  route({
    method: 'GET',
    path: `${base}/history`,
    summary: 'The versions of the model, newest first: who adopted each and when, and what it changed.',
    permission: 'model.read',
    handle: async ({ kernel, site }) => {
      const history = await modelHistory(kernel.database, site.id, maxHistory)
      return {
        body: {
          models: history.map(({ version, at, actor, consequences }) => ({
            version,
            adoptedAt: at,
            adoptedBy: actor,
            consequences,
          })),
        },
      }
    },
  }),
  route({
    method: 'GET',
    path: `${base}/history/{version}`,
    summary: 'The files of one version of the model.',
    permission: 'model.read',
    handle: async ({ kernel, site, params }) => {
      const { version, at, actor, files } = await requireModel(
        kernel.database,
        site,
        Number(params['version']!.slice(0, 20)),
      )
      return { body: { version, adoptedAt: at, adoptedBy: actor, files } }
    },
  }),
  route({
    method: 'POST',
    path: `${base}/proposals`,
    insteadOfDryRun: 'It puts no model in force.',
    summary:
      'Compares model files with the model in force, or an earlier `version` of it, or the model of another site `from`: every consequence, and a proposal to adopt. `types`: only these types and blocks are taken from the other site, and the rest stays. Changes nothing.',
    permission: 'model.change',
    body: z.strictObject({
      files: files.optional(),
      version: z.int().min(1).optional(),
      from: z.string().max(120).optional(),
      types: z.array(z.string().max(64)).min(1).max(500).optional(),
    }),
    handle: async (request) => {
      const { kernel } = request
      const site = await siteWithId(kernel.database, request.site.id)
      requireNoAdoption(site)
      const { version, from, types } = request.body
      if ([version, from, request.body.files].filter((value) => value !== undefined).length !== 1)
        throw new WisteriaError(
          'badRequest',
          'Send either `files`, the `version` to go back to, or the site to take the model `from`.',
        )
      if (types && from === undefined)
        throw new WisteriaError('badRequest', '`types` go with `from`: they say which types are taken from that site.')
      const adopted = version === undefined ? undefined : await requireModel(kernel.database, site, version)
      // An earlier model is meant with everything that it named then, whatever happened to it since.
      const files = adopted
        ? adopted.files.map((file) => withNamesOf(file, adopted.version))
        : from === undefined
          ? request.body.files!
          : await filesFrom(kernel, site, request.actor, from, types)
      const model = await modelFrom(kernel.database, site, files)
      await fieldReadsOf(kernel).keep()
      // Stored content may be large, so it is read outside the transaction: other writes do not wait for it.
      const consequences = isSameModel(site.model, model)
        ? writtenAnew((await adoptedModel(kernel.database, site.id, site.model.version))?.files ?? [], files)
        : await consequencesFor(kernel.database, site, model)
      return request.write(async (transaction) => {
        const id = makeId(kernel.environment)
        await insertProposal(transaction, {
          id,
          site: site.id,
          baseVersion: site.model.version,
          model,
          files,
          consequences,
          at: kernel.at,
          actor: request.actor,
        })
        return {
          status: 201,
          body: {
            id,
            base: site.model.version,
            consequences,
            canBeAdopted: consequences.every((consequence) => consequence.weight !== 'refused'),
          },
        }
      })
    },
  }),
  route({
    method: 'POST',
    path: `${base}/proposals/{proposal}/adopt`,
    insteadOfDryRun: 'The proposal says what adopting it would change.',
    summary:
      'Adopts a proposal, against exactly the model it was compared with. With many entries it is a job: 202, with the job to poll.',
    permission: 'model.change',
    idempotent: true,
    handle: async (request) => {
      const answer = await request.write(async (transaction) => {
        const site = await siteWithId(transaction, request.site.id)
        requireNoAdoption(site)
        const proposal = await proposalOnSite(transaction, site.id, request.params['proposal']!)
        if (!proposal)
          throw new WisteriaError(
            'notFound',
            'There is no such proposal. Proposals are deleted when another model is adopted. Compare again.',
          )
        if (proposal.baseVersion !== site.model.version)
          throw new WisteriaError('stale', 'Another model was adopted since this proposal was compared. Compare again.')
        const { consequences, model, files } = proposal
        // Entries may have come into regions since.
        const refused = [...consequences, ...(await regionalFaults(transaction, site, model))]
          .filter((consequence) => consequence.weight === 'refused')
          .map((consequence) => `${consequence.place}: ${consequence.message}`)
          .filter((message, index, all) => all.indexOf(message) === index)
        if (refused.length > 0)
          throw new WisteriaError('conflict', `The model cannot be adopted: ${refused.join(' ')}`, {
            problems: refused.map((message) => ({ code: 'refused', message })),
          })
        const job = await beginAdoption(request.kernel, transaction, site, request.actor, {
          what: 'model',
          model,
          settings: site.settings,
          files,
          consequences,
        })
        return {
          status: job ? 202 : 200,
          body: {
            version: model.version,
            types: model.types.map((type) => type.name),
            blockTypes: model.blockTypes.map((type) => type.name),
            ...(job ? { job: jobView(job) } : {}),
          },
        }
      })
      request.kernel.jobs.wake()
      return answer
    },
  }),
]

/** Whether a proposed model equals the one in force, except for its version. */
const isSameModel = (before: Model, after: Model): boolean =>
  JSON.stringify({ ...before, version: 0 }) === JSON.stringify({ ...after, version: 0 })

/** Files that mean the same in another form: comments, order, line breaks. */
function writtenAnew(before: readonly ModelFile[], after: readonly ModelFile[]): Consequence[] {
  const texts = new Map(before.map((file) => [file.name, file.text]))
  const differing = after.filter((file) => texts.get(file.name) !== file.text).map((file) => file.name)
  if (differing.length === 0 && before.length === after.length) return []
  const message = 'Only how the files are written changes: nothing that is stored or read.'
  return [{ code: 'filesChanged', weight: 'plain', place: differing[0] ?? 'files', message }]
}
