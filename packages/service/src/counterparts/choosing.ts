import {
  localeTags,
  parentOf,
  parentsFirst,
  regionOf,
  titleOf,
  WisteriaError,
  type Caller,
  type CounterpartPlan,
} from '@wisteria/core'
import {
  binnedCounterparts,
  counterpartsIn,
  descendantsOf,
  workingCopiesOf,
  type Reader,
  type Site,
  type WorkingCopy,
} from '@wisteria/store'
import { onEntry, requireMay } from '../kernel/permission.js'
import { requireKnownRegion } from '../read/listQuery.js'
import { requireEntry } from '../workingCopies/entryView.js'

/** The entries that get counterparts, and the region where. */
export interface CounterpartOrder {
  readonly region: string
  readonly ids: readonly string[]
  /** Whether everything below them gets counterparts too. */
  readonly withChildren: boolean
}

/** The most entries that get counterparts at once, and how many a plan names. */
const maxEntries = 5_000
const maxNamed = 200

export interface ChosenEntries {
  /** Those that get a counterpart, parents first. */
  readonly create: readonly WorkingCopy[]
  readonly exist: number
  readonly refused: CounterpartPlan['refused']
}

const titleIn = (site: Site, { type, document }: WorkingCopy): string =>
  titleOf(type, document, [site.settings.defaultLocale, ...localeTags(site.settings)])

/**
 * Which entries of an order get a counterpart.
 * @throws WisteriaError `forbidden` where the caller may not write in the region, `notFound` with an id.
 */
export async function chooseForCounterparts(
  reader: Reader,
  site: Site,
  caller: Caller,
  order: CounterpartOrder,
): Promise<ChosenEntries> {
  requireKnownRegion(site, order.region)
  const copies = await chosenCopies(reader, site, order)
  const ids = copies.map(({ id }) => id)
  const existing = await counterpartsIn(reader, site, ids, order.region)
  const binned = await binnedCounterparts(reader, site, ids, order.region)
  const refused: { id: string; title: string; message: string }[] = []
  const create = copies.filter((copy) => {
    if (existing.has(copy.id)) return false
    const why = whyNone(copy, order.region, binned)
    if (why !== undefined) refused.push({ id: copy.id, title: titleIn(site, copy), message: why })
    return why === undefined
  })
  for (const { type } of create)
    requireMay(caller, 'entry.write', { ...onEntry({ type, region: order.region }), shared: true })
  return {
    create: parentsFirst(create.map((copy) => ({ copy, id: copy.id, parent: parentOf(copy.type, copy.document) }))).map(
      ({ copy }) => copy,
    ),
    exist: existing.size,
    refused,
  }
}

async function chosenCopies(reader: Reader, site: Site, order: CounterpartOrder): Promise<WorkingCopy[]> {
  const ids = new Set<string>()
  for (const asked of order.ids) {
    const { id } = await requireEntry(reader, site, asked)
    ids.add(id)
    if (order.withChildren) for (const child of await descendantsOf(reader, site, 'draft', id)) ids.add(child.id)
    if (ids.size > maxEntries)
      throw new WisteriaError('tooCostly', `At most ${maxEntries} entries get counterparts at once. Choose fewer.`)
  }
  const copies = await workingCopiesOf(reader, site, [...ids])
  return [...ids].flatMap((id) => copies.get(id) ?? [])
}

/** Why an entry gets no counterpart. */
function whyNone({ id, type, region, archivedAt }: WorkingCopy, wanted: string, binned: ReadonlySet<string>) {
  if (!type.regional) return `${type.label} entries belong to all regions.`
  if (regionOf(type, region) === wanted) return `It is in ${wanted} itself.`
  if (archivedAt !== null) return 'It is archived.'
  if (binned.has(id)) return `Its counterpart in ${wanted} lies in the bin: restore it, or delete it permanently.`
  return undefined
}

/** What an order would do, without doing it. */
export async function planCounterparts(
  reader: Reader,
  site: Site,
  caller: Caller,
  order: CounterpartOrder,
): Promise<CounterpartPlan> {
  const { create, exist, refused } = await chooseForCounterparts(reader, site, caller, order)
  return {
    region: order.region,
    create: create.length,
    entries: create.slice(0, maxNamed).map((copy) => ({
      id: copy.id,
      type: copy.type.name,
      title: titleIn(site, copy),
    })),
    exist,
    refused,
  }
}

/** The ids of the entries that get a counterpart. @throws WisteriaError `conflict` where none does, saying why. */
export async function requireSome(
  reader: Reader,
  site: Site,
  caller: Caller,
  order: CounterpartOrder,
): Promise<string[]> {
  const { create, refused } = await chooseForCounterparts(reader, site, caller, order)
  if (create.length === 0)
    throw new WisteriaError(
      'conflict',
      refused[0]?.message ?? `All of them have counterparts in ${order.region} already.`,
    )
  return create.map(({ id }) => id)
}
