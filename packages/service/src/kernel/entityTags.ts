import { WisteriaError } from '@wisteria/core'

/** @throws WisteriaError `preconditionRequired` where it must be sent. */
export function requireIfMatch(header: string | undefined, etag: string): asserts header is string {
  if (header === undefined)
    throw new WisteriaError('preconditionRequired', `Send \`If-Match\` with the ETag that you read; it is ${etag} now.`)
}

/**
 * Whether the version that a caller read is still the stored one (RFC 9110, 13.1.1). True without the header.
 * @throws WisteriaError `badRequest` where the header is not a list of ETags.
 */
export function meetsIfMatch(header: string | undefined, etag: string): boolean {
  if (header === undefined) return true
  const wanted = header.trim()
  if (!/^(\*|(W\/)?"[^"]*"(\s*,\s*(W\/)?"[^"]*")*)$/.test(wanted))
    throw new WisteriaError(
      'badRequest',
      `\`If-Match\` names ETags in quotes: it is ${etag} now, not \`${wanted.slice(0, 60)}\`.`,
    )
  return wanted === '*' || wanted.split(',').some((tag) => tag.trim() === etag)
}

/**
 * Whether a caller has an answer already, by `If-None-Match` (RFC 9110, 13.1.2). The comparison is weak, so that a compressed copy
 * counts as the same.
 */
export const meetsIfNoneMatch = (header: string | undefined, etag: string): boolean =>
  header === etag ||
  (header !== undefined &&
    header.split(',').some((part) => part.trim().replace(/^W\//, '') === etag || part.trim() === '*'))
