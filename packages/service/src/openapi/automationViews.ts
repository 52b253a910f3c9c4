import { automationForm, type Automation, type Data } from '@wisteria/core'
import { z } from 'zod'
import { actor, instant, text, whole } from './editViews.js'

/** Automations, their runs and items, as schemas. */

/** A value as JSON has it, or none. */
const data = z.unknown() as unknown as z.ZodType<Data>
const version = whole.describe('Of the definition: counts its changes, from 1.')
const versions = z.record(z.string(), whole).describe('The versions of the automations, by name.')

export const automationShape = {
  name: text,
  actor: text.describe('How events name it.'),
  definition: automationForm as unknown as z.ZodType<Automation>,
  version,
  enabled: z.boolean(),
  address: text.nullable().describe('Where programs send messages to.'),
  hasSecret: z.boolean(),
  secrets: z.array(text).describe('The names of the values that its calls use.'),
  nextAt: instant.nullable().describe('When its timetable starts it next.'),
  runs: z.strictObject({ running: whole, failed: whole, done: whole, stopped: whole, latest: instant.nullable() }),
  createdAt: instant,
  changedAt: instant,
  changedBy: actor,
}
export const automation = z.strictObject(automationShape)
export const automationList = z.strictObject({ automations: z.array(automation), versions })

export const automationChange = z.strictObject({
  name: text,
  label: text,
  does: z.enum(['added', 'changed', 'removed', 'same']),
  parts: z.array(text).describe('Of `changed`: which parts differ.'),
  running: whole.describe('Runs at work: they keep their definition, and end where it is removed.'),
})
export const automationComparison = z.strictObject({ changes: z.array(automationChange), versions })

export const automationStepRecord = z.strictObject({
  step: whole.describe('Its number, from 0.'),
  do: text,
  at: instant,
  isSkipped: z.boolean().optional().describe('Whether its `if` was not true, so that it was skipped.'),
  entry: text.optional(),
  outcome: z.enum(['created', 'updated', 'unchanged']).optional(),
  status: whole.optional().describe('Of the answer to a call.'),
  until: instant.optional().describe('When it goes on, or what it scheduled happens.'),
})
const progressShape = {
  step: whole.describe('The number of the step that comes next.'),
  results: z.record(z.string(), data).describe('The results of steps, by their names.'),
  log: z.array(automationStepRecord),
  tries: whole,
  nextAt: instant.nullable(),
  message: text,
  finishedAt: instant.nullable(),
}
export const automationRun = z.strictObject({
  id: text,
  automation: text,
  version,
  key: text.nullable(),
  startedBy: actor,
  isCaused: z.boolean().describe('Whether another automation led to it.'),
  trigger: data,
  entry: data,
  state: z.enum(['running', 'done', 'failed', 'stopped']),
  ...progressShape,
  total: whole.describe('Of its items.'),
  done: whole,
  failed: whole,
  createdAt: instant,
})
export const automationItem = z.strictObject({
  position: whole,
  input: data,
  title: text,
  entry: text.nullable(),
  type: text.nullable(),
  state: z.enum(['waiting', 'done', 'failed']),
  ...progressShape,
})
export const automationTry = z.strictObject({
  whole: z.boolean().describe('Whether it came to its end in the time that a try has.'),
  run: automationRun,
  items: z.array(automationItem),
  calls: z.array(
    z.strictObject({ position: whole.nullable(), step: whole, method: text, address: text, body: text.nullable() }),
  ),
  events: z.array(z.record(z.string(), z.unknown())),
})
