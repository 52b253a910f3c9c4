import { freshnesses, incomingOutcomes, ruleEvents, unitStates } from '@wisteria/core'
import { z } from 'zod'
import { actor, byLocale, instant, problem, schema, text, whole, workCount } from './editViews.js'

/** The objects of translations in the Edit API, as schemas. */

const progress = schema(
  'TranslationProgress',
  z.strictObject({ freshness: z.enum(freshnesses), units: workCount, words: workCount }),
)
const date = z.iso.date()

export const translationTask = schema(
  'TranslationTask',
  z.strictObject({
    assignee: text.nullable(),
    due: date.nullable(),
    readyBy: actor.nullable(),
    readyAt: instant.nullable(),
  }),
)

const segmentText = schema(
  'SegmentText',
  z
    .array(z.union([text, z.looseObject({ code: text })]))
    .describe(
      'Strings and codes in turn: `{ "code": "1", "inside": […] }` encloses text, `{ "code": "2" }` stands alone.',
    ),
)

const unit = schema(
  'TranslationUnit',
  z.strictObject({
    unit: text,
    at: z.array(text),
    labels: z.array(text),
    kind: text,
    state: z.enum(unitStates),
    source: segmentText,
    digest: text,
    codes: z.record(text, z.looseObject({ type: text })),
    translation: segmentText.nullable(),
    maxLength: whole.nullable(),
    madeFrom: text.nullable(),
    since: instant.nullable(),
    sourceThen: segmentText.nullable(),
  }),
)

const translationShape = {
  entry: text,
  type: text,
  region: text.nullable(),
  title: text,
  version: whole,
  revision: whole,
  locale: text,
  source: text,
  progress,
  task: translationTask.nullable(),
  units: z.array(unit),
}
export const entryTranslation = schema('EntryTranslation', z.strictObject(translationShape))
export const translationView = z.strictObject({ entries: z.array(entryTranslation), more: z.boolean() })
export const savedTranslation = z.strictObject({
  ...translationShape,
  merged: z.boolean(),
  problems: z.array(problem),
})

const workSum = schema(
  'WorkSum',
  z.strictObject({
    entries: whole,
    entriesToDo: whole,
    units: workCount,
    words: workCount,
    oldest: instant.nullable(),
  }),
)
export const translationBoard = z.strictObject({
  locales: z.array(z.strictObject({ tag: text, label: text, source: text, variant: z.boolean() })),
  types: z.array(z.strictObject({ type: text, label: text, work: byLocale(workSum) })),
})

const workEntry = schema(
  'WorkEntry',
  z.strictObject({
    entry: text,
    type: text,
    title: text,
    locale: text,
    progress,
    since: instant.nullable(),
    task: translationTask.nullable(),
  }),
)
export const workPage = z.strictObject({ entries: z.array(workEntry), next: text.nullable() })

export const translationImport = schema(
  'TranslationImport',
  z.strictObject({
    id: text,
    locale: text,
    format: text,
    name: text,
    state: z.enum(['reading', 'read', 'running', 'applied']),
    entries: whole,
    outcomes: z.partialRecord(z.enum(incomingOutcomes), whole),
    job: text.nullable(),
    actor,
    createdAt: instant,
    appliedAt: instant.nullable(),
  }),
)
export const importedText = schema(
  'ImportedText',
  z.strictObject({
    line: whole,
    entry: text,
    title: text,
    unit: text,
    source: text,
    text: segmentText.nullable(),
    outcome: z.enum(incomingOutcomes),
    message: text,
  }),
)

export const memoryMatch = schema(
  'MemoryMatch',
  z.strictObject({
    likeness: whole,
    source: segmentText,
    translation: segmentText,
    entry: text,
    title: text,
    labels: z.array(text),
  }),
)
export const glossary = schema(
  'Glossary',
  z.strictObject({
    terms: z.array(
      z.strictObject({
        term: text,
        note: text.optional(),
        translations: byLocale(z.strictObject({ use: text.optional(), avoid: z.array(text).optional() })),
      }),
    ),
    version: whole,
  }),
)

const connectorShape = {
  id: text,
  label: text,
  address: text,
  locales: z.array(text).nullable(),
  enabled: z.boolean(),
  createdAt: instant,
  createdBy: actor,
}
export const connector = schema('Connector', z.strictObject(connectorShape))
export const newConnector = z.strictObject({ ...connectorShape, secret: text })
export const translationRule = schema(
  'TranslationRule',
  z.strictObject({
    id: text,
    label: text,
    connector: text,
    event: z.enum(ruleEvents),
    type: text,
    where: text.nullable(),
    locales: z.array(text).nullable(),
    publish: z.boolean(),
    enabled: z.boolean(),
    problem: text.nullable(),
    createdAt: instant,
    actor,
  }),
)
export const translationOrder = schema(
  'TranslationOrder',
  z.strictObject({
    id: text,
    connector: text,
    rule: text.nullable(),
    locale: text,
    publish: z.boolean(),
    state: z.enum(['running', 'done', 'stopped']),
    total: whole,
    done: whole,
    failed: whole,
    texts: whole,
    words: whole,
    actor,
    createdAt: instant,
    endedAt: instant.nullable(),
  }),
)
const orderEntry = schema(
  'TranslationOrderEntry',
  z.strictObject({
    position: whole,
    entry: text,
    title: text,
    state: z.enum(['waiting', 'sent', 'done', 'failed', 'stopped']),
    attempts: whole,
    nextAt: instant.nullable(),
    texts: whole,
    words: whole,
    outcomes: z.partialRecord(z.enum(incomingOutcomes), whole),
    message: text,
  }),
)
export const orderEntries = z.strictObject({ entries: z.array(orderEntry), next: whole.nullable() })
