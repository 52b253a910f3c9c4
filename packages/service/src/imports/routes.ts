import { importMapping, rowOutcomes, WisteriaError, type ReadyMapping } from '@wisteria/core'
import {
  changeImport,
  clearImportFiles,
  deleteImport,
  deleteMapping,
  importRowsFrom,
  importWithId,
  importsOf,
  keepMapping,
  keptMappings,
  siteWithId,
  type EntryImport,
  type EntryImportRow,
} from '@wisteria/store'
import { z } from 'zod'
import { jobView } from '../jobs/jobs.js'
import { route, type Route, type SiteRequest } from '../kernel/route.js'
import { wholeNumber } from '../read/listQuery.js'
import { exportEntries, exportFormats } from './exporting.js'
import { failedRows } from './failedRows.js'
import { FilesOfImport, forgetImportFiles, receiveFiles } from './files.js'
import { beginImportJob, readyMapping } from './importJobs.js'
import { Lookups } from './lookups.js'
import { tableFormats, type TableSource } from './reading.js'
import { readImport, requireImport } from './receiving.js'
import { planRow } from './planRow.js'

const base = '/edit/v1/sites/{site}/imports'
const mappingsPath = '/edit/v1/sites/{site}/import-mappings'

/** So many imports of a site are listed. */
const maxImports = 50

const viewImport = ({ site: _, source, ...view }: EntryImport) => ({ ...view, source: source as TableSource })

const viewRow = ({ before: _, after: __, ...view }: EntryImportRow) => view

/** Where an import is changed, it must not be under way. */
function requireStill({ state }: EntryImport): void {
  if (state !== 'read' && state !== 'checked')
    throw new WisteriaError(
      'conflict',
      'Its rows have been imported, or are being worked on: the mapping cannot change any more.',
    )
}

const jobRoute = (
  path: string,
  summary: string,
  kind: 'importCheck' | 'import' | 'importUndo',
  insteadOfDryRun: string,
): Route =>
  route({
    method: 'POST',
    path: `${base}/{import}/${path}`,
    summary,
    permission: 'entry.write',
    idempotent: true,
    insteadOfDryRun,
    handle: async (request) => {
      const answer = await request.write(async (transaction) => {
        const site = await siteWithId(transaction, request.site.id)
        const job = await beginImportJob(
          request.kernel,
          transaction,
          site,
          request.actor,
          request.params['import']!,
          kind,
        )
        return { status: 202, body: jobView(job) }
      })
      request.kernel.jobs?.wake()
      return answer
    },
  })

/** The mapping of an import that is there. */
async function mappingOf({
  kernel,
  site,
  params,
}: SiteRequest<unknown, unknown>): Promise<{ record: EntryImport; mapping: ReadyMapping }> {
  const record = await requireImport(kernel.database, site, params['import']!)
  return { record, mapping: readyMapping(record, site) }
}

