import * as beginning from './0001-beginning.js'
import * as shelves from './0002-shelves.js'
import * as search from './0003-search.js'
import * as assets from './0005-assets.js'
import * as editing from './0004-editing.js'
import * as reading from './0006-reading.js'
import * as mending from './0007-mending.js'
import * as holding from './0008-holding.js'
import * as accounts from './0009-accounts.js'
import * as contentLocales from './0010-content-locales.js'
import * as projections from './0011-projections.js'
import * as richText from './0012-rich-text.js'
import * as assetRevisions from './0013-asset-revisions.js'
import * as plainNames from './0014-plain-names.js'
import * as idsAndInvitations from './0015-ids-and-invitations.js'
import * as origins from './0016-origins.js'
import * as translationWork from './0017-translation-work.js'
import * as translationFiles from './0018-translation-files.js'
import * as fallbacks from './0019-fallbacks.js'
import * as translationOrders from './0020-translation-orders.js'
import * as regions from './0021-regions.js'
import * as assetOrigins from './0022-asset-origins.js'
import * as webhooks from './0023-webhooks.js'
import * as imports from './0024-imports.js'
import * as automations from './0025-automations.js'
import * as listTurns from './0026-list-turns.js'
import * as importFiles from './0027-import-files.js'
import * as delivered from './0028-delivered.js'

/** In the order in which they run. A migration never changes: databases have run it already. */
export const migrations = [
  beginning,
  shelves,
  search,
  editing,
  assets,
  reading,
  mending,
  holding,
  accounts,
  contentLocales,
  projections,
  richText,
  assetRevisions,
  plainNames,
  idsAndInvitations,
  origins,
  translationWork,
  translationFiles,
  fallbacks,
  translationOrders,
  regions,
  assetOrigins,
  webhooks,
  imports,
  automations,
  listTurns,
  importFiles,
  delivered,
]
