import { typeNamed, WisteriaError, type BoundListing, type ContentType, type Dependences } from '@wisteria/core'
import type { Edition, EditionTableRow, Site } from '@wisteria/store'
import type { Kernel } from '../kernel/kernel.js'
import { dependOnList } from './listDependences.js'
import { heldUntil, planList, regionFor, requireType, runList } from './listQuery.js'

/**
 * Plans a list that stands in an entry of the type `here`.
 * @param exactLocale whether entries are left out whose words are in another locale.
 * @throws WisteriaError where it cannot be run, as after a change of the
 * model.
 */
export function planListing(
  kernel: Pick<Kernel, 'now'>,
  site: Site,
  edition: Edition,
  locale: string,
  listing: BoundListing,
  here?: ContentType,
  exactLocale = false,
) {
  const { type, region: bound, ...asked } = listing
  const region = bound ?? regionFor(site, undefined)
  return planList(kernel, site, requireType(site, type), edition, { ...asked, locale, here, exactLocale, region })
}

/**
 * Fills a list, and notes what it depends on. One that no longer fits the model is empty: a page must not fail for it, and the next publish of the page
 * reports it.
 */
export async function fillListing(
  kernel: Pick<Kernel, 'now' | 'database'>,
  site: Site,
  edition: Edition,
  locale: string,
  listing: BoundListing,
  depends: Dependences,
  exactLocale = false,
): Promise<{ rows: readonly EditionTableRow[]; until: number }> {
  const type = typeNamed(site.model, listing.type)
  try {
    const plan = planListing(kernel, site, edition, locale, listing, undefined, exactLocale)
    const { rows } = await runList(kernel, plan)
    // Its entries are not printed with every byte: what orders them matters.
    dependOnList(depends, plan, false)
    return { rows, until: await heldUntil(kernel, plan) }
  } catch (error) {
    if (!(error instanceof WisteriaError)) throw error
    if (type) depends.type(type.name, [], locale)
    return { rows: [], until: Infinity }
  }
}
