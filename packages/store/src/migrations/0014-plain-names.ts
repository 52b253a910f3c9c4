/*
 * Plain names. Conditions write moments and facts of an entry without a sign (`now`, `entry.state`), and models write `indexed` for
 * `index`. An entry is withdrawn and reactivated, a schedule is cancelled, a delivery has failed, and the address of a preview has
 * a `{code}`. Models, proposals and saved views are rewritten here; revisions stay as they are and are read through
 * `upgradeDocument`, and rows of the editions with lists of the earlier form are marked as incomplete: the service writes them
 * again at its start.
 */
export const name = '0014-plain-names'

/** A column with texts replaced, in this order. */
const replaced = (column: string, pairs: readonly (readonly [string, string])[]): string =>
  pairs.reduce((text, [from, to]) => `replace(${text}, '${from}', '${to}')`, column)

const conditionNames = [
  ['$now', 'now'],
  ['$today', 'today'],
  ...['type', 'state', 'updated', 'published'].map((fact) => [`$${fact}`, `entry.${fact}`] as const),
] as const

const models = ['models', 'proposals'].map(
  (table) =>
    `update ${table} set model = ${replaced('model', [...conditionNames, ['"index":', '"indexed":']])},
     files = ${replaced('files', [...conditionNames, ['index: true', 'indexed: true'], ['index: false', 'indexed: false']])}`,
)

/** Names of events, also in the subscriptions of webhooks. */
const eventNames = [
  ['entry.unpublished', 'entry.withdrawn'],
  ['entry.unarchived', 'entry.reactivated'],
] as const

export const statements: readonly string[] = [
  ...eventNames.map(([from, to]) => `update events set type = '${to}' where type = '${from}'`),
  `update webhooks set events = ${replaced('events', eventNames)}`,
  `update deliveries set status = 'failed' where status = 'setAside'`,
  `update schedules set does = 'withdraw' where does = 'unpublish'`,
  `update schedules set state = 'cancelled' where state = 'calledOff'`,
  'drop index schedules_due',
  `update schedules set state = 'scheduled' where state = 'planned'`,
  `create index schedules_due on schedules (at) where state = 'scheduled'`,
  `update jobs set task = ${replaced('task', [
    ['"do":"unpublish"', '"do":"withdraw"'],
    ['"do":"unarchive"', '"do":"reactivate"'],
  ])}`,
  `update front_ends set enter = replace(enter, '{grant}', '{code}')`,
  ...models,
  `update views set asks = ${replaced('asks', conditionNames)}`,
  ...['published', 'drafts'].map(
    (table) => `update ${table} set content_locale = '' where doc like '%"where":"%$%' or doc like '%"sort":"%$%'`,
  ),
]
