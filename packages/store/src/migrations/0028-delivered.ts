/*
 * The last delivery of a queue that was accepted is found by an index: with many queues, looking through all deliveries of a webhook
 * took longer with each that was sent.
 */
export const name = '0028-delivered'

export const statements: readonly string[] = [
  `create index deliveries_delivered on deliveries (webhook, entry, sequence) where status = 'delivered'`,
]
