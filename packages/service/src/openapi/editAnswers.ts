import { eventTypes, keyScopes, roles, states } from '@wisteria/core'
import { z } from 'zod'

/** What the Edit API answers, as schemas: the OpenAPI document prints them, and a test holds real answers against them. */

const text = z.string()
const instant = z.iso.datetime({ offset: true })
const whole = z.int()
const actor = z.string().describe('`account:…`, `key:…`, `grant:…` or `service`.')
const byLocale = <Value extends z.ZodType>(value: Value) => z.record(z.string(), value)
const named = z.strictObject({ id: text, title: text })
const typed = z.strictObject({ id: text, type: text, title: text })

/** Names that the document's schemas have, so that each is there once. */
const schema = <Type extends z.ZodType>(id: string, type: Type): Type => type.meta({ id })

const state = schema('State', z.enum(states))
const freshness = schema('Freshness', z.enum(['missing', 'current', 'outdated']))
const problem = schema(
  'ProblemPlace',
  z.strictObject({
    code: text,
    message: text,
    pointer: text.optional(),
    file: text.optional(),
    line: whole.optional(),
    column: whole.optional(),
    locale: text.optional(),
  }),
)
const values = z.record(z.string(), z.unknown()).describe('By field, as `WrittenValue` says.')

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
const names = byLocale(text).describe('What entries and assets among the values are called, by id.')
const check = schema(
  'PublishCheck',
  z.strictObject({ locales: z.array(text), problems: z.array(problem), changes: z.array(change), names }),
)

const entryShape = {
  id: text,
  type: text,
  title: text,
  version: whole,
  revision: whole,
  createdAt: instant,
  createdBy: actor,
  updatedAt: instant,
  updatedBy: actor,
  state,
  states: byLocale(state),
  freshness: byLocale(freshness),
  paths: byLocale(text),
  values,
}
const entry = schema('Entry', z.strictObject(entryShape))

