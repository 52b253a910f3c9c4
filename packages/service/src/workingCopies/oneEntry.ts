import { WisteriaError } from '@wisteria/core'
import { siteWithId, type Site, type Transaction, type WorkingCopy } from '@wisteria/store'
import type { Answer, SiteRequest } from '../kernel/route.js'
import { meetsIfMatch, requireIfMatch } from '../kernel/entityTags.js'
import { etagOf, requireEntry, viewEntry } from './entryView.js'

/** The entry in a transaction, when it still is at the version that `If-Match` names. */
export async function entryAt(
  request: SiteRequest<unknown, unknown>,
  transaction: Transaction,
  isRequired = false,
): Promise<{ site: Site; copy: WorkingCopy }> {
  const site = await siteWithId(transaction, request.site.id)
  const copy = await requireEntry(transaction, site, request.params['id']!)
  const wanted = request.headers['if-match']
  if (isRequired) requireIfMatch(wanted, etagOf(copy))
  if (!meetsIfMatch(wanted, etagOf(copy)))
    throw new WisteriaError(
      'stale',
      `The entry is at version ${copy.version} by now. Read it again before you change it.`,
      { extra: { version: copy.version } },
    )
  return { site, copy }
}

/** An entry as the answer to a change of it. */
export async function answerEntry(
  transaction: Transaction,
  site: Site,
  copy: WorkingCopy,
  more: { status?: number; body?: object } = {},
): Promise<Answer> {
  return {
    status: more.status ?? 200,
    body: { ...(await viewEntry(transaction, site, copy)), ...more.body },
    headers: { ETag: etagOf(copy) },
  }
}
