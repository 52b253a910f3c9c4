import { WisteriaError } from '@wisteria/core'
import type { z } from 'zod'

/** The end of a page, as an opaque text. */
export const writeCursor = (parts: readonly unknown[]): string =>
  Buffer.from(JSON.stringify(parts)).toString('base64url')

/**
 * Where the page before ended.
 * @throws WisteriaError `badRequest` where a text is no cursor of that form.
 */
export function readCursor<Parts>(text: string, form: z.ZodType<Parts>): Parts {
  let content: unknown
  try {
    content = JSON.parse(Buffer.from(text, 'base64url').toString('utf8'))
  } catch {
    content = undefined
  }
  const read = form.safeParse(content)
  if (!read.success) throw new WisteriaError('badRequest', '`after` is not a cursor. Take `next` from the page before.')
  return read.data
}
