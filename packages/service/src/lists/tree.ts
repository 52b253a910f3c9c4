import {
  fieldNamed,
  ordersAfter,
  parentOf,
  regionOf,
  typeWithId,
  WisteriaError,
  type NamedEdit,
  type State,
  type TreeNode,
} from '@wisteria/core'
import { siteWithId, standingsOf, treeRows, type Site, type Transaction, type WorkingCopy } from '@wisteria/store'
import { z } from 'zod'
import { byLocale, titleIn } from './standing.js'
import type { Kernel } from '../kernel/kernel.js'
import { route, type Route } from '../kernel/route.js'
import { answerEntry, entryAt } from '../workingCopies/oneEntry.js'
import { requireEntry } from '../workingCopies/entryView.js'
import { publishIfImmediate } from '../publishing/immediate.js'
import { saveEdits, type Author } from '../workingCopies/saving.js'

/** A larger forest is no page tree: it is found by lists. */
const maxNodes = 5000

async function treeOf(kernel: Kernel, site: Site) {
  const rows = await treeRows(kernel.database, site, maxNodes + 1)
  const page = rows.slice(0, maxNodes)
  const standings = await standingsOf(
    kernel.database,
    site,
    page.map((row) => row.entry),
  )
  const nodes = page.map((row): TreeNode => {
    const standing = standings.get(row.entry) ?? []
    return {
      id: row.entry,
      type: typeWithId(site.model, row.type)?.name ?? '',
      title: row.title || titleIn(standing),
      path: row.path,
      region: row.region,
      parent: row.parent,
      order: row.order,
      inMenu: row.isInMenu,
      state: row.summary as State,
      states: byLocale(site, standing).states,
    }
  })
  return { nodes, isComplete: rows.length <= maxNodes }
}

/** Places an entry below another, after one of its children. Siblings are numbered again where there is no room. */
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
    throw new WisteriaError('conflict', `${type.label} entries have no parents: the model names no \`parent\` field.`)
  // Each region has an order of its own, also where its pages are below one of another.
  const region = regionOf(type, copy.region)
  const siblings = (await treeRows(transaction, site, maxNodes + 1, wanted.parent)).filter(
    (sibling) => sibling.region === region,
  )
  if (wanted.after !== null && !siblings.some((sibling) => sibling.entry === wanted.after && sibling.entry !== copy.id))
    throw new WisteriaError('conflict', 'The entry in `after` is not below that parent. Read the tree again.')
  const edits: NamedEdit[] = []
  if ((parentOf(type, copy.document) ?? null) !== wanted.parent)
    edits.push(
      wanted.parent === null
        ? { do: 'clear', at: [type.parent] }
        : { do: 'set', at: [type.parent], value: wanted.parent },
    )
  const isWhole = siblings
    .map((sibling) => typeWithId(site.model, sibling.type)!)
    .concat(type)
    .some((type) => type.order !== undefined && fieldNamed(type, type.order)!.options['integer'] === true)
  const numbers = ordersAfter(
    siblings.map((sibling) => ({ id: sibling.entry, order: sibling.order ?? undefined })),
    copy.id,
    wanted.after,
    isWhole,
  )
  const current = numbers.get(copy.id)
  if (type.order !== undefined && current !== undefined) edits.push({ do: 'set', at: [type.order], value: current })
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
      'Entries of types that have parents, in the order of readers: the parent of each, whether menus show it, and its states.',
    permission: 'draft.read',
    handle: async ({ kernel, site }) => ({ body: await treeOf(kernel, site) }),
  }),
  route({
    method: 'POST',
    path: '/edit/v1/sites/{site}/entries/{id}/place',
    summary:
      'Places an entry below `parent` (null for the root), `after` a sibling (null to be the first). A save like any other: nothing becomes public by it.',
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
