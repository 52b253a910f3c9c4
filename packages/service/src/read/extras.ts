import {
  composePublic,
  localesOfValues,
  localeTags,
  typeWithId,
  valueFreshness,
  type Fallbacks,
  type Origins,
} from '@wisteria/core'
import {
  originsOfLayers,
  pathsOfEntries,
  publicHistoriesOf,
  workingCopiesOf,
  type Edition,
  type EditionTableRow,
  type Site,
} from '@wisteria/store'
import { z } from 'zod'
import type { Kernel } from '../kernel/kernel.js'

const yesOrNo = z
  .enum(['true', 'false'])
  .transform((text) => text === 'true')
  .optional()

/** The parameters that ask for what is said of an entry besides its values. */
export const extraParameters = {
  exactLocale: yesOrNo,
  alternates: yesOrNo,
  valueLocales: yesOrNo,
  freshness: yesOrNo,
}

export interface AskedExtras {
  /** Only what is in the locale itself: no value, and no entry, of another one. */
  readonly exactLocale?: boolean | undefined
  /** Where the entry can be read in its own words, for `hreflang`. */
  readonly alternates?: boolean | undefined
  /** Which values come from another locale. */
  readonly valueLocales?: boolean | undefined
  /** Which values are missing, or made from an earlier source. */
  readonly freshness?: boolean | undefined
}

/** How an entry is read besides its row. */
export interface Extras {
  readonly exactLocale: boolean
  /** More members of its head. */
  readonly members: (row: EditionTableRow) => Readonly<Record<string, unknown>>
}

/** Whether a row is read where only a locale's own words are asked for. */
export const isAsked = (
  row: Pick<EditionTableRow, 'locale' | 'content_locale'>,
  { exactLocale }: AskedExtras,
): boolean => exactLocale !== true || row.content_locale === row.locale

export const noExtras: Extras = { exactLocale: false, members: () => ({}) }

/** Extras of entries whose values alone are looked at. */
export const exactly = ({ exactLocale = false }: AskedExtras): Extras =>
  exactLocale ? { ...noExtras, exactLocale } : noExtras

/**
 * What is asked for of some entries. Entries that these refer to have only the locales of their values.
 * @param rows of one locale.
 */
export async function extrasOf(
  kernel: Kernel,
  site: Site,
  edition: Edition,
  rows: readonly EditionTableRow[],
  { exactLocale = false, alternates, valueLocales, freshness }: AskedExtras,
): Promise<Extras> {
  if (!exactLocale && !alternates && !valueLocales && !freshness) return noExtras
  const paths = alternates ? await alternatesOf(kernel, site, edition, rows) : undefined
  const states = freshness ? await freshnessOfValues(kernel, site, edition, rows) : undefined
  return {
    exactLocale,
    members: (row) => ({
      ...(valueLocales
        ? { valueLocales: exactLocale ? {} : localesOfValues(JSON.parse(row.fallbacks) as Fallbacks) }
        : {}),
      ...(paths?.has(row.entry) ? { alternates: paths.get(row.entry) } : {}),
      ...(states?.has(row.entry) ? { freshness: states.get(row.entry) } : {}),
    }),
  }
}

/** Where entries can be read in their own words, by entry and in the order of the site's locales. */
async function alternatesOf(
  kernel: Kernel,
  site: Site,
  edition: Edition,
  rows: readonly EditionTableRow[],
): Promise<Map<string, { locale: string; path: string }[]>> {
  const ids = rows.map(({ entry }) => entry)
  const order = localeTags(site.settings)
  const found = (await pathsOfEntries(kernel.database, site, edition, ids)).sort(
    (a, b) => order.indexOf(a.locale) - order.indexOf(b.locale),
  )
  const byEntry = new Map<string, { locale: string; path: string }[]>(ids.map((id) => [id, []]))
  for (const { entry, locale, path, contentLocale } of found)
    if (path !== null && contentLocale === locale) byEntry.get(entry)!.push({ locale, path })
  return byEntry
}

/** The freshness of the values of entries: of the published edition, from what is public of source and translation alone. */
async function freshnessOfValues(
  kernel: Kernel,
  site: Site,
  edition: Edition,
  rows: readonly EditionTableRow[],
): Promise<Map<string, ReturnType<typeof valueFreshness>>> {
  const { model, settings } = site
  const states = new Map<string, ReturnType<typeof valueFreshness>>()
  const documents =
    edition === 'draft' ? await draftDocuments(kernel, site, rows) : await publicOnes(kernel, site, rows)
  for (const row of rows) {
    const found = documents.get(row.entry)
    if (!found) continue
    const type = typeWithId(model, row.type)!
    const { document, origins } = found
    const isSource = row.locale === settings.defaultLocale
    const printed = JSON.parse(row.doc) as Record<string, unknown>
    states.set(row.entry, isSource ? {} : valueFreshness(model, type, document, printed, origins, row.locale, settings))
  }
  return states
}

interface Compared {
  readonly document: Parameters<typeof valueFreshness>[2]
  readonly origins: Origins
}

async function draftDocuments(
  kernel: Kernel,
  site: Site,
  rows: readonly EditionTableRow[],
): Promise<Map<string, Compared>> {
  const copies = await workingCopiesOf(
    kernel.database,
    site,
    rows.map(({ entry }) => entry),
  )
  return new Map([...copies].map(([id, { document, origins = {} }]) => [id, { document, origins }]))
}

async function publicOnes(
  kernel: Kernel,
  site: Site,
  rows: readonly EditionTableRow[],
): Promise<Map<string, Compared>> {
  const entries = rows.map(({ entry, type }) => ({ id: entry, type: typeWithId(site.model, type)! }))
  const histories = await publicHistoriesOf(kernel.database, site, entries)
  const origins = await originsOfLayers(
    kernel.database,
    new Map([...histories].map(([id, { revisions }]) => [id, revisions])),
  )
  return new Map(
    entries.flatMap(({ id, type }): [string, Compared][] => {
      const layers = histories.get(id)?.layers
      if (!layers) return []
      return [[id, { document: composePublic(site.model, type, layers), origins: origins.get(id) ?? {} }]]
    }),
  )
}
