export * from './events/act.js'
export * from './adoption/adoption.js'
export * from './projections/completing.js'
export * from './listing/conditionSql.js'
export * from './connection/database.js'
export * from './connection/folderLock.js'
export * from './projections/editionTables.js'
export * from './projections/editionWriting.js'
export * from './projections/factIndexes.js'
export * from './references/referrers.js'
export * from './connection/inserting.js'
export * from './listing/listing.js'
export * from './projections/counterparts.js'
export * from './projections/paths.js'
export * from './publications/publicHistory.js'
export * from './publications/forgettingLocales.js'
export * from './projections/rebuild.js'
export * from './projections/replay.js'
export * from './events/history.js'
export * from './retention/retention.js'
export * from './retention/clock.js'
export * from './publications/retiringLocales.js'
export * from './projections/rowWriting.js'
export * from './listing/search.js'
export * from './projections/words.js'
export * from './listing/query.js'
export type * from './connection/reader.js'
export * from './listing/accessPath.js'
export * from './sites/sites.js'
export type * from './tables/tables.js'
export * from './listing/nextChangeAt.js'
export * from './listing/listTurns.js'
export * from './entries/workingCopies.js'
export * from './access/accounts.js'
export * from './access/grants.js'
export * from './access/idempotency.js'
export * from './access/invitations.js'
export * from './access/keys.js'
export * from './access/memberships.js'
export * from './access/sessions.js'
export * from './sites/serviceValues.js'
export * from './events/eventLog.js'
export * from './lists/savedViews.js'
export * from './previews/frontEnds.js'
export * from './imports/imports.js'
export * from './imports/importFiles.js'
export * from './automations/automations.js'
export {
  type RunProgress,
  type StepRecord,
  type AutomationRun,
  type AutomationItem,
  type NewRun,
  type RunChange,
  type ItemChange,
  changeItem,
  changeRun,
  countItems,
  countRuns,
  dueItems,
  dueRuns,
  resumeNow,
  insertItems,
  insertRun,
  itemsOf,
  nextItemAt,
  nextRunAt,
  reopenItems,
  runOnSite,
  runsOf,
  runWithKey,
} from './automations/runs.js'
export * from './automations/starting.js'
export * from './projections/draftLookup.js'
export * from './webhooks/deliveries.js'
export * from './webhooks/deliveryLog.js'
export * from './webhooks/queueing.js'
export * from './webhooks/webhooks.js'
export * from './connection/savepoint.js'
export * from './jobs/jobs.js'
export * from './jobs/schedules.js'
export * from './adoption/building.js'
export * from './adoption/clearing.js'
export * from './sites/models.js'
export * from './sites/fieldReads.js'
export * from './publications/storedEntries.js'
export * from './assets/assets.js'
export * from './entries/bin.js'
export * from './entries/revisions.js'
export * from './projections/rows.js'
export * from './projections/tree.js'
export * from './references/references.js'
export * from './assets/files.js'
export * from './translations/counts.js'
export * from './translations/tasks.js'
export * from './translations/imports.js'
export * from './translations/glossary.js'
export * from './translations/connectors.js'
export * from './translations/orders.js'
export { actorsIn, archiveParts, type ArchiveLine, type PartName } from './archives/parts.js'
export * from './archives/reading.js'
export * from './archives/publicReading.js'
export * from './archives/writing.js'
