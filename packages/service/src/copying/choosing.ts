import { localeTags, referencesOf, WisteriaError } from '@wisteria/core'
import { workingCopiesOf, type Reader, type Site, type WorkingCopy } from '@wisteria/store'
import type { Kernel } from '../kernel/kernel.js'
import { requireType } from '../read/listQuery.js'
import { entriesInScope } from '../translations/exporting.js'

/** Which content of another site is copied. */
export interface CopyOrder {
  /** The name of the site to copy from. */
  readonly from: string
  /** The names of types; all when left out. */
  readonly types?: readonly string[] | undefined
  /** A condition, where one type is named. */
  readonly where?: string | undefined
  readonly ids?: readonly string[] | undefined
  /** Whether entries that these refer to are copied too, however far. */
  readonly references: boolean
}

/** The most entries that are copied at once, and how many are read at once. */
const maxEntries = 20_000
const batch = 200

/** The ids of the entries to copy: those that are chosen, then those that they refer to. Archived ones are left out. */
export async function chooseEntries(kernel: Kernel, source: Site, order: CopyOrder): Promise<string[]> {
  const { types, where, ids } = order
  if (ids && (types || where !== undefined))
    throw new WisteriaError('badRequest', 'Send either `ids`, or `types` with a `where`.')
  if (where !== undefined && types?.length !== 1)
    throw new WisteriaError('badRequest', '`where` needs exactly one type in `types`.')
  const chosen: string[] = []
  if (ids) chosen.push(...(await entriesInScope(kernel, source, { ids })))
  else {
    const named = types ? types.map((name) => requireType(source, name)) : source.model.types
    for (const { name } of named) chosen.push(...(await entriesInScope(kernel, source, { type: name, where })))
  }
  const all = new Set<string>()
  let level = chosen
  while (level.length > 0) {
    const next = new Set<string>()
    for await (const copy of copiesOf(kernel.database, source, level)) {
      if (all.size >= maxEntries)
        throw new WisteriaError('tooCostly', `At most ${maxEntries} entries are copied at once. Choose fewer.`)
      all.add(copy.id)
      if (!order.references) continue
      for (const { to, target } of referencesOf(source.model, copy.type, copy.document, localeTags(source.settings)))
        if (to === 'entry') next.add(target)
    }
    level = [...next].filter((id) => !all.has(id))
  }
  return [...all]
}

/** Working copies of entries, a few at a time; those that are archived or gone are left out. */
export async function* copiesOf(reader: Reader, site: Site, ids: readonly string[]): AsyncGenerator<WorkingCopy> {
  for (let from = 0; from < ids.length; from += batch) {
    const some = ids.slice(from, from + batch)
    const copies = await workingCopiesOf(reader, site, some)
    for (const id of some) {
      const copy = copies.get(id)
      if (copy && copy.archivedAt === null) yield copy
    }
  }
}
