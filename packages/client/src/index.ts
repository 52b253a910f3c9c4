export type {
  Difference,
  EditableEntry,
  EntryComparison,
  FieldPlace,
  Point,
  PublishConsequences,
  RevisionView,
  UnpublishConsequences,
  Usage,
  UsedBy,
} from '@wisteria/core'
export * from './editor.js'
export * from './preview.js'
export * from './problem.js'
export * from './reader.js'
export type { Connection } from './transport.js'
export * from './webhooks.js'
