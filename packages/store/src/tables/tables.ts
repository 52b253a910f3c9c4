import { DataTypes, type Model, type ModelStatic, type Sequelize } from 'sequelize'

/*
 * One interface a table. Columns that hold JSON are texts here: what is in them is the core's, and is parsed where it is
 * needed. Times are ISO instants in UTC. The schema itself, with its keys and indexes, is in migrations.ts.
 */

export interface SiteRow {
  id: string
  name: string
  /** 1 when the published edition may be read without a key. */
  open: number
  model_version: number
  settings_version: number
  /** The number of the newest event. */
  sequence: number
  /** Moves only when something that a published reader sees has changed. */
  generation: number
  /** Changes when a backup is restored, so that generations of two histories are never compared. */
  epoch: string
  created_at: string
  /** The shelf that the site's rows are read from. */
  shelf: string
  /** The job that is putting rows on another shelf, while there is one. */
  adoption: string | null
}
export interface SettingsRow {
  site: string
  version: number
  settings: string
  sequence: number
  at: string
  actor: string
}
export interface ModelRow {
  site: string
  version: number
  model: string
  files: string
  consequences: string
  sequence: number
  at: string
  actor: string
}
export interface ProposalRow {
  id: string
  site: string
  base_version: number
  model: string
  files: string
  consequences: string
  at: string
  actor: string
}
export interface EntryRow {
  id: string
  site: string
  /** Internal id of the content type. */
  type: string
  version: number
  /** Number of the newest revision: the working copy. */
  revision: number
  created_at: string
  created_by: string
  updated_at: string
  updated_by: string
  /** The oldest version that a save may still be based on: the edits of all saves after it are kept. */
  mergeable_from: number
  /** When it was set aside; null while it is in use. */
  archived_at: string | null
  /** When it was put into the bin; null while it is not there. */
  deleted_at: string | null
  deleted_by: string | null
}
export interface RevisionRow {
  entry: string
  number: number
  site: string
  document: string
  model_version: number
  /** The entry's version when this revision last changed. */
  version: number
  author: string
  created_at: string
  updated_at: string
  /** Null while it is open. A sealed revision never changes. */
  sealed_at: string | null
}
export interface SaveRow {
  entry: string
  version: number
  site: string
  edits: string
  author: string
  at: string
}
export interface PublicationRow {
  id: number
  site: string
  entry: string
  /** A locale, or `*` for the shared layer. */
  layer: string
  /** Null takes the layer down. */
  revision: number | null
  model_version: number
  sequence: number
  at: string
  actor: string
  action: string
}
/** Of `published` and of `drafts`: the same columns, and nothing shared. */
export interface EditionTableRow {
  shelf: string
  type: string
  entry: string
  locale: string
  /** The locale that its words are in. */
  content_locale: string
  doc: string
  facts: string
  /** The ids it refers to, anywhere, as a JSON list. */
  refs: string
  /** The ids of the assets it holds, as a JSON list. */
  assets: string
  path: string | null
  title: string
  published_at: string | null
  updated_at: string
}
export interface DraftRow extends EditionTableRow {
  state: string
  /** Of the locale as a translation; empty where it is none. */
  freshness: string
  summary: string
  version: number
}
export interface EditionValueRow {
  shelf: string
  entry: string
  locale: string
  field: string
  value: string | number
}
export interface EditionRefRow {
  shelf: string
  entry: string
  locale: string
  field: string
  target: string
  direct: number
}
export interface PathRow {
  site: string
  path: string
  locale: string
  entry: string
  current: number
  since: string
}
export interface EventRow {
  site: string; sequence: number; id: string; type: string; time: string; actor: string; action: string; entry: string | null; data: string
} // prettier-ignore
export interface WebhookRow {
  id: string; site: string; label: string; address: string; secret: string; events: string; enabled: number; created_at: string; created_by: string
} // prettier-ignore
export interface DeliveryRow {
  id: string
  site: string
  webhook: string
  sequence: number
  /** What is kept in order: one queue a webhook and entry. Empty for events of the site. */
  entry: string
  status: 'waiting' | 'delivered' | 'setAside'
  attempts: number
  next_at: string
  created_at: string
  /** Whether it is the first that waits in its queue, 0 or 1. */
  head: number
}
export interface AttemptRow {
  id: string; delivery: string; at: string; status: number | null; took: number; answer: string; error: string | null
} // prettier-ignore
export interface AccountRow {
  id: string
  email: string
  name: string
  password: string
  operator: number
  created_at: string
  /** Since when it may not sign in. */
  disabled_at: string | null
}
/** A one-time link by which somebody sets a new password, by the digest of its code. */
export interface PasswordLinkRow {
  hash: string
  account: string
  created_by: string
  created_at: string
  expires_at: string
}
export interface MembershipRow {
  account: string
  site: string
  role: string
  locales: string | null
  created_at: string
}
export interface SessionRow {
  hash: string
  account: string
  created_at: string
  expires_at: string
}
export interface AccessKeyRow {
  id: string; site: string; label: string; scope: string; prefix: string; hash: string; created_at: string; created_by: string
  last_used_at: string | null; revoked_at: string | null
} // prettier-ignore
export interface FrontEndRow {
  id: string
  site: string
  name: string
  label: string
  origins: string
  enter: string
  created_at: string
}
export interface PreviewCodeRow {
  hash: string; site: string; front_end: string; account: string; expires_at: string; used_at: string | null
} // prettier-ignore
export interface GrantRow {
  id: string; site: string; front_end: string; account: string; created_at: string; expires_at: string; revoked_at: string | null
} // prettier-ignore
export interface IdempotencyRow {
  caller: string
  key: string
  request: string
  status: number
  answer: string
  etag: string | null
  at: string
}
/** Long work: what it is to do, how far it is, and how it ended. */
export interface JobRow {
  id: string
  site: string
  kind: 'adoption' | 'bulk'
  state: 'running' | 'done' | 'failed' | 'stopped'
  done: number
  total: number
  task: string
  cursor: string
  message: string
  actor: string
  created_at: string
  finished_at: string | null
}
/** One entry of a bulk job. */
export interface JobItemRow {
  job: string
  position: number
  entry: string
  title: string
  state: 'waiting' | 'done' | 'refused' | 'skipped'
  /** Why it was refused or skipped. */
  message: string
  /** What it takes to put it back, as JSON; null where nothing was changed. */
  before: string | null
  /** The version that the job left it at. */
  after: number | null
}
/** What is planned for an entry at a time. */
export interface ScheduleRow {
  id: string
  site: string
  entry: string
  does: 'publish' | 'unpublish'
  /** A JSON list; null for all that have words, or are public. */
  locales: string | null
  /** ISO instant. */
  at: string
  /** The time zone that it was said in. */
  zone: string
  state: 'planned' | 'done' | 'failed' | 'calledOff'
  message: string
  actor: string
  created_at: string
  ended_at: string | null
  /** How often it was begun. */
  tries: number
}
/** A list that somebody keeps. */
export interface ViewRow {
  id: string
  site: string
  name: string
  owner: string
  /** 1 when everybody on the site sees it. */
  shared: number
  asks: string
  created_at: string
  updated_at: string
}
export interface FieldReadRow {
  site: string
  key: string
  type: string
  /** Internal id of the field, or `*` for all of the type. */
  field: string
  name: string
  at: string
}
export interface AssetRow {
  id: string; site: string; name: string; media_type: string; size: number; hash: string; width: number | null; height: number | null
  /** By locale, as JSON. */
  alt: string; title: string; caption: string
  /** What matters in a picture, from 0 to 1 from the start and from the top. */
  focal_x: number | null; focal_y: number | null
  created_at: string; created_by: string; updated_at: string
} // prettier-ignore
export interface ServiceRow {
  name: string
  value: string
}

