import { z } from 'zod'
import { eventTypes } from '../events/event.js'
import type { Timetable } from './timetable.js'

/** A value of a step: a text is an expression, anything else stands for itself. Objects and lists hold such values. */
export type StepValue = string | number | boolean | null | readonly StepValue[] | { readonly [name: string]: StepValue }

/** What starts an automation. */
export type Start =
  /** An event of an entry. `where` is a condition over `entry`, `before` and `after`. */
  | {
      readonly by: 'event'
      readonly events: readonly string[]
      readonly types?: readonly string[] | undefined
      readonly where?: string | undefined
    }
  /** Somebody who is allowed to: for one entry, for entries of a list together, or for the site. */
  | { readonly by: 'hand'; readonly on: 'entry' | 'list' | 'site'; readonly types?: readonly string[] | undefined }
  | ({ readonly by: 'timetable' } & Timetable)
  /** A program that sends JSON or a form to the automation's own address. */
  | { readonly by: 'address'; readonly where?: string | undefined; readonly key?: string | undefined }

interface AnyStep {
  /** By which later steps reach its result, as `steps.name`. */
  readonly name?: string | undefined
  /** The step is skipped where this is not true. */
  readonly if?: string | undefined
}

/** A step that does one thing. */
export type SingleStep = AnyStep &
  (
    | { readonly do: 'compute'; readonly values: StepValue }
    | {
        readonly do: 'create'
        readonly type: string
        /** A field: an entry that has its value already is updated. */
        readonly key?: string | undefined
        readonly values: StepValue
      }
    | { readonly do: 'set'; readonly entry?: string | undefined; readonly values: StepValue }
    | {
        readonly do: 'publish' | 'withdraw'
        readonly entry?: string | undefined
        readonly locales?: readonly string[] | undefined
      }
    | {
        readonly do: 'schedule'
        readonly action: 'publish' | 'withdraw'
        readonly at: string
        readonly entry?: string | undefined
        readonly locales?: readonly string[] | undefined
      }
    | {
        readonly do: 'translate'
        readonly connector: string
        readonly locales: readonly string[]
        readonly publish?: boolean | undefined
        readonly entry?: string | undefined
      }
    | {
        readonly do: 'call'
        readonly address: string
        readonly method?: 'GET' | 'POST' | 'DELETE' | undefined
        readonly headers?: Readonly<Record<string, string>> | undefined
        readonly body?: StepValue | undefined
      }
    | { readonly do: 'chat'; readonly address: string; readonly text: string }
    | { readonly do: 'mail'; readonly to: string; readonly subject: string; readonly text: string }
    | { readonly do: 'wait'; readonly until: string }
  )

/** A step that does others for each item of a list, or for each entry that a condition finds. */
export type Each = AnyStep & {
  readonly do: 'each'
  readonly in?: string | undefined
  readonly type?: string | undefined
  readonly where?: string | undefined
  readonly steps: readonly SingleStep[]
}

export type AutomationStep = SingleStep | Each

/** What an automation may do, whoever starts it: it drafts, and publishes only where that is said. */
export interface Rights {
  readonly publish?: boolean | undefined
  readonly types?: readonly string[] | undefined
  readonly locales?: readonly string[] | undefined
}

/** An automation as it is written. */
export interface Automation {
  /** Its name. */
  readonly automation: string
  readonly label: string
  readonly description?: string | undefined
  readonly rights?: Rights | undefined
  readonly starts: Start
  readonly steps: readonly AutomationStep[]
}

const text = (max: number) => z.string().trim().min(1, 'must not be empty').max(max)
const names = z.array(text(64)).min(1, 'must name at least one').max(100)
/** What a part of a start or of a step holds, for forms. */
export type PartKind =
  | 'expression'
  | 'condition'
  | 'values'
  | 'type'
  | 'types'
  | 'field'
  | 'connector'
  | 'locales'
  | 'events'
  | 'days'
  | 'time'
  | 'choice'
  | 'flag'
  | 'steps'
