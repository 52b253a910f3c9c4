import { localeTags, typeNamed, walk, WisteriaError, type Listing, type Problem } from '@wisteria/core'
import type { Site, WorkingCopy } from '@wisteria/store'
import { planListing } from '../read/listings.js'

/**
 * Lists of a working copy that cannot be filled: of a type that the field does not accept, or with a condition that does not fit.
 */
export function listingProblems(site: Site, copy: Pick<WorkingCopy, 'type' | 'document'>): Problem[] {
  const problems: Problem[] = []
  walk(site.model, copy.type, copy.document, localeTags(site.settings), (content, { field, pointer }) => {
    if (field.kind !== 'listing' || typeof content !== 'object' || content === null) return
    const listing = content as Listing
    const accepts = field.options['accepts'] as readonly string[]
    const type = typeNamed(site.model, listing.type)
    if (!type || !accepts.some((name) => typeNamed(site.model, name)?.id === type.id)) {
      const message = `${field.label} lists ${accepts.join(', ')}, not \`${listing.type}\`.`
      problems.push({ code: 'wrongType', pointer, message, parameters: { field: field.label, target: listing.type } })
      return
    }
    try {
      planListing({ now: 0 }, site, 'published', site.settings.defaultLocale, listing, copy.type)
    } catch (error) {
      if (!(error instanceof WisteriaError)) throw error
      problems.push({
        code: 'badListing',
        pointer,
        message: `${field.label}: ${error.message}`,
        parameters: { field: field.label },
      })
    }
  })
  return problems
}
