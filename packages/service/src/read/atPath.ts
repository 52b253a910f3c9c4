import { normalPath, WisteriaError } from '@wisteria/core'
import { draftAtPath, holderOf, rowOfEntry, type Edition, type EditionTableRow, type Site } from '@wisteria/store'
import type { Kernel } from '../kernel/kernel.js'

/** The row at a path: of the published edition by who has it, of drafts by the path that the working copy would have. */
export async function rowAt(
  kernel: Kernel,
  site: Site,
  edition: Edition,
  path: string,
  holder: { entry: string; locale: string } | undefined,
): Promise<EditionTableRow | undefined> {
  if (edition === 'published')
    return holder ? rowOfEntry(kernel.database, site, edition, holder.entry, holder.locale) : undefined
  // Two drafts may have one path until one of them is published: the one that owns it goes first.
  return draftAtPath(kernel.database, site, path, holder?.entry)
}

/** The entry at a path: its row, or where it has moved to, or that it was withdrawn. */
export async function standsAt(kernel: Kernel, site: Site, edition: Edition, path: string) {
  const holder = await holderOf(kernel.database, site.id, path)
  const row = await rowAt(kernel, site, edition, path, holder?.isCurrent ? holder : undefined)
  if (row) return { row }
  const now = holder ? await rowOfEntry(kernel.database, site, edition, holder.entry, holder.locale) : undefined
  return { holder, moved: now?.path == null ? undefined : now }
}

/** @throws WisteriaError that explains how a path begins. */
export function requirePath(text: string): string {
  const path = normalPath(text)
  if (path !== undefined) return path
  throw new WisteriaError('badRequest', '`path` must begin with `/`, such as `/nl/agenda/nachtwandeling`.')
}