const listedShape = {
  id: text,
  type: text,
  title: text,
  path: text.nullable(),
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
const usage = z.strictObject({ usedBy: z.array(usedBy) })

const together = z.strictObject({
  id: text,
  type: text,
  title: text,
  locales: z.array(text),
  problems: z.array(problem),
})
const publishConsequences = schema(
  'PublishConsequences',
  z.strictObject({
    version: whole,
    locales: z.array(text),
    problems: z.array(problem),
    changes: z.array(change),
    names,
    paths: byLocale(z.strictObject({ from: text.nullable(), to: text.nullable() })),
    hiddenReferences: z.array(typed),
    affects: z.array(z.strictObject({ id: text, type: text, title: text, because: z.enum(['refers', 'below']) })),
    together: z.array(together),
  }),
)
const unpublishConsequences = schema(
  'UnpublishConsequences',
  z.strictObject({
    version: whole,
    publicLocales: z.array(text),
    locales: z.array(text),
    paths: byLocale(text),
    children: z.array(named),
    dangling: z.array(usedBy),
  }),
)

const revisionShape = {
  number: whole,
  version: whole,
  author: actor,
  createdAt: instant,
  updatedAt: instant,
  sealedAt: instant.nullable(),
  publicIn: z.array(text),
}
const revision = schema('Revision', z.strictObject(revisionShape))
const point = z.union([whole, z.enum(['public', 'working'])])
const difference = schema(
  'Difference',
  z.strictObject({
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
  }),
)
const gone = schema(
  'GoneValue',
  z.strictObject({ label: text, pointer: text, kind: text, locale: text.nullable(), value: z.unknown() }),
)

const settingsShape = {
  label: text,
  defaultLocale: text,
  locales: z.array(z.strictObject({ tag: text, label: text, fallback: z.array(text) })),
  timeZone: text,
}
const site = schema(
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
const job = schema(
  'Job',
  z.strictObject({
    id: text,
    kind: text,
    state: z.enum(['running', 'done', 'failed', 'stopped']),
    done: whole,
    total: whole,
    message: text,
    startedBy: actor,
    createdAt: instant,
    finishedAt: instant.nullable(),
  }),
)
const bulkItem = schema(
  'BulkItem',
  z.strictObject({ entry: text, title: text, state: z.enum(['done', 'refused', 'skipped']), message: text }),
)

const modelFile = z.strictObject({ name: text, text })
const consequence = schema(
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

const asset = schema(
  'Asset',
  z.strictObject({
    id: text,
    name: text,
    address: text,
    mediaType: text,
    size: whole.describe('Bytes.'),
    width: whole.nullable(),
    height: whole.nullable(),
    alt: byLocale(text),
    title: byLocale(text),
    caption: byLocale(text),
    focalPoint: z.strictObject({ x: z.number(), y: z.number() }).nullable(),
    createdAt: instant,
    createdBy: actor,
    updatedAt: instant,
  }),
)

const schedule = schema(
  'Schedule',
  z.strictObject({
    id: text,
    entry: text,
    type: text,
    title: text,
    does: z.enum(['publish', 'unpublish']),
    locales: z.array(text).nullable(),
    at: instant,
    zone: text,
    state: z.enum(['planned', 'done', 'failed', 'calledOff']),
    message: text,
    plannedBy: actor,
    endedAt: instant.nullable(),
  }),
)

const asks = z.strictObject({
  type: text.optional(),
  search: text.optional(),
  where: text.optional(),
  sort: text.optional(),
  columns: z.array(text).optional(),
})
const view = schema('SavedView', z.strictObject({ id: text, name: text, shared: z.boolean(), own: z.boolean(), asks }))

const member = schema(
  'Member',
  z.strictObject({ account: text, email: text, name: text, role: z.enum(roles), locales: z.array(text).nullable() }),
)
const keyShape = {
  id: text,
  label: text,
  scope: z.enum(keyScopes),
  prefix: text,
  createdAt: instant,
  createdBy: actor,
  lastUsedAt: instant.nullable(),
  revokedAt: instant.nullable(),
}
const frontEnd = schema(
  'FrontEnd',
  z.strictObject({
    name: text,
    label: text,
    origins: z.array(text),
    enter: z.record(z.string(), text),
    createdAt: instant,
  }),
)
const webhookShape = {
  id: text,
  label: text,
  address: text,
  events: z.array(text).nullable(),
  enabled: z.boolean(),
  createdAt: instant,
  createdBy: actor,
}
const delivery = z.strictObject({
  id: text,
  sequence: whole,
  event: text,
  type: text,
  status: z.enum(['waiting', 'delivered', 'setAside']),
  nextAt: instant.nullable(),
  attempts: z.array(
    z.strictObject({ at: instant, status: whole.nullable(), took: whole, answer: text, error: text.nullable() }),
  ),
})
const event = schema(
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

const account = schema(
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
const who = {
  account: z.strictObject({ id: text, email: text, name: text, operator: z.boolean() }),
  sites: z.array(z.strictObject({ name: text, label: text, role: z.enum(roles), locales: z.array(text).nullable() })),
}
const signedIn = schema('SignedIn', z.strictObject({ ...who, expiresAt: instant, token: text.optional() }))

const s = '/edit/v1/sites/{site}'
const e = `${s}/entries/{id}`

/** By route: the body of a success. Routes that answer 204 have none. */
export const editAnswers: Readonly<Record<string, z.ZodType>> = {
  'GET /edit/v1/service': z.strictObject({ waitsForOwner: z.boolean() }),
  'POST /edit/v1/service/begin': signedIn,
  'POST /edit/v1/session': signedIn,
  'GET /edit/v1/session': z.strictObject(who),
  'POST /edit/v1/account/password/by-link': signedIn,
  'GET /edit/v1/accounts': z.strictObject({ accounts: z.array(account) }),
  'PUT /edit/v1/accounts/{account}/disabled': account,
  'POST /edit/v1/accounts/{account}/password-link': z.strictObject({ address: text, expiresAt: instant }),
  'POST /edit/v1/sites': site,
  [`GET ${s}`]: site,
  [`GET ${s}/locales`]: z.strictObject(settingsShape),
  [`PUT ${s}/locales`]: z.strictObject({ ...settingsShape, job: job.optional() }),
  [`POST ${s}/locales/consequences`]: z.strictObject({
    added: z.array(text),
    retired: z.array(
      z.strictObject({
        tag: text,
        public: whole,
        only: whole,
        paths: whole,
        drafts: whole,
        refused: text.nullable(),
      }),
    ),
    fallbacksChanged: z.array(text),
    timeZoneChanged: z.boolean(),
  }),
  [`PUT ${s}/open`]: site,
  [`POST ${s}/rebuild`]: z.strictObject({ rows: whole }),
  [`GET ${s}/model`]: z.strictObject({
    version: whole,
    nextId: whole,
    types: z.array(z.looseObject({ name: text })),
    blockTypes: z.array(z.looseObject({ name: text })),
    conversions: z.array(z.unknown()).optional(),
    files: z.array(modelFile),
    adoptedAt: instant.nullable(),
    adoptedBy: actor.nullable(),
  }),
  [`GET ${s}/model/history`]: z.strictObject({
    models: z.array(
      z.strictObject({ version: whole, adoptedAt: instant, adoptedBy: actor, consequences: z.array(consequence) }),
    ),
  }),
  [`GET ${s}/model/history/{version}`]: z.strictObject({
    version: whole,
    adoptedAt: instant,
    adoptedBy: actor,
    files: z.array(modelFile),
  }),
  [`POST ${s}/model/proposals`]: z.strictObject({
    id: text,
    base: whole,
    consequences: z.array(consequence),
    canBeAdopted: z.boolean(),
  }),
  [`POST ${s}/model/proposals/{proposal}/adopt`]: z.strictObject({
    version: whole,
    types: z.array(text),
    blockTypes: z.array(text),
    job: job.optional(),
  }),
  [`GET ${s}/jobs`]: z.strictObject({ jobs: z.array(job) }),
  [`GET ${s}/jobs/{id}`]: job,
  [`POST ${s}/jobs/{id}/stop`]: job,
  [`GET ${s}/jobs/{id}/items`]: z.strictObject({ items: z.array(bulkItem), next: whole.nullable() }),
  [`POST ${s}/jobs/{id}/put-back`]: job,
  [`GET ${s}/entries`]: z.strictObject({
    entries: z.array(z.strictObject(listedShape)),
    next: text.nullable(),
    count: whole.optional(),
  }),
  [`GET ${s}/search`]: z.strictObject({ entries: z.array(z.strictObject({ ...listedShape, foundIn: text })) }),
  [`POST ${s}/entries/bulk`]: z.union([
    job,
    z.strictObject({ total: whole, tried: whole, items: z.array(bulkItem) }).describe('With `dry=true`.'),
  ]),
  [`POST ${s}/entries`]: entry,
  [`GET ${e}`]: entry,
  [`PATCH ${e}`]: entry,
  [`POST ${e}/edits`]: z.strictObject({ ...entryShape, merged: z.boolean(), check: check.optional() }),
  [`POST ${e}/archive`]: entry,
  [`POST ${e}/unarchive`]: entry,
  [`POST ${e}/duplicate`]: entry,
  [`POST ${e}/publish`]: entry,
  [`POST ${e}/unpublish`]: entry,
  [`POST ${e}/place`]: entry,
  [`POST ${e}/presence`]: z.strictObject({
    others: z.array(z.strictObject({ actor, at: text.nullable(), since: instant })),
    version: whole,
    updatedBy: actor,
  }),
  [`GET ${e}/usage`]: usage,
  [`GET ${e}/consequences`]: publishConsequences,
  [`GET ${e}/consequences/unpublish`]: unpublishConsequences,
  [`GET ${e}/revisions`]: z.strictObject({ revisions: z.array(revision) }),
  [`POST ${e}/revisions`]: entry,
  [`GET ${e}/revisions/{number}`]: z.strictObject({ ...revisionShape, values, gone: z.array(gone) }),
  [`GET ${e}/compare`]: z.strictObject({ from: point, to: point, differences: z.array(difference), names }),
  [`POST ${e}/restore`]: z.strictObject({ ...entryShape, changed: whole }),
  [`POST ${e}/preview`]: z.strictObject({ address: text, path: text.nullable() }),
  [`POST ${e}/schedule`]: schedule,
  [`GET ${s}/schedules`]: z.strictObject({ schedules: z.array(schedule) }),
  [`PATCH ${s}/schedules/{id}`]: schedule,
  [`GET ${s}/bin`]: z.strictObject({
    entries: z.array(
      z.strictObject({ id: text, type: text, title: text, deletedAt: instant, deletedBy: actor, goesAt: instant }),
    ),
    next: text.nullable(),
  }),
  [`POST ${s}/bin/{id}/restore`]: entry,
  [`GET ${s}/views`]: z.strictObject({ views: z.array(view) }),
  [`POST ${s}/views`]: view,
  [`PUT ${s}/views/{id}`]: view,
  [`GET ${s}/tree`]: z.strictObject({
    nodes: z.array(
      z.strictObject({
        id: text,
        type: text,
        title: text,
        path: text.nullable(),
        parent: text.nullable(),
        order: z.number().nullable(),
        inMenu: z.boolean().nullable(),
        state,
        states: byLocale(state),
      }),
    ),
    isComplete: z.boolean(),
  }),
  [`GET ${s}/assets`]: z.strictObject({ assets: z.array(asset), next: text.nullable(), maxUpload: whole }),
  [`POST ${s}/assets`]: asset,
  [`POST ${s}/assets/upload`]: asset,
  [`GET ${s}/assets/{id}`]: asset,
  [`PATCH ${s}/assets/{id}`]: asset,
  [`PUT ${s}/assets/{id}/file`]: asset,
  [`GET ${s}/assets/{id}/usage`]: usage,
  [`GET ${s}/members`]: z.strictObject({ members: z.array(member) }),
  [`POST ${s}/members`]: member,
  [`PUT ${s}/members/{account}`]: member,
  [`GET ${s}/keys`]: z.strictObject({ keys: z.array(z.strictObject(keyShape)) }),
  [`POST ${s}/keys`]: z.strictObject({ ...keyShape, secret: text.describe('Shown this once.') }),
  [`GET ${s}/front-ends`]: z.strictObject({ frontEnds: z.array(frontEnd) }),
  [`PUT ${s}/front-ends/{name}`]: frontEnd,
  [`GET ${s}/webhooks`]: z.strictObject({
    webhooks: z.array(z.strictObject({ ...webhookShape, waiting: whole, setAside: whole })),
  }),
  [`POST ${s}/webhooks`]: z.strictObject({ ...webhookShape, secret: text.describe('Shown this once.') }),
  [`GET ${s}/webhooks/{webhook}/deliveries`]: z.strictObject({ deliveries: z.array(delivery) }),
  [`POST ${s}/webhooks/{webhook}/deliveries/{delivery}/again`]: z.strictObject({ id: text }),
  [`GET ${s}/events`]: z.strictObject({ events: z.array(event), sequence: whole }),
  'GET /edit/v1/openapi.json': z.looseObject({ openapi: text }),
}
