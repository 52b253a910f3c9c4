import {
  assetChanges,
  bulkActions,
  eventTypes,
  freshnesses,
  keyScopes,
  roles,
  states,
  type AssetChanged,
} from '@wisteria/core'
import { z } from 'zod'

/** The objects of the Edit API, as schemas. Those with an id appear once in its OpenAPI document. */

export const text = z.string()
export const instant = z.iso.datetime({ offset: true })
export const whole = z.int()
export const actor = z
  .string()
  .describe(
    '`account:…`, `key:…`, `automation:…`, `connector:…`, `grant:…`, `service`, or `elsewhere:…` with the name of somebody whose content was imported.',
  )
export const byLocale = <Value extends z.ZodType>(value: Value) => z.record(z.string(), value)
const named = z.strictObject({ id: text, title: text })
const typed = z.strictObject({ id: text, type: text, title: text })

/** Names that the document's schemas have, so that each is there once. */
export const schema = <Type extends z.ZodType>(id: string, type: Type): Type => type.meta({ id })

export const state = schema('State', z.enum(states))
/** Numbers of texts or words of translations. */
export const workCount = schema('WorkCount', z.strictObject({ missing: whole, outdated: whole, done: whole }))
const freshness = schema('Freshness', z.enum(freshnesses))
export const problem = schema(
  'ProblemPlace',
  z.strictObject({
    code: text,
    message: text,
    parameters: z
      .record(z.string(), z.union([text, z.number()]))
      .describe('The values in the message, by name, for its text in another language.')
      .optional(),
    pointer: text.optional(),
    file: text.optional(),
    line: whole.optional(),
    column: whole.optional(),
    locale: text.optional(),
  }),
)
export const values = z.record(z.string(), z.unknown()).describe('By field, as `WrittenValue` says.')

const change = schema(
  'Change',
  z.strictObject({
    pointer: text,
    field: text,
    fieldId: text,
    label: text,
    kind: text,
    locale: text.nullable(),
    before: z.unknown(),
    after: z.unknown(),
  }),
)
export const names = byLocale(text).describe('The titles of entries and the names of assets in the values, by id.')
export const check = schema(
  'PublishCheck',
  z.strictObject({ locales: z.array(text), problems: z.array(problem), changes: z.array(change), names }),
)

export const entryShape = {
  id: text,
  type: text,
  title: text,
  version: whole,
  revision: whole,
  createdAt: instant,
  createdBy: actor,
  updatedAt: instant,
  updatedBy: actor,
  region: text.nullable(),
  state,
  states: byLocale(state),
  freshness: byLocale(freshness),
  paths: byLocale(text),
  values,
}
export const entry = schema('Entry', z.strictObject(entryShape))

export const listedShape = {
  id: text,
  type: text,
  title: text,
  path: text.nullable(),
  region: text.nullable(),
  version: whole,
  state,
  states: byLocale(state),
  freshness: byLocale(freshness),
  columns: z.record(z.string(), z.unknown()).optional(),
  updatedAt: instant,
  updatedBy: actor,
}

const usedBy = schema(
  'UsedBy',
  z.strictObject({
    id: text,
    type: text,
    title: text,
    inWorkingCopy: z.boolean(),
    inPublic: z.boolean(),
    inBin: z.boolean(),
    inRevisions: z.array(whole),
  }),
)
export const usage = z.strictObject({ usedBy: z.array(usedBy) })

const together = z.strictObject({
  id: text,
  type: text,
  title: text,
  locales: z.array(text),
  problems: z.array(problem),
})
export const publishConsequences = schema(
  'PublishConsequences',
  z.strictObject({
    version: whole,
    locales: z.array(text),
    problems: z.array(problem),
    changes: z.array(change),
    names,
    paths: byLocale(z.strictObject({ from: text.nullable(), to: text.nullable() })),
    hiddenReferences: z.array(typed),
    translations: byLocale(workCount),
    outdates: byLocale(whole),
    affects: z.array(z.strictObject({ id: text, type: text, title: text, because: z.enum(['refers', 'below']) })),
    together: z.array(together),
  }),
)
export const withdrawalConsequences = schema(
  'WithdrawalConsequences',
  z.strictObject({
    version: whole,
    publicLocales: z.array(text),
    locales: z.array(text),
    paths: byLocale(text),
    children: z.array(named),
    dangling: z.array(usedBy),
  }),
)

