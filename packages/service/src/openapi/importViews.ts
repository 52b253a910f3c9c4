import { importMapping, rowOutcomes } from '@wisteria/core'
import { z } from 'zod'
import { actor, instant, text, whole } from './editViews.js'

/** Imports of entries, as schemas. */

const outcome = z.enum(rowOutcomes)
const problem = z.strictObject({ column: text.nullable(), message: text })
const cells = z.array(z.unknown())

export const entryImport = z.strictObject({
  id: text,
  name: text,
  source: z.strictObject({
    format: z.enum(['csv', 'xlsx', 'jsonLines', 'json']).optional(),
    encoding: text.optional(),
    delimiter: text.optional(),
    sheet: text.optional(),
    sheets: z.array(text).optional(),
  }),
  heads: z.array(text),
  mapping: importMapping.nullable(),
  state: z.enum(['reading', 'read', 'checking', 'checked', 'running', 'done', 'stopped', 'undoing', 'undone']),
  rows: whole,
  outcomes: z.partialRecord(outcome, whole),
  undone: z.strictObject({ undone: whole, refused: whole }),
  job: text.nullable(),
  actor,
  createdAt: instant,
  finishedAt: instant.nullable(),
  files: whole.nullable(),
})
export const importRow = z.strictObject({
  position: whole,
  line: whole,
  cells,
  outcome: outcome.nullable(),
  entry: text.nullable(),
  title: text,
  problems: z.array(problem),
  undone: text.nullable(),
})
export const plannedRow = z.strictObject({
  line: whole,
  cells,
  outcome,
  entry: text.nullable(),
  title: text,
  values: z.record(z.string(), z.unknown()),
  problems: z.array(problem),
})
export const keptMapping = z.strictObject({ name: text, mapping: importMapping, actor, at: instant })