export const importRoutes: readonly Route[] = [
  route({
    method: 'GET',
    path: '/edit/v1/sites/{site}/export',
    summary:
      'Working copies of a type as a table, as a list would show them: CSV, XLSX or JSON Lines. `columns`: places such as `title:nl`, comma-separated; all, when left out. An import reads it back.',
    permission: 'draft.read',
    query: z.object({
      type: z.string().max(64),
      format: z.enum(exportFormats).default('csv'),
      columns: z.string().max(20_000).optional(),
      where: z.string().max(10_000).optional(),
      search: z.string().max(500).optional(),
      locale: z.string().max(40).optional(),
    }),
    handle: ({ kernel, site, query: { columns, ...order } }) =>
      exportEntries(kernel, site, { ...order, columns: columns?.split(',').map((place) => place.trim()) }),
  }),
  route({
    method: 'POST',
    path: base,
    summary:
      'Reads a table whose rows become entries: CSV, XLSX, JSON Lines or a JSON array, whose bytes are the body. Nothing is changed. Format, encoding and delimiter are guessed, and so is where each column goes; the answer says how. `mapping` names one that is kept.',
    permission: 'entry.write',
    isFile: true,
    insteadOfDryRun: 'It changes no entry: `check` says what each row would do.',
    query: z.object({
      name: z.string().max(200).default('a file'),
      type: z.string().max(64).optional(),
      mapping: z.string().max(80).optional(),
      format: z.enum(tableFormats).optional(),
      encoding: z.string().max(40).optional(),
      delimiter: z.string().length(1).optional(),
      sheet: z.string().max(200).optional(),
    }),
    handle: async ({ kernel, site, actor, file, query }) => ({
      status: 201,
      body: viewImport(await readImport(kernel, site, actor, file, query)),
    }),
  }),
  route({
    method: 'GET',
    path: base,
    summary: `The newest ${maxImports} imports of the site.`,
    permission: 'draft.read',
    handle: async ({ kernel, site }) => ({
      body: { imports: (await importsOf(kernel.database, site, maxImports)).map(viewImport) },
    }),
  }),
  route({
    method: 'GET',
    path: `${base}/{import}`,
    summary: 'An import: how its file was read, where its columns go, and how many rows have which outcome.',
    permission: 'draft.read',
    handle: async ({ kernel, site, params }) => ({
      body: viewImport(await requireImport(kernel.database, site, params['import']!)),
    }),
  }),
  route({
    method: 'DELETE',
    path: `${base}/{import}`,
    summary: 'Forgets an import: its rows, and what undoing it needs. Its entries stay.',
    permission: 'entry.write',
    handle: async (request) => {
      const id = request.params['import']!
      const answer = await request.write(async (transaction) => {
        const record = await requireImport(transaction, request.site, id)
        if (['checking', 'running', 'undoing'].includes(record.state))
          throw new WisteriaError('conflict', 'It is being worked on. Stop that first.')
        await deleteImport(transaction, record.id)
        return { status: 204 }
      })
      if (!(await importWithId(request.kernel.database, id))) await forgetImportFiles(request.kernel, id)
      return answer
    },
  }),
  route({
    method: 'PUT',
    path: `${base}/{import}/files`,
    summary:
      'Stores a ZIP file, whose bytes are the body, with the files that rows of the import name by path or by name. They become assets when the rows are imported. It replaces an earlier one.',
    permission: 'entry.write',
    isFile: true,
    insteadOfDryRun: 'It changes no entry.',
    handle: async ({ kernel, site, params, file }) => {
      const record = await requireImport(kernel.database, site, params['import']!)
      requireStill(record)
      const files = await receiveFiles(kernel, record.id, file)
      await kernel.write(async (transaction) => {
        requireStill(await requireImport(transaction, site, record.id))
        await changeImport(transaction, record.id, { files, state: 'read', outcomes: {} })
        await clearImportFiles(transaction, record.id)
      })
      return { body: viewImport({ ...record, files, state: 'read', outcomes: {} }) }
    },
  }),
  route({
    method: 'PUT',
    path: `${base}/{import}/mapping`,
    summary: 'Says where the columns of an import go, before it is imported. What was checked is forgotten.',
    permission: 'entry.write',
    body: importMapping,
    handle: (request) =>
      request.write(async (transaction) => {
        const { site, body } = request
        const record = await requireImport(transaction, site, request.params['import']!)
        requireStill(record)
        const changed = { mapping: body, state: 'read' as const, outcomes: {} }
        readyMapping({ ...record, ...changed }, site)
        await changeImport(transaction, record.id, changed)
        return { body: viewImport({ ...record, ...changed }) }
      }),
  }),
  route({
    method: 'GET',
    path: `${base}/{import}/preview`,
    summary: 'The first rows as they would become now, with what is wrong with them.',
    permission: 'draft.read',
    query: z.object({ first: wholeNumber(1, 50).default(5), after: wholeNumber(0, 1_000_000).default(0) }),
    handle: async (request) => {
      const { kernel, site, query } = request
      const { record, mapping } = await mappingOf(request)
      const rows = await importRowsFrom(kernel.database, record.id, query.after, query.first)
      const files = await FilesOfImport.open(kernel, record.id)
      const lookups = new Lookups(mapping, record.id, files.brings)
      files.close()
      await lookups.prepare(kernel.database, site, rows)
      const shown = []
      for (const row of rows) {
        const planned = await planRow(kernel, kernel.database, site, mapping, row, lookups)
        shown.push({ line: row.line, cells: row.cells, ...planned })
      }
      return { body: { rows: shown } }
    },
  }),
  jobRoute('check', 'Checks every row, as a job, and changes no entry.', 'importCheck', 'It changes no entry.'),
  jobRoute(
    'run',
    'Imports the rows, as a job. What goes wrong with a row leaves nothing of it behind. One that was stopped goes on where it was.',
    'import',
    '`check` says what each row would do.',
  ),
  jobRoute(
    'undo',
    'Undoes an import, as a job: what it created goes to the bin, and what it changed gets its values back, unless somebody has changed it since.',
    'importUndo',
    'Each row says whether it was changed since.',
  ),
  route({
    method: 'GET',
    path: `${base}/{import}/rows`,
    summary: 'The rows of an import with the result of each; after a check, with the result that it would have.',
    permission: 'draft.read',
    query: z.object({
      outcome: z.enum(rowOutcomes).optional(),
      after: wholeNumber(0, 1_000_000).default(0),
      first: wholeNumber(1, 500).default(100),
    }),
    handle: async ({ kernel, site, params, query }) => {
      const { id } = await requireImport(kernel.database, site, params['import']!)
      const { after, first, outcome } = query
      const rows = await importRowsFrom(kernel.database, id, after, first + 1, outcome)
      const next = rows.length > first ? rows[first]!.position : null
      return { body: { rows: rows.slice(0, first).map(viewRow), next } }
    },
  }),
  route({
    method: 'GET',
    path: `${base}/{import}/failed`,
    summary:
      'The rows that failed, as a file of the same form, with the reasons in a column of its own: mend it and import it again.',
    permission: 'draft.read',
    handle: async ({ kernel, site, params }) =>
      failedRows(kernel, await requireImport(kernel.database, site, params['import']!)),
  }),
  route({
    method: 'GET',
    path: mappingsPath,
    summary: 'The mappings that are kept, by name.',
    permission: 'draft.read',
    handle: async ({ kernel, site }) => ({ body: { mappings: await keptMappings(kernel.database, site) } }),
  }),
  route({
    method: 'PUT',
    path: `${mappingsPath}/{name}`,
    summary: 'Keeps a mapping by its name, for later files of the same form.',
    permission: 'entry.write',
    body: importMapping,
    handle: (request) =>
      request.write(async (transaction) => {
        const { kernel, site, actor, body, params } = request
        const name = params['name']!.trim()
        if (name === '' || name.length > 80)
          throw new WisteriaError('invalid', 'The name of a mapping has 1 to 80 characters.')
        const kept = { name, mapping: body, actor, at: kernel.at }
        await keepMapping(transaction, site, kept)
        return { body: kept }
      }),
  }),
  route({
    method: 'DELETE',
    path: `${mappingsPath}/{name}`,
    summary: 'Forgets a mapping.',
    permission: 'entry.write',
    handle: (request) =>
      request.write(async (transaction) => {
        const name = request.params['name']!
        if (!(await deleteMapping(transaction, request.site, name)))
          throw new WisteriaError('notFound', `There is no mapping “${name.slice(0, 80)}”.`)
        return { status: 204 }
      }),
  }),
]