export const revisionShape = {
  number: whole,
  version: whole,
  author: actor,
  createdAt: instant,
  updatedAt: instant,
  sealedAt: instant.nullable(),
  publicIn: z.array(text),
}
export const revision = schema('Revision', z.strictObject(revisionShape))
export const point = z.union([whole, z.enum(['public', 'working'])])
const differenceShape = {
  how: z.enum(['added', 'removed', 'changed', 'moved']),
  at: z.array(text),
  labels: z.array(text),
  kind: text,
  fieldId: text,
  locale: text.nullable(),
  before: z.unknown(),
  after: z.unknown(),
  words: z.array(z.strictObject({ is: z.enum(['same', 'added', 'removed']), text })).optional(),
  from: whole.optional(),
  to: whole.optional(),
}
export const difference = schema('Difference', z.strictObject(differenceShape))
export const sourceChanges = schema(
  'SourceChanges',
  z.strictObject({
    source: z.strictObject({ id: text, title: text, region: text, version: whole }),
    revision: whole,
    changes: z.array(z.strictObject({ ...differenceShape, own: z.array(difference) })),
    lost: z.array(difference),
    names,
  }),
)

const counterpart = schema(
  'Counterpart',
  z.strictObject({
    id: text,
    type: text,
    region: text,
    title: text,
    path: text.nullable(),
    state,
    of: text.nullable(),
    behind: z.boolean(),
  }),
)
export const entryCounterparts = schema(
  'EntryCounterparts',
  z.strictObject({
    region: text.nullable(),
    source: counterpart.nullable(),
    regions: z.array(z.strictObject({ name: text, label: text, entry: counterpart.nullable() })),
  }),
)
export const counterpartList = z.strictObject({
  families: z.array(z.strictObject({ first: counterpart, regions: z.record(text, counterpart) })),
  next: whole.nullable(),
})
export const counterpartPlan = z.strictObject({
  region: text,
  create: whole,
  entries: z.array(z.strictObject({ id: text, type: text, title: text })),
  exist: whole,
  refused: z.array(z.strictObject({ id: text, title: text, message: text })),
})
export const siteRegions = z.strictObject({
  regions: z.array(z.strictObject({ name: text, label: text, entries: whole })),
  types: z.array(text),
})
export const gone = schema(
  'GoneValue',
  z.strictObject({ label: text, pointer: text, kind: text, locale: text.nullable(), value: z.unknown() }),
)

export const settingsShape = {
  label: text,
  defaultLocale: text,
  locales: z.array(
    z.strictObject({ tag: text, label: text, fallback: z.array(text), variant: z.boolean().optional() }),
  ),
  timeZone: text,
  regions: z.array(z.strictObject({ name: text, label: text })).optional(),
}
export const site = schema(
  'Site',
  z.strictObject({
    name: text,
    ...settingsShape,
    open: z.boolean(),
    modelVersion: whole,
    sequence: whole,
    publicGeneration: text,
  }),
)
export const job = schema(
  'Job',
  z.strictObject({
    id: text,
    kind: text,
    does: z.enum(bulkActions).nullable().describe('The action of a bulk job.'),
    undoes: text.nullable().describe('The job that it undoes.'),
    state: z.enum(['running', 'done', 'failed', 'stopped']),
    done: whole,
    total: whole,
    message: text,
    startedBy: actor,
    createdAt: instant,
    finishedAt: instant.nullable(),
  }),
)
export const bulkItem = schema(
  'BulkItem',
  z.strictObject({ entry: text, title: text, state: z.enum(['done', 'refused', 'skipped']), message: text }),
)

export const modelFile = z.strictObject({ name: text, text })
export const consequence = schema(
  'Consequence',
  z.strictObject({
    code: text,
    weight: z.enum(['plain', 'breaking', 'refused']),
    place: text,
    message: text,
    entries: z
      .strictObject({
        count: whole,
        first: z.array(z.strictObject({ id: text, title: text, because: text.optional() })),
      })
      .optional(),
    readers: z.array(z.strictObject({ key: text, label: text, lastReadAt: text, name: text })).optional(),
  }),
)

