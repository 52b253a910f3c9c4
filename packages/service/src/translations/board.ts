import {
  editFacts,
  isVariant,
  sourceOf,
  translatedLocales,
  typeWithId,
  WisteriaError,
  type TranslationBoard,
  type WorkPage,
  type WorkSum,
} from '@wisteria/core'
import {
  idsOf,
  translationWork,
  translationWorkIn,
  workEntries,
  workPosition,
  type Site,
  type StoredProgress,
  type StoredWork,
  type WorkPosition,
  type WorkQuery,
} from '@wisteria/store'
import type { Kernel } from '../kernel/kernel.js'
import { planList, requireType } from '../read/listQuery.js'
import { taskOf } from './reading.js'

/** The entries that a board or a list of work is limited to. */
export interface Among {
  readonly type?: string | undefined
  readonly where?: string | undefined
  readonly search?: string | undefined
}

/** The most entries that a condition may match on the board. */
const maxMatching = 100_000

/** The ids of the entries that match; undefined where everything does. */
async function idsAmong(
  kernel: Kernel,
  site: Site,
  { type: name, where, search }: Among,
): Promise<string[] | undefined> {
  if (where === undefined && search === undefined) return undefined
  const type = name === undefined ? undefined : requireType(site, name)
  const plan = planList(kernel, site, type, 'draft', { where, search, facts: editFacts })
  const ids = await idsOf(kernel.database, plan.query, maxMatching + 1)
  if (ids.length > maxMatching)
    throw new WisteriaError('tooCostly', `More than ${maxMatching} entries match. Use a narrower condition.`)
  return ids
}

const sumOf = ({ type: _, locale: __, ...sum }: StoredWork): WorkSum => sum

/** How far the translations of a site are. Without a condition it reads stored sums only. */
export async function boardOf(kernel: Kernel, site: Site, among: Among): Promise<TranslationBoard> {
  const ids = await idsAmong(kernel, site, among)
  const type = among.type === undefined ? undefined : requireType(site, among.type)
  const work = ids ? await translationWorkIn(kernel.database, site, ids) : await translationWork(kernel.database, site)
  const { settings, model } = site
  return {
    locales: translatedLocales(settings).map(({ tag, label }) => ({
      tag,
      label,
      source: sourceOf(settings, tag),
      variant: isVariant(settings, tag),
    })),
    types: model.types
      .filter((each) => (type === undefined || each === type) && work.some((row) => row.type === each.id))
      .map((each) => ({
        type: each.name,
        label: each.label,
        work: Object.fromEntries(
          settings.locales.flatMap(({ tag }) => {
            const row = work.find((candidate) => candidate.type === each.id && candidate.locale === tag)
            return row ? [[tag, sumOf(row)]] : []
          }),
        ),
      })),
  }
}

export interface AskedWork extends Among {
  readonly locale?: string | undefined
  readonly assignee?: string | undefined
  readonly isReady?: boolean | undefined
  readonly first: number
  readonly after?: string | undefined
}

/** A page of entries with work, oldest first. */
export async function workPage(kernel: Kernel, site: Site, asked: AskedWork): Promise<WorkPage> {
  const query: WorkQuery = {
    locale: asked.locale,
    type: asked.type === undefined ? undefined : requireType(site, asked.type).id,
    assignee: asked.assignee,
    isReady: asked.isReady,
    among: await idsAmong(kernel, site, asked),
  }
  const after = asked.after === undefined ? undefined : readPosition(asked.after)
  const rows = await workEntries(kernel.database, site, query, asked.first + 1, after)
  const page = rows.slice(0, asked.first)
  return {
    entries: page.map((row) => viewWork(site, row)),
    next: rows.length > page.length ? writePosition(workPosition(query, page.at(-1)!)) : null,
  }
}

const viewWork = (site: Site, row: StoredProgress): WorkPage['entries'][number] => ({
  entry: row.entry,
  type: typeWithId(site.model, row.type)?.name ?? '',
  title: row.title,
  locale: row.locale,
  progress: row.progress,
  since: row.since,
  task: taskOf(row),
})

const writePosition = (position: WorkPosition): string => Buffer.from(JSON.stringify(position)).toString('base64url')

function readPosition(text: string): WorkPosition {
  try {
    const position: unknown = JSON.parse(Buffer.from(text, 'base64url').toString())
    if (Array.isArray(position) && position.length === 3 && position.every((part) => typeof part === 'string'))
      return position as unknown as WorkPosition
  } catch {
    // Told below.
  }
  throw new WisteriaError('badRequest', '`after` is no position of this list. Take `next` from the page before.')
}