const kinds = z.registry<{ is: PartKind }>()
const holding = <Schema extends z.ZodType>(schema: Schema, is: PartKind): Schema => {
  // A schema of its own, so that others of the same form stay without.
  const own = schema.clone()
  kinds.add(own, { is })
  return own
}
const expression = holding(text(4000), 'expression')
const condition = holding(text(4000), 'condition')
const typeName = holding(text(64), 'type')
const typeNames = holding(names, 'types')
const localeNames = holding(names, 'locales')
const deepest = 20
const isStepValue = (value: unknown, depth = 0): boolean => {
  if (value === null || typeof value === 'boolean' || typeof value === 'number') return true
  if (typeof value === 'string') return value.length <= 4000
  if (typeof value !== 'object' || depth > deepest) return false
  return Object.values(value).every((part) => isStepValue(part, depth + 1))
}
const stepValue = holding(
  z
    .unknown()
    .refine(
      (value) => isStepValue(value),
      `must be an expression, a number, true, false, or a list or an object of these, at most ${deepest} deep`,
    ),
  'values',
) as unknown as z.ZodType<StepValue>

export const automationNamePattern = /^[a-z][a-z0-9-]{0,59}$/
const stepName = z.string().regex(/^[a-z][A-Za-z0-9]{0,39}$/, 'must be a name such as `found` or `answer2`')
const any = {
  name: stepName.optional().describe('Later steps reach its result as `steps.` and this name.'),
  if: condition.optional().describe('A condition: where it is not true, the step is skipped.'),
}
const entry = expression.optional().describe('The entry; `item` or `entry` when left out.')
const locales = localeNames.optional().describe('All, when left out.')

const singleSteps = [
  z.strictObject({
    do: z.literal('compute'),
    ...any,
    values: stepValue.describe('What `steps.` and its name are then.'),
  }),
  z.strictObject({
    do: z.literal('create'),
    ...any,
    type: typeName,
    key: holding(text(64), 'field').optional().describe('A field: an entry that has its value already is updated.'),
    values: stepValue,
  }),
  z.strictObject({ do: z.literal('set'), ...any, entry, values: stepValue }),
  z.strictObject({ do: z.enum(['publish', 'withdraw']), ...any, entry, locales }),
  z.strictObject({
    do: z.literal('schedule'),
    ...any,
    action: z.enum(['publish', 'withdraw']),
    at: expression.describe('An instant.'),
    entry,
    locales,
  }),
  z.strictObject({
    do: z.literal('translate'),
    ...any,
    connector: holding(text(120), 'connector').describe('The label of a connector.'),
    locales: localeNames,
    publish: z.boolean().optional().describe('Whether what comes back is published.'),
    entry,
  }),
  z.strictObject({
    do: z.literal('call'),
    ...any,
    address: expression,
    method: z.enum(['GET', 'POST', 'DELETE']).optional().describe('POST, when left out.'),
    headers: holding(z.record(z.string().max(80), expression), 'values')
      .optional()
      .describe('May use `secrets`.'),
    body: stepValue.optional().describe('Sent as JSON.'),
  }),
  z.strictObject({
    do: z.literal('chat'),
    ...any,
    address: expression.describe('That a chat gave for messages; may use `secrets`.'),
    text: expression,
  }),
  z.strictObject({
    do: z.literal('mail'),
    ...any,
    to: expression.describe('An e-mail address, or a list of them.'),
    subject: expression,
    text: expression,
  }),
  z.strictObject({
    do: z.literal('wait'),
    ...any,
    until: expression.describe('An instant or a day: `now + 2 hours`.'),
  }),
] as const
const singleStep = z.discriminatedUnion('do', singleSteps)
const each = z.strictObject({
  do: z.literal('each'),
  ...any,
  in: expression.optional().describe('A list.'),
  type: typeName.optional().describe('Instead of a list: the entries of a type.'),
  where: condition.optional().describe('Which of them: a condition, as in lists.'),
  steps: holding(z.array(singleStep).min(1, 'must have a step').max(50), 'steps'),
})

