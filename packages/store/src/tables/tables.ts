import type { Sequelize } from 'sequelize'
import { defineOn } from './table.js'
import { sites, settings, models, proposals, fieldReads, service } from './siteTables.js'
import { entries, revisions, saves, publications, paths } from './entryTables.js'
import {
  published,
  drafts,
  translationCounts,
  publishedValues,
  draftValues,
  publishedRefs,
  draftRefs,
  listScans,
  listTurns,
} from './projectionTables.js'
import { events, webhooks, deliveries, attempts } from './eventTables.js'
import {
  accounts,
  passwordLinks,
  memberships,
  invitations,
  sessions,
  accessKeys,
  frontEnds,
  previewCodes,
  grants,
  idempotency,
} from './accessTables.js'
import {
  glossaries,
  jobs,
  jobItems,
  schedules,
  translationImportItems,
  translationImports,
  translationTasks,
  views,
} from './workTables.js'
import {
  connectors,
  translationOrderItems,
  translationOrders,
  translationRules,
  translationTriggers,
} from './orderTables.js'
import { assets, assetRevisions, files } from './assetTables.js'
import { automationItems, automationRuns, automations, automationVersions } from './automationTables.js'
import { importFiles, importMappings, importRows, imports } from './importTables.js'

/** All tables, by their names. */
export const declaredTables = {
  sites,
  settings,
  models,
  proposals,
  field_reads: fieldReads,
  service,
  entries,
  revisions,
  saves,
  publications,
  paths,
  published,
  drafts,
  translation_counts: translationCounts,
  published_values: publishedValues,
  draft_values: draftValues,
  published_refs: publishedRefs,
  draft_refs: draftRefs,
  list_scans: listScans,
  list_turns: listTurns,
  events,
  webhooks,
  deliveries,
  attempts,
  accounts,
  password_links: passwordLinks,
  memberships,
  invitations,
  sessions,
  access_keys: accessKeys,
  front_ends: frontEnds,
  preview_codes: previewCodes,
  grants,
  idempotency,
  jobs,
  job_items: jobItems,
  schedules,
  imports,
  import_rows: importRows,
  import_files: importFiles,
  import_mappings: importMappings,
  automations,
  automation_versions: automationVersions,
  automation_runs: automationRuns,
  automation_items: automationItems,
  glossaries,
  translation_tasks: translationTasks,
  translation_imports: translationImports,
  translation_import_items: translationImportItems,
  connectors,
  translation_rules: translationRules,
  translation_triggers: translationTriggers,
  translation_orders: translationOrders,
  translation_order_items: translationOrderItems,
  views,
  assets,
  asset_revisions: assetRevisions,
  files,
}

/** The tables that have a key, bound to one connection. */
export const tablesOn = (sequelize: Sequelize) => ({
  sites: defineOn(sequelize, sites),
  settings: defineOn(sequelize, settings),
  models: defineOn(sequelize, models),
  proposals: defineOn(sequelize, proposals),
  field_reads: defineOn(sequelize, fieldReads),
  service: defineOn(sequelize, service),
  entries: defineOn(sequelize, entries),
  revisions: defineOn(sequelize, revisions),
  saves: defineOn(sequelize, saves),
  publications: defineOn(sequelize, publications),
  paths: defineOn(sequelize, paths),
  published: defineOn(sequelize, published),
  drafts: defineOn(sequelize, drafts),
  events: defineOn(sequelize, events),
  webhooks: defineOn(sequelize, webhooks),
  imports: defineOn(sequelize, imports),
  import_rows: defineOn(sequelize, importRows),
  import_files: defineOn(sequelize, importFiles),
  import_mappings: defineOn(sequelize, importMappings),
  automations: defineOn(sequelize, automations),
  deliveries: defineOn(sequelize, deliveries),
  attempts: defineOn(sequelize, attempts),
  accounts: defineOn(sequelize, accounts),
  password_links: defineOn(sequelize, passwordLinks),
  memberships: defineOn(sequelize, memberships),
  invitations: defineOn(sequelize, invitations),
  sessions: defineOn(sequelize, sessions),
  access_keys: defineOn(sequelize, accessKeys),
  front_ends: defineOn(sequelize, frontEnds),
  preview_codes: defineOn(sequelize, previewCodes),
  grants: defineOn(sequelize, grants),
  idempotency: defineOn(sequelize, idempotency),
  jobs: defineOn(sequelize, jobs),
  job_items: defineOn(sequelize, jobItems),
  schedules: defineOn(sequelize, schedules),
  views: defineOn(sequelize, views),
  assets: defineOn(sequelize, assets),
  asset_revisions: defineOn(sequelize, assetRevisions),
  files: defineOn(sequelize, files),
})

export type Tables = ReturnType<typeof tablesOn>

export type * from './siteTables.js'
export type * from './entryTables.js'
export type * from './projectionTables.js'
export type * from './eventTables.js'
export type * from './accessTables.js'
export type * from './workTables.js'
export type * from './orderTables.js'
export type * from './assetTables.js'