/** The members of an asset that can change. */
const assetContent = {
  name: text,
  mediaType: text,
  size: whole.describe('Bytes.'),
  width: whole.nullable(),
  height: whole.nullable(),
  alt: byLocale(text),
  title: byLocale(text),
  caption: byLocale(text),
  focalPoint: z.strictObject({ x: z.number(), y: z.number() }).nullable(),
}

export const asset = schema(
  'Asset',
  z.strictObject({
    id: text,
    address: text,
    ...assetContent,
    createdAt: instant,
    createdBy: actor,
    updatedAt: instant,
    revision: whole.describe('The number of its newest revision, from 1.'),
  }),
)

export const assetRevision = schema(
  'AssetRevision',
  z.strictObject({
    revision: whole,
    ...assetContent,
    at: instant,
    by: actor,
    changed: z
      .array(z.enum(Object.keys(assetChanges) as [AssetChanged, ...AssetChanged[]]))
      .describe('The parts that differ from the revision before; none in the first.'),
  }),
)

export const schedule = schema(
  'Schedule',
  z.strictObject({
    id: text,
    entry: text,
    type: text,
    title: text,
    does: z.enum(['publish', 'withdraw']),
    locales: z.array(text).nullable(),
    at: instant,
    zone: text,
    state: z.enum(['scheduled', 'done', 'failed', 'cancelled']),
    message: text,
    scheduledBy: actor,
    endedAt: instant.nullable(),
  }),
)

const asks = z.strictObject({
  type: text.optional(),
  search: text.optional(),
  where: text.optional(),
  locale: text.optional(),
  sort: text.optional(),
  columns: z.array(text).optional(),
})
export const view = schema(
  'SavedView',
  z.strictObject({ id: text, name: text, shared: z.boolean(), own: z.boolean(), asks }),
)

export const member = schema(
  'Member',
  z.strictObject({
    account: text,
    email: text,
    name: text,
    role: z.enum(roles),
    locales: z.array(text).nullable(),
    regions: z.array(text).nullable(),
  }),
)
export const invitationShape = {
  id: text,
  email: text,
  role: z.enum(roles),
  locales: z.array(text).nullable(),
  regions: z.array(text).nullable(),
  createdAt: instant,
  createdBy: actor,
  expiresAt: instant,
}
export const offer = schema(
  'Offer',
  z.strictObject({
    email: text,
    role: z.enum(roles),
    locales: z.array(text).nullable(),
    regions: z.array(text).nullable(),
    site: z.strictObject({ name: text, label: text }),
    hasAccount: z.boolean(),
    expiresAt: instant,
  }),
)
export const session = schema(
  'Session',
  z.strictObject({
    id: text,
    agent: text.nullable(),
    createdAt: instant,
    seenAt: instant.nullable(),
    expiresAt: instant,
    current: z.boolean(),
  }),
)
export const keyShape = {
  id: text,
  label: text,
  scope: z.enum(keyScopes),
  prefix: text,
  createdAt: instant,
  createdBy: actor,
  lastUsedAt: instant.nullable(),
  revokedAt: instant.nullable(),
}
export const frontEnd = schema(
  'FrontEnd',
  z.strictObject({
    name: text,
    label: text,
    origins: z.array(text),
    enter: z.record(z.string(), text),
    createdAt: instant,
  }),
)
export const event = schema(
  'Event',
  z.strictObject({
    specversion: z.literal('1.0'),
    id: text,
    source: text,
    type: z.enum(Object.keys(eventTypes) as [string, ...string[]]),
    subject: text.optional(),
    time: instant,
    datacontenttype: z.literal('application/json'),
    sequence: text,
    data: z.record(z.string(), z.unknown()),
  }),
)

export const account = schema(
  'Account',
  z.strictObject({
    id: text,
    email: text,
    name: text,
    operator: z.boolean(),
    disabledAt: instant.nullable(),
    sites: z.array(z.strictObject({ name: text, role: text })),
  }),
)
export const who = {
  account: z.strictObject({
    id: text,
    email: text,
    name: text,
    operator: z.boolean(),
    language: text.nullable(),
    timeZone: text.nullable(),
  }),
  sites: z.array(
    z.strictObject({
      name: text,
      label: text,
      role: z.enum(roles),
      locales: z.array(text).nullable(),
      regions: z.array(text).nullable(),
    }),
  ),
}
export const signedIn = schema('SignedIn', z.strictObject({ ...who, expiresAt: instant, token: text.optional() }))
