export type {
  BinnedEntry,
  BulkAction,
  BulkItem,
  ConnectorView,
  CopyPlan,
  CounterpartList,
  CounterpartPlan,
  CounterpartView,
  Difference,
  EditableEntry,
  EntryComparison,
  EntryCounterparts,
  FieldPlace,
  ListAsks,
  ListView,
  LocaleConsequences,
  ManagedAccount,
  OrderItemView,
  OrderView,
  PasswordLink,
  Point,
  Present,
  PublicChange,
  PublishTogether,
  PublishConsequences,
  RevisionView,
  Region,
  ScheduleView,
  Side,
  SourceChange,
  SourceChanges,
  TranslationBoard,
  TranslationView,
  ImportedText,
  ImportView,
  GlossaryTerm,
  GlossaryView,
  MemoryMatch,
  Automation,
  AutomationStep,
  EntryTranslation,
  SavedTranslation,
  TranslationRuleView,
  TreeNode,
  WithdrawalConsequences,
  Usage,
  UsedBy,
} from '@wisteria/core'
export type * from './answers.js'
export * from './conditions.js'
export * from './counterparts.js'
export * from './editor.js'
export * from './images.js'
export * from './preview.js'
export * from './problem.js'
export type * from './picked.js'
export * from './reader.js'
export * from './service.js'
export type * from './copying.js'
export * from './ordering.js'
export * from './automations.js'
export * from './archives.js'
export * from './imports.js'
export * from './webhookAdmin.js'
export * from './translations.js'
export type { Call, Connection, Reply } from './transport.js'
export * from './webhooks.js'
