import { z } from 'zod'

/** An edit of a request: the action, and the place by names and ids. */
export const namedEdit = z.strictObject({
  do: z.enum(['set', 'clear', 'insert', 'move', 'remove']),
  at: z.array(z.string().max(100)).min(1, 'names a place: a field, then perhaps an id').max(40),
  locale: z.string().optional(),
  value: z.unknown().optional(),
  item: z.unknown().optional(),
  after: z.string().nullable().optional(),
})
