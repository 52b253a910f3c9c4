import {
  fieldNamed,
  localeTags,
  ordersAfter,
  parentOf,
  typeWithId,
  WisteriaError,
  type ContentType,
  type NamedEdit,
  type State,
  type TreeNode,
} from '@wisteria/core'
import {
  factExpression,
  literal,
  siteWithId,
  type DraftRow,
  type Reader,
  type Site,
  type Transaction,
  type WorkingCopy,
} from '@wisteria/store'
import { z } from 'zod'
import type { Kernel } from '../kernel/kernel.js'
import { route, type Route } from '../kernel/route.js'
import { answerEntry, entryAt } from '../workingCopies/oneEntry.js'
import { requireEntry } from '../workingCopies/present.js'
import { publishIfImmediate } from '../publishing/immediate.js'
import { saveEdits, type Author } from '../workingCopies/saving.js'

/** A larger forest is no page tree: it is found by lists. */
const maxNodes = 5000

const treeTypes = (site: Site): ContentType[] => site.model.types.filter((type) => type.parent !== undefined)

type NodeRow = Pick<DraftRow, 'entry' | 'type' | 'title' | 'path' | 'summary'> & {
  readonly parent: string | null
  readonly place: number | null
  readonly menu: number | null
}

/** Entries of types that have parents, in the order of readers: by their number, those without one last, then by name. */
async function nodesOf(reader: Reader, site: Site, below?: string | null): Promise<NodeRow[]> {
  const types = treeTypes(site)
  if (types.length === 0) return []
  // Ids come from the model and not from outside; each type has its own fields for the same thing. A type by itself has an
  // index of its own: whatever else a site holds is passed over.
  const fact = (type: ContentType, name: string | undefined): string => {
    const field = name === undefined ? undefined : fieldNamed(type, name)
    return field ? factExpression(field.id, 'd') : 'null'
  }
  const ofType = (type: ContentType): string =>
    `select d.entry, d.type, d.title, d.path, d.summary,
       (select r.target from draft_refs r where r.shelf = d.shelf and r.entry = d.entry and r.locale = d.locale and r.direct = 1
          and r.field = ${literal(fieldNamed(type, type.parent!)!.id)} limit 1) as parent,
       ${fact(type, type.order)} as place, ${fact(type, type.menu)} as menu
     from drafts d where d.shelf = ?1 and d.locale = ?2 and d.type = ${literal(type.id)} and d.summary <> 'archived'`
  const where = below === undefined ? '' : below === null ? 'where parent is null' : 'where parent = ?3'
  return reader.all<NodeRow>(
    `select * from (${types.map(ofType).join(' union all ')}) ${where}
     order by place is null, place, title, entry limit ${maxNodes + 1}`,
    [site.shelf, site.settings.defaultLocale, ...(typeof below === 'string' ? [below] : [])],
  )
}

async function treeOf(kernel: Kernel, site: Site) {
  const rows = await nodesOf(kernel.database, site)
  const page = rows.slice(0, maxNodes)
  const states = await kernel.database.all<Pick<DraftRow, 'entry' | 'locale' | 'state' | 'title'>>(
    'select entry, locale, state, title from drafts where shelf = ? and entry in (select value from json_each(?))',
    [site.shelf, JSON.stringify(page.map((row) => row.entry))],
  )
  const byEntry = new Map<string, typeof states>()
  for (const row of states) byEntry.set(row.entry, [...(byEntry.get(row.entry) ?? []), row])
  const order = localeTags(site.settings)
  const nodes = page.map((row): TreeNode => {
    const own = byEntry.get(row.entry) ?? []
    return {
      id: row.entry,
      type: typeWithId(site.model, row.type)?.name ?? '',
      title: row.title || (own.find((one) => one.title !== '')?.title ?? ''),
      path: row.path,
      parent: row.parent,
      order: row.place,
      inMenu: row.menu === null ? null : row.menu === 1,
      state: row.summary as State,
      states: Object.fromEntries(
        order.flatMap((locale) =>
          own.filter((one) => one.locale === locale).map((one) => [locale, one.state as State]),
        ),
      ),
    }
  })
  return { nodes, isComplete: rows.length <= maxNodes }
}

/** Puts an entry below another, after one of those that stand there already. Others are numbered anew where there is no room. */
async function place(
  kernel: Kernel,
  transaction: Transaction,
  site: Site,
  author: Author,
  copy: WorkingCopy,
  wanted: { readonly parent: string | null; readonly after: string | null },
): Promise<WorkingCopy> {
  const { type } = copy
  if (type.parent === undefined)
    throw new WisteriaError(
      'conflict',
      `${type.label} entries do not stand below others: the model says no \`parent\`.`,
    )
  const siblings = await nodesOf(transaction, site, wanted.parent)
  if (wanted.after !== null && !siblings.some((one) => one.entry === wanted.after && one.entry !== copy.id))
    throw new WisteriaError('conflict', 'What it is to follow does not stand there. Read the tree again.')
  const edits: NamedEdit[] = []
  if ((parentOf(type, copy.document) ?? null) !== wanted.parent)
    edits.push(
      wanted.parent === null
        ? { do: 'clear', at: [type.parent] }
        : { do: 'set', at: [type.parent], value: wanted.parent },
    )
  const isWhole = siblings
    .map((one) => typeWithId(site.model, one.type)!)
    .concat(type)
    .some((one) => one.order !== undefined && fieldNamed(one, one.order)!.options['integer'] === true)
  const numbers = ordersAfter(
    siblings.map((one) => ({ id: one.entry, order: one.place ?? undefined })),
    copy.id,
    wanted.after,
    isWhole,
  )
  const own = numbers.get(copy.id)
  if (type.order !== undefined && own !== undefined) edits.push({ do: 'set', at: [type.order], value: own })
  const save = async (of: WorkingCopy, some: readonly NamedEdit[]): Promise<WorkingCopy> => {
    const { copy: saved } = await saveEdits(
      kernel,
      transaction,
      await siteWithId(transaction, site.id),
      author,
      of,
      of.version,
      some,
    )
    return publishIfImmediate(kernel, transaction, site, author, saved)
  }
  const placed = edits.length > 0 ? await save(copy, edits) : copy
  if (type.order === undefined) return placed
  for (const [id, number] of numbers) {
    if (id === copy.id) continue
    const other = await requireEntry(transaction, site, id)
    if (other.type.order !== undefined) await save(other, [{ do: 'set', at: [other.type.order], value: number }])
  }
  return placed
}

export const treeRoutes: readonly Route[] = [
  route({
    method: 'GET',
    path: '/edit/v1/sites/{site}/tree',
    summary:
      'Entries of types that have parents, in the order of readers: below what each stands, whether menus show it, and its states.',
    permission: 'draft.read',
    handle: async ({ kernel, site }) => ({ body: await treeOf(kernel, site) }),
  }),
  route({
    method: 'POST',
    path: '/edit/v1/sites/{site}/entries/{id}/place',
    summary:
      'Puts an entry below `parent` (null for the root), `after` one that stands there (null to be the first). A save like any other: nothing becomes public by it.',
    permission: 'entry.write',
    body: z.strictObject({ parent: z.string().max(60).nullable(), after: z.string().max(60).nullable() }),
    handle: (request) =>
      request.write(async (transaction) => {
        const { site, copy } = await entryAt(request, transaction)
        const placed = await place(request.kernel, transaction, site, request, copy, request.body)
        return answerEntry(transaction, site, placed)
      }),
  }),
]
