import { merges } from '@wisteria/core'
import { z } from 'zod'
import { actor, instant, text, whole } from './editViews.js'

/** Webhooks and their deliveries, as schemas. */

export const webhookShape = {
  id: text,
  label: text,
  address: text,
  events: z.array(text).nullable(),
  where: text.nullable(),
  merge: z.enum(merges),
  headers: z.array(text).describe('The names of its own headers.'),
  secrets: z.array(z.strictObject({ id: text, createdAt: instant, until: instant.nullable() })),
  enabled: z.boolean(),
  failingSince: instant.nullable(),
  pausedAt: instant.nullable(),
  problem: text.nullable(),
  createdAt: instant,
  createdBy: actor,
}
export const backlogShape = { waiting: whole, oldest: instant.nullable(), failed: whole }
/** A CloudEvent that was, or would be, sent. */
const sentBody = z.record(z.string(), z.unknown())
const sentShape = {
  at: instant,
  status: whole.nullable(),
  took: whole,
  answer: text,
  error: text.nullable(),
  headers: z.record(z.string(), text),
}
export const webhookTest = z.strictObject({ body: sentBody, ...sentShape })
export const webhookPreview = z.strictObject({ body: sentBody, real: z.boolean() })
const deliveryShape = {
  id: text,
  sequence: whole,
  event: text,
  type: text,
  events: whole,
  status: z.enum(['waiting', 'delivered', 'failed']),
  createdAt: instant,
  nextAt: instant.nullable(),
}
export const delivery = z.strictObject({
  ...deliveryShape,
  attempts: z.array(z.strictObject({ id: text, ...sentShape })),
})
export const deliveryInFull = z.strictObject({
  ...deliveryShape,
  sequences: z.array(whole),
  attempts: z.array(z.strictObject({ id: text, ...sentShape, body: sentBody.nullable() })),
})
