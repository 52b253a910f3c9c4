import {
  Dependences,
  localeTags,
  negotiateLocale,
  typeWithId,
  WisteriaError,
  type Caller,
  type FieldOwner,
} from '@wisteria/core'
import { onlyEntryOf, rowOfEntry, type Edition, type EditionTableRow, type Site } from '@wisteria/store'
import type { Kernel } from '../kernel/kernel.js'
import type { Request } from '../kernel/route.js'
import { groupHeader } from './answers.js'
import type { Chosen } from './choosing.js'
import { allFields } from './fieldReads.js'
import { requireLocale } from './listQuery.js'
import { fieldReadsOf } from './fieldReads.js'

/** The row of the entry of a type that has exactly one. */
export async function onlyRowOf(
  kernel: Kernel,
  site: Site,
  edition: Edition,
  type: string,
  locale: string,
): Promise<EditionTableRow | undefined> {
  const id = await onlyEntryOf(kernel.database, site, type)
  return id === undefined ? undefined : rowOfEntry(kernel.database, site, edition, id, locale)
}

/** The locale of a request, and whether the reader's language chose it. */
export function localeFor(
  site: Site,
  asked: string | undefined,
  { headers }: Pick<Request, 'headers'>,
): { locale: string; isNegotiated: boolean } {
  if (asked !== 'auto') return { locale: requireLocale(site, asked), isNegotiated: false }
  const { settings } = site
  return {
    locale: negotiateLocale(headers['accept-language'], localeTags(settings), settings.defaultLocale),
    isNegotiated: true,
  }
}

/**
 * Delays an answer that would be older than an event. This process writes and reads the same file, so only a future generation can
 * be missing; generations of another history cannot be compared.
 * @throws WisteriaError `unavailable`
 */
export function requireGeneration(site: Site, asked: unknown): void {
  if (typeof asked !== 'string') return
  const [epoch, number] = asked.split('.')
  const [ours, newest] = site.publicGeneration.split('.')
  if (epoch === ours && Number(number) > Number(newest))
    throw new WisteriaError(
      'unavailable',
      `Generation ${asked.slice(0, 60)} has not been reached; this is ${site.publicGeneration}. Ask again in a moment.`,
    )
}

/** Notes the fields that a key reads: the selected ones, or all of the types. */
export function noteChosen(
  kernel: Kernel,
  site: Site,
  caller: Caller,
  owners: readonly FieldOwner[],
  { fields }: Chosen,
): void {
  if (caller.is !== 'key') return
  if (fields) for (const { owner, field, name } of fields) fieldReadsOf(kernel).note(site, caller, owner, field, name)
  else for (const { id, name } of owners) fieldReadsOf(kernel).note(site, caller, id, allFields, name)
}

/** Headers of an error: the dependencies of a cached 404. */
export const errorHeaders = new WeakMap<WisteriaError, Readonly<Record<string, string>>>()

/** An error with its cache groups, where it is about the published edition. @param on notes what it depends on. */
export function dependingOn(
  error: WisteriaError,
  site: Site,
  edition: Edition,
  on: (depends: Dependences) => void,
): WisteriaError {
  const depends = new Dependences()
  on(depends)
  if (edition === 'published')
    errorHeaders.set(error, {
      'Cache-Control': `${site.isOpen ? 'public' : 'private'}, no-cache`,
      'Cache-Groups': groupHeader(depends.groups()),
      'Wisteria-Generation': site.publicGeneration,
    })
  return error
}

export const nameOfType = (site: Site, row: Pick<EditionTableRow, 'type'>): string =>
  typeWithId(site.model, row.type)!.name