type Table<Row extends object> = ModelStatic<Model<Row, Partial<Row>>>

const { TEXT, INTEGER, REAL } = DataTypes
type Columns<Row> = { readonly [Name in keyof Required<Row>]: 'key' | 'text' | 'integer' | 'real' | 'auto' }

/** The tables, bound to one connection. */
export function tablesOn(sequelize: Sequelize) {
  const table = <Row extends object>(name: string, columns: Columns<Row>): Table<Row> =>
    sequelize.define(
      name,
      Object.fromEntries(
        Object.entries(columns).map(([column, is]) => [
          column,
          {
            type: is === 'integer' || is === 'auto' ? INTEGER : is === 'real' ? REAL : TEXT,
            primaryKey: is === 'key' || is === 'auto',
            ...(is === 'auto' ? { autoIncrement: true } : {}),
          },
        ]),
      ),
      { tableName: name, timestamps: false, freezeTableName: true },
    ) as unknown as Table<Row>
  const edition = {
    shelf: 'key', type: 'text', entry: 'key', locale: 'key', content_locale: 'text', doc: 'text', facts: 'text', refs: 'text', assets: 'text', path: 'text',
    title: 'text', published_at: 'text', updated_at: 'text',
  } as const // prettier-ignore
  const values = { shelf: 'key', entry: 'key', locale: 'key', field: 'key', value: 'key' } as const
  const refs = { shelf: 'key', entry: 'key', locale: 'key', field: 'key', target: 'key', direct: 'integer' } as const
  return {
    sites: table<SiteRow>('sites', {
      id: 'key', name: 'text', open: 'integer', model_version: 'integer', settings_version: 'integer', sequence: 'integer',
      generation: 'integer', epoch: 'text', created_at: 'text', shelf: 'text', adoption: 'text',
    }), // prettier-ignore
    settings: table<SettingsRow>('settings', {
      site: 'key',
      version: 'key',
      settings: 'text',
      sequence: 'integer',
      at: 'text',
      actor: 'text',
    }),
    models: table<ModelRow>('models', {
      site: 'key',
      version: 'key',
      model: 'text',
      files: 'text',
      consequences: 'text',
      sequence: 'integer',
      at: 'text',
      actor: 'text',
    }),
    proposals: table<ProposalRow>('proposals', {
      id: 'key',
      site: 'text',
      base_version: 'integer',
      model: 'text',
      files: 'text',
      consequences: 'text',
      at: 'text',
      actor: 'text',
    }),
    entries: table<EntryRow>('entries', {
      id: 'key', site: 'text', type: 'text', version: 'integer', revision: 'integer', created_at: 'text', created_by: 'text',
      updated_at: 'text', updated_by: 'text', mergeable_from: 'integer', archived_at: 'text', deleted_at: 'text', deleted_by: 'text',
    }), // prettier-ignore
    revisions: table<RevisionRow>('revisions', {
      entry: 'key', number: 'key', site: 'text', document: 'text', model_version: 'integer', version: 'integer', author: 'text',
      created_at: 'text', updated_at: 'text', sealed_at: 'text',
    }), // prettier-ignore
    saves: table<SaveRow>('saves', {
      entry: 'key',
      version: 'key',
      site: 'text',
      edits: 'text',
      author: 'text',
      at: 'text',
    }),
    publications: table<PublicationRow>('publications', {
      id: 'auto', site: 'text', entry: 'text', layer: 'text', revision: 'integer', model_version: 'integer', sequence: 'integer',
      at: 'text', actor: 'text', action: 'text',
    }), // prettier-ignore
    published: table<EditionTableRow>('published', edition),
    drafts: table<DraftRow>('drafts', {
      ...edition,
      state: 'text',
      freshness: 'text',
      summary: 'text',
      version: 'integer',
    }),
    published_values: table<EditionValueRow>('published_values', values),
    draft_values: table<EditionValueRow>('draft_values', values),
    published_refs: table<EditionRefRow>('published_refs', refs),
    draft_refs: table<EditionRefRow>('draft_refs', refs),
    paths: table<PathRow>('paths', {
      site: 'key',
      path: 'key',
      locale: 'text',
      entry: 'text',
      current: 'integer',
      since: 'text',
    }),
    events: table<EventRow>('events', {
      site: 'key', sequence: 'key', id: 'text', type: 'text', time: 'text', actor: 'text', action: 'text', entry: 'text', data: 'text',
    }), // prettier-ignore
    webhooks: table<WebhookRow>('webhooks', {
      id: 'key', site: 'text', label: 'text', address: 'text', secret: 'text', events: 'text', enabled: 'integer', created_at: 'text', created_by: 'text',
    }), // prettier-ignore
    deliveries: table<DeliveryRow>('deliveries', {
      id: 'key', site: 'text', webhook: 'text', sequence: 'integer', entry: 'text', status: 'text', attempts: 'integer', next_at: 'text', created_at: 'text', head: 'integer',
    }), // prettier-ignore
    attempts: table<AttemptRow>('attempts', {
      id: 'key',
      delivery: 'text',
      at: 'text',
      status: 'integer',
      took: 'integer',
      answer: 'text',
      error: 'text',
    }),
    accounts: table<AccountRow>('accounts', {
      id: 'key',
      email: 'text',
      name: 'text',
      password: 'text',
      operator: 'integer',
      created_at: 'text',
      disabled_at: 'text',
    }),
    password_links: table<PasswordLinkRow>('password_links', {
      hash: 'key',
      account: 'text',
      created_by: 'text',
      created_at: 'text',
      expires_at: 'text',
    }),
    memberships: table<MembershipRow>('memberships', {
      account: 'key',
      site: 'key',
      role: 'text',
      locales: 'text',
      created_at: 'text',
    }),
    sessions: table<SessionRow>('sessions', { hash: 'key', account: 'text', created_at: 'text', expires_at: 'text' }),
    access_keys: table<AccessKeyRow>('access_keys', {
      id: 'key', site: 'text', label: 'text', scope: 'text', prefix: 'text', hash: 'text', created_at: 'text', created_by: 'text',
      last_used_at: 'text', revoked_at: 'text',
    }), // prettier-ignore
    front_ends: table<FrontEndRow>('front_ends', {
      id: 'key',
      site: 'text',
      name: 'text',
      label: 'text',
      origins: 'text',
      enter: 'text',
      created_at: 'text',
    }),
    preview_codes: table<PreviewCodeRow>('preview_codes', {
      hash: 'key', site: 'text', front_end: 'text', account: 'text', expires_at: 'text', used_at: 'text',
    }), // prettier-ignore
    grants: table<GrantRow>('grants', {
      id: 'key', site: 'text', front_end: 'text', account: 'text', created_at: 'text', expires_at: 'text', revoked_at: 'text',
    }), // prettier-ignore
    idempotency: table<IdempotencyRow>('idempotency', {
      caller: 'key',
      key: 'key',
      request: 'text',
      status: 'integer',
      answer: 'text',
      etag: 'text',
      at: 'text',
    }),
    jobs: table<JobRow>('jobs', {
      id: 'key', site: 'text', kind: 'text', state: 'text', done: 'integer', total: 'integer', task: 'text', cursor: 'text', message: 'text',
      actor: 'text', created_at: 'text', finished_at: 'text',
    }), // prettier-ignore
    job_items: table<JobItemRow>('job_items', {
      job: 'key',
      position: 'key',
      entry: 'text',
      title: 'text',
      state: 'text',
      message: 'text',
      before: 'text',
      after: 'integer',
    }),
    schedules: table<ScheduleRow>('schedules', {
      id: 'key', site: 'text', entry: 'text', does: 'text', locales: 'text', at: 'text', zone: 'text', state: 'text', message: 'text',
      actor: 'text', created_at: 'text', ended_at: 'text', tries: 'integer',
    }), // prettier-ignore
    views: table<ViewRow>('views', {
      id: 'key', site: 'text', name: 'text', owner: 'text', shared: 'integer', asks: 'text', created_at: 'text', updated_at: 'text',
    }), // prettier-ignore
    field_reads: table<FieldReadRow>('field_reads', {
      site: 'key',
      key: 'key',
      type: 'key',
      field: 'key',
      name: 'key',
      at: 'text',
    }),
    assets: table<AssetRow>('assets', {
      id: 'key', site: 'text', name: 'text', media_type: 'text', size: 'integer', hash: 'text', width: 'integer', height: 'integer', alt: 'text',
      title: 'text', caption: 'text', focal_x: 'real', focal_y: 'real', created_at: 'text', created_by: 'text', updated_at: 'text',
    }), // prettier-ignore
    service: table<ServiceRow>('service', { name: 'key', value: 'text' }),
  }
}

export type Tables = ReturnType<typeof tablesOn>
