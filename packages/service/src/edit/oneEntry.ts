import { WisteriaError } from '@wisteria/core'
import { siteWithId, type Site, type Transaction, type WorkingCopy } from '@wisteria/store'
import type { Answer, SiteRequest } from '../route.js'
import { etagOf, requireEntry, viewEntry } from './present.js'

/** The entry in a transaction, when it still is at the version that `If-Match` names. */
export async function entryAt(
  request: SiteRequest<unknown, unknown>,
  transaction: Transaction,
  isRequired = false,
): Promise<{ site: Site; copy: WorkingCopy }> {
  const site = await siteWithId(transaction, request.site.id)
  const copy = await requireEntry(transaction, site, request.params['id']!)
  const wanted = request.headers['if-match']
  if (wanted === undefined && isRequired)
    throw new WisteriaError(
      'preconditionRequired',
      `Send \`If-Match\` with the ETag that you read; it is ${etagOf(copy)} now.`,
    )
  if (wanted !== undefined && !/^(\*|(W\/)?"[^"]*"(\s*,\s*(W\/)?"[^"]*")*)$/.test(wanted.trim()))
    throw new WisteriaError('badRequest', `\`If-Match\` names ETags in quotes: it is ${etagOf(copy)} now, not \`${wanted.slice(0, 60)}\`.`) // prettier-ignore
  if (wanted !== undefined && wanted !== '*' && !wanted.split(',').some((tag) => tag.trim() === etagOf(copy)))
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