const time = holding(z.string().regex(/^([01]\d|2[0-3]):[0-5]\d$/, 'must be a time of day such as `07:30`'), 'time')
export const weekdays = ['monday', 'tuesday', 'wednesday', 'thursday', 'friday', 'saturday', 'sunday'] as const
const start = z.discriminatedUnion('by', [
  z.strictObject({
    by: z.literal('event'),
    events: holding(names, 'events').describe(
      `Any of ${Object.keys(eventTypes)
        .filter((name) => name.startsWith('entry.'))
        .join(', ')}.`,
    ),
    types: typeNames.optional().describe('Only entries of these types.'),
    where: condition.optional().describe('A condition over `entry`, `before` and `after`.'),
  }),
  z.strictObject({
    by: z.literal('hand'),
    on: z
      .enum(['entry', 'list', 'site'])
      .describe('Whether it is started for one entry, for several together, or for none.'),
    types: typeNames.optional(),
  }),
  z.strictObject({
    by: z.literal('timetable'),
    every: z.enum(['hour', 'day', 'week', 'month']),
    at: time.optional().describe('The time of day on the clocks of the site; of an hour the minutes count.'),
    on: holding(
      z
        .array(z.union([z.enum(weekdays), z.number().int().min(1).max(31)]))
        .min(1)
        .max(31),
      'days',
    )
      .optional()
      .describe('The days of the week, or of the month.'),
  }),
  z.strictObject({
    by: z.literal('address'),
    where: condition.optional().describe('A condition over `trigger.body`: others are accepted, and start nothing.'),
    key: expression.optional().describe('Two with the same value start one run.'),
  }),
])

/** A part of a start or of a step. */
export interface AutomationPart {
  readonly name: string
  readonly is: PartKind
  readonly isRequired: boolean
  readonly says: string
  /** Of a choice. */
  readonly options: readonly string[]
}

function partsIn(schema: z.ZodObject, left: readonly string[]): AutomationPart[] {
  return Object.entries(schema.shape as Record<string, z.ZodType>).flatMap(([name, part]): AutomationPart[] => {
    if (left.includes(name)) return []
    const inner = part instanceof z.ZodOptional ? (part.unwrap() as z.ZodType) : part
    const is = kinds.get(inner)?.is
    return [
      {
        name,
        is: is ?? (inner instanceof z.ZodEnum ? 'choice' : 'flag'),
        isRequired: !part.isOptional(),
        says: part.description ?? '',
        options: inner instanceof z.ZodEnum ? inner.options.map(String) : [],
      },
    ]
  })
}

/** The ways in which an automation is started. */
export const startsBy = ['event', 'hand', 'timetable', 'address'] as const satisfies readonly Start['by'][]

/** The parts of a start. */
export const partsOfStart = (by: Start['by']): readonly AutomationPart[] =>
  start.options.flatMap((option) => (option.shape.by.value === by ? partsIn(option, ['by']) : []))

/** The parts of a step, but for its name and its `if`, which every step may have. */
export const partsOfStep = (kind: AutomationStep['do']): readonly AutomationPart[] =>
  [...singleSteps, each].flatMap((step) =>
    step.shape.do.safeParse(kind).success ? partsIn(step, ['do', 'name', 'if']) : [],
  )

/** The form of an automation. */
export const automationForm = z.strictObject({
  automation: z
    .string()
    .regex(automationNamePattern, 'must be a name such as `closed-museum`: lower-case letters, digits and hyphens'),
  label: text(120),
  description: text(2000).optional(),
  rights: z
    .strictObject({
      publish: z.boolean().optional().describe('Whether it may publish, withdraw and schedule; it drafts in any case.'),
      types: names.optional().describe('Only entries of these types.'),
      locales: names.optional().describe('Only values of these locales.'),
    })
    .optional(),
  starts: start,
  steps: z
    .array(z.discriminatedUnion('do', [...singleSteps, each]))
    .min(1, 'must have a step')
    .max(50),
})

/** What each kind of step does, for people. */
export const stepSays = {
  each: 'Does steps for each item of a list, or for each entry that a condition finds.',
  compute: 'Works out values that later steps use.',
  create: 'Creates an entry, or updates the one that a key finds.',
  set: 'Sets fields of an entry.',
  publish: 'Publishes an entry.',
  withdraw: 'Withdraws an entry.',
  schedule: 'Schedules a publish or a withdrawal.',
  translate: 'Orders a translation from a connector.',
  call: 'Calls an address, and reads its answer.',
  chat: 'Writes a message in a chat.',
  mail: 'Sends a mail.',
  wait: 'Waits until an instant.',
} as const satisfies Record<AutomationStep['do'], string>

/** Those that reach outside: they may be done again after a crash, with the same id. */
export const isOutward = ({ do: what }: Pick<AutomationStep, 'do'>): boolean =>
  what === 'call' || what === 'chat' || what === 'mail'
