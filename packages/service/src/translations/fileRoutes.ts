import { incomingOutcomes, type ImportedText, type ImportView } from '@wisteria/core'
import { itemsOfTranslationImport, siteWithId, translationImportsOf, type TranslationImport } from '@wisteria/store'
import { z } from 'zod'
import { jobView } from '../jobs/jobs.js'
import { route, type Route } from '../kernel/route.js'
import { wholeNumber } from '../read/listQuery.js'
import { exportTranslations, fileFormats } from './exporting.js'
import type { ReturnedText } from './files/handedOut.js'
import { applyImport, readImport, requireImport, type DecidedText } from './importing.js'
import { requireTarget } from './reading.js'

const base = '/edit/v1/sites/{site}/translations'

/** The most files and texts that a list answers. */
const maxImports = 50
const maxTexts = 500

const viewImport = (made: TranslationImport): ImportView => ({
  id: made.id,
  locale: made.locale,
  format: made.format,
  name: made.name,
  state: made.state,
  entries: made.entries,
  outcomes: made.outcomes,
  job: made.job,
  actor: made.actor,
  createdAt: made.createdAt,
  appliedAt: made.appliedAt,
})

export const translationFileRoutes: readonly Route[] = [
  route({
    method: 'GET',
    path: `${base}/export`,
    summary:
      'A file for translators: XLIFF 2.1, CSV or XLSX. Of all entries with localized fields, of those that match `type`, `where` and `search`, or of `ids`, comma-separated. `units=todo`: only texts that are missing or outdated. `follow`: also of entries that they refer to, each once. `Entry-Count` says how many entries are read.',
    permission: 'draft.read',
    query: z.object({
      locale: z.string().max(40),
      format: z.enum(fileFormats).default('xliff'),
      type: z.string().max(64).optional(),
      where: z.string().max(10_000).optional(),
      search: z.string().max(500).optional(),
      ids: z.string().max(25_000).optional(),
      units: z.enum(['todo', 'all']).default('todo'),
      follow: wholeNumber(0, 3).default(0),
    }),
    handle: ({ kernel, site, query: { ids, locale, ...order } }) =>
      exportTranslations(kernel, site, {
        ...order,
        locale: requireTarget(site, locale),
        ids: ids?.split(',').map((id) => id.trim()),
      }),
  }),
  route({
    method: 'POST',
    path: `${base}/imports`,
    summary:
      'Reads a file with translations into `locale`: its bytes are the body. Nothing is changed; the answer says what would become of its texts, and `apply` does it.',
    permission: 'entry.translate',
    isFile: true,
    insteadOfDryRun: 'It changes no entry: it is the dry run of `apply`.',
    query: z.object({
      locale: z.string().max(40),
      format: z.enum(fileFormats).default('xliff'),
      name: z.string().max(200).default('a file'),
    }),
    handle: async (request) => {
      const { kernel, site, file, query } = request
      const order = { ...query, locale: requireTarget(site, query.locale) }
      return { status: 201, body: viewImport(await readImport(kernel, site, request, file, order)) }
    },
  }),
  route({
    method: 'GET',
    path: `${base}/imports`,
    summary: `The newest ${maxImports} files with translations that were read.`,
    permission: 'draft.read',
    handle: async ({ kernel, site }) => ({
      body: { imports: (await translationImportsOf(kernel.database, site, maxImports)).map(viewImport) },
    }),
  }),
  route({
    method: 'GET',
    path: `${base}/imports/{import}`,
    summary: 'A file with translations, and how many of its texts have which outcome.',
    permission: 'draft.read',
    handle: async ({ kernel, site, params }) => ({
      body: viewImport(await requireImport(kernel.database, site, params['import']!)),
    }),
  }),
  route({
    method: 'GET',
    path: `${base}/imports/{import}/texts`,
    summary:
      'The texts of a file, each with its line and its outcome, in the order of the file; those of some entries on a page. `outcomes`: only these, comma-separated.',
    permission: 'draft.read',
    query: z.object({
      outcomes: z.string().max(200).optional(),
      after: wholeNumber(0, 1_000_000_000).optional(),
    }),
    handle: async ({ kernel, site, params, query }) => {
      const made = await requireImport(kernel.database, site, params['import']!)
      const wanted = new Set<string>(query.outcomes?.split(',').map((name) => name.trim()) ?? incomingOutcomes)
      const texts: ImportedText[] = []
      let position = query.after ?? 0
      while (position < made.entries && texts.length < maxTexts) {
        const items = await itemsOfTranslationImport<ReturnedText, DecidedText>(kernel.database, made.id, position, 50)
        for (const item of items) {
          if (texts.length >= maxTexts) break
          position = item.position + 1
          item.decided.forEach(({ line, unit, outcome, message }, index) => {
            const { shown, text } = item.texts[index]!
            if (wanted.has(outcome))
              texts.push({
                line,
                entry: item.entry,
                title: item.title,
                unit,
                source: shown,
                text: text ?? null,
                outcome,
                message,
              })
          })
        }
        if (items.length === 0) break
      }
      return { body: { texts, next: position < made.entries ? position : null } }
    },
  }),
  route({
    method: 'POST',
    path: `${base}/imports/{import}/apply`,
    summary:
      'Takes the texts of a file that was read, as a job. What has changed since is decided anew for each text. `overwrite`: translations that were changed since the export are overwritten.',
    permission: 'entry.translate',
    idempotent: true,
    body: z.strictObject({ overwrite: z.boolean().default(false) }),
    handle: async (request) => {
      const answer = await request.write(async (transaction) => {
        const site = await siteWithId(transaction, request.site.id)
        const job = await applyImport(
          request.kernel,
          transaction,
          site,
          request,
          request.params['import']!,
          request.body.overwrite,
        )
        return { status: 202, body: jobView(job) }
      })
      request.kernel.jobs?.wake()
      return answer
    },
  }),
]
