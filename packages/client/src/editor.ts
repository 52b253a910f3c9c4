import type {
  BinnedEntry,
  BulkItem,
  CopyPlan,
  EntryComparison,
  EditableEntry,
  FieldPlace,
  ListAsks,
  ListView,
  KeyScope,
  LocaleConsequences,
  ModelFile,
  NamedEdit,
  Point,
  Present,
  PublishConsequences,
  RevisionView,
  ScheduleView,
  TreeNode,
  WithdrawalConsequences,
  Usage,
  SiteSettings,
  GoneValue,
  PublishCheck,
} from '@wisteria/core'
import type {
  AccessKey,
  Adopted,
  AdoptedModel,
  Asset,
  AssetChange,
  AssetRevision,
  BulkOrder,
  BulkTrial,
  EntryList,
  EntryMatch,
  FrontEnd,
  Invitation,
  Job,
  Member,
  MemberLimits,
  ModelInForce,
  ScheduledTime,
  Proposal,
  SiteView,
} from './answers.js'
import type { CopyOrder } from './copying.js'
import { Counterparts } from './counterparts.js'
import { WisteriaProblem } from './problem.js'
import { Ordering } from './ordering.js'
import { WebhookAdmin } from './webhookAdmin.js'
import { Automations } from './automations.js'
import { Archives } from './archives.js'
import { Imports } from './imports.js'
import { Translations } from './translations.js'
import {
  addressOf,
  call,
  download,
  segment,
  type Call,
  type Connection,
  type FileCalls,
  type Reply,
} from './transport.js'

/** Changes a site's content, model and settings: everything that the console and the command line do. */
export class Editor {
  readonly #connection: Connection
  readonly #base: string

  constructor(connection: Connection & { readonly site: string }) {
    this.#connection = connection
    this.#base = `/edit/v1/sites/${segment(connection.site)}`
  }

  async #call<Body>(request: Call): Promise<Body> {
    return (await this.#reply<Body>(request)).body
  }

  #reply<Body>(request: Call): Promise<Reply<Body>> {
    return call<Body>(this.#connection, { ...request, path: this.#base + request.path })
  }

  readonly #fileCalls: FileCalls = {
    call: (request) => this.#call(request),
    download: (request) => download(this.#connection, { ...request, path: this.#base + request.path }),
    address: (path, query) => addressOf(this.#connection, this.#base + path, query),
  }
  readonly translations = new Translations(this.#fileCalls)

  readonly imports = new Imports(this.#fileCalls)
  readonly archives = new Archives(this.#fileCalls)
  readonly ordering = new Ordering((request) => this.#call(request))
  readonly webhooks = new WebhookAdmin((request) => this.#call(request))
  readonly automations = new Automations((request) => this.#call(request))
  readonly counterparts = new Counterparts(
    (request) => this.#call(request),
    (request) => this.#reply(request),
  )

  settings = () => this.#call<SiteView>({ path: '' })
  /** Locales that the site had once, whose texts are kept. */
  removedLocales = () =>
    this.#call<{ locales: readonly { tag: string; entries: number; assets: number }[] }>({ path: '/locales/removed' })
  /** Deletes the texts of a removed locale permanently, as a job. */
  forgetLocale = (locale: string) => this.#call<Job>({ method: 'DELETE', path: `/locales/removed/${segment(locale)}` })
  /** The consequences of other settings. Changes nothing. */
  compareLocales = (settings: SiteSettings) =>
    this.#call<LocaleConsequences>({
      method: 'POST',
      path: '/locales/consequences',
      body: settings,
      isQuestion: true,
      isLong: true,
    })
  /** Locales, fallback chains and time zone, with the version that `setLocales` may ask for. */
  locales = async (): Promise<{ readonly settings: SiteSettings; readonly version: string }> => {
    const { body, headers } = await this.#reply<SiteSettings>({ path: '/locales' })
    return { settings: body, version: headers.get('etag') ?? '*' }
  }
  /**
   * @param retire locales whose content may be withdrawn, and is kept.
   * @param version the version that was read: it is refused (412) when somebody has changed the locales since.
   */
  setLocales = async (
    settings: SiteSettings,
    retire: readonly string[] = [],
    { version, onProgress }: { version?: string; onProgress?: (job: Job) => void } = {},
  ): Promise<SiteSettings> => {
    const { job, ...set } = await this.#call<SiteSettings & { job?: Job }>({
      method: 'PUT',
      path: '/locales',
      body: { ...settings, ...(retire.length > 0 ? { retire } : {}) },
      ...(version === undefined ? {} : { headers: { 'If-Match': version } }),
      isLong: true,
    })
    if (job) await this.waitFor(job, onProgress)
    return set
  }
  setOpen = (open: boolean) => this.#call<SiteView>({ method: 'PUT', path: '/open', body: { open } })
  rebuild = () => this.#call<{ rows: number }>({ method: 'POST', path: '/rebuild', isLong: true })

  model = () => this.#call<ModelInForce>({ path: '/model' })
  /** Compares model files with the model in force. Changes nothing. */
  compareModel = (files: readonly ModelFile[]) =>
    this.#call<Proposal>({ method: 'POST', path: '/model/proposals', body: { files }, isLong: true })
  /** Compares an earlier version of the model with the one in force: going back, with the values of removed fields. */
  compareModelVersion = (version: number) =>
    this.#call<Proposal>({ method: 'POST', path: '/model/proposals', body: { version }, isLong: true })
  /** Compares the model of another site with the one in force. @param types only these are taken from it; all when left out. */
  compareModelFrom = (from: string, types?: readonly string[]) =>
    this.#call<Proposal>({ method: 'POST', path: '/model/proposals', body: { from, types }, isLong: true })
  /** What copying content of another site would do. Changes nothing. */
  planCopy = (order: CopyOrder) =>
    this.#call<CopyPlan>({ method: 'POST', path: '/copies/plan', body: order, isLong: true })
  /** Copies content of another site, as a job. @param publish copies are published where their originals are public. */
  copy = (order: CopyOrder, publish = false) =>
    this.#call<Job>({ method: 'POST', path: '/copies', body: { ...order, publish }, isLong: true })
  /**
   * Adopts a proposal. Over many entries that is a job: this waits until it has ended.
   * @throws WisteriaProblem when the job failed or was stopped.
   */
  adoptModel = async (proposal: string, onProgress?: (job: Job) => void): Promise<Adopted> => {
    const adopted = await this.#call<Adopted & { job?: Job }>({
      method: 'POST',
      path: `/model/proposals/${segment(proposal)}/adopt`,
      isLong: true,
    })
    if (adopted.job) await this.waitFor(adopted.job, onProgress)
    return adopted
  }
  /** The models that have been in force, newest first. */
  modelHistory = () => this.#call<{ models: AdoptedModel[] }>({ path: '/model/history' })
  /** The files of one version of the model. */
  modelAt = (version: number) =>
    this.#call<{ version: number; files: readonly ModelFile[] }>({ path: `/model/history/${version}` })

  jobs = () => this.#call<{ jobs: Job[] }>({ path: '/jobs' })
  job = (id: string) => this.#call<Job>({ path: `/jobs/${segment(id)}` })
  stopJob = (id: string) => this.#call<Job>({ method: 'POST', path: `/jobs/${segment(id)}/stop` })
  /** Waits until a job has ended, asking now and then. @throws WisteriaProblem when it failed or was stopped. */
  waitFor = async (job: Job, onProgress?: (job: Job) => void): Promise<Job> => {
    // The asset of a dry run does not exist, so it is not read again.
    if (this.#connection.isDryRun) return job
    let now = job
    for (let pause = 20; now.state === 'running'; pause = Math.min(pause * 1.5, 1000)) {
      onProgress?.(now)
      await new Promise((resolve) => setTimeout(resolve, pause))
      now = await this.job(job.id)
    }
    if (now.state !== 'done') throw new WisteriaProblem(409, { code: 'conflict', detail: now.message, status: 409 }, [])
    return now
  }

  /** A page of assets; `maxUpload` is the largest file that is accepted, in megabytes. */
  assets = (
    query: {
      accepts?: string
      search?: string
      /** A locale in which pictures have no alternative text. */
      withoutAlt?: string
      sort?: 'newest' | 'name'
      first?: number
      after?: string
    } = {},
  ) => this.#call<{ assets: Asset[]; next: string | null; maxUpload: number }>({ path: '/assets', query })
  asset = (id: string) => this.#call<Asset>({ path: `/assets/${segment(id)}` })
  /** Adds a file; `content` is its bytes in base64. */
  addAsset = (asset: { name: string; content: string; alt?: Readonly<Record<string, string>> }) =>
    this.#call<Asset>({ method: 'POST', path: '/assets', body: asset })
  /** Adds a file of any size up to the limit. */
  uploadAsset = (name: string, file: Blob) =>
    this.#call<Asset>({ method: 'POST', path: '/assets/upload', query: { name }, file, isLong: true })
  changeAsset = (id: string, change: AssetChange) =>
    this.#call<Asset>({ method: 'PATCH', path: `/assets/${segment(id)}`, body: change })
  /** Replaces the file; its address stays, and every place that uses it. */
  replaceAsset = (id: string, file: Blob) =>
    this.#call<Asset>({ method: 'PUT', path: `/assets/${segment(id)}/file`, file, isLong: true })
  /** Every state of an asset, newest first; those before a revision, at most `first` (50). */
  assetRevisions = (id: string, query: { before?: number; first?: number } = {}) =>
    this.#call<{ revisions: AssetRevision[]; next: number | null }>({
      path: `/assets/${segment(id)}/revisions`,
      query,
    })
  /** Restores an asset from a revision: both its file and its texts, or one of them. */
  restoreAsset = (id: string, revision: number, only?: 'file' | 'texts') =>
    this.#call<Asset>({
      method: 'POST',
      path: `/assets/${segment(id)}/restore`,
      body: { revision, ...(only ? { only } : {}) },
    })
  /** The entries that use it. */
  assetUsage = (id: string) => this.#call<Usage>({ path: `/assets/${segment(id)}/usage` })
  /** @param revisions `ignore` to delete it although older revisions use it. */
  deleteAsset = (id: string, { revisions }: { readonly revisions?: 'ignore' } = {}) =>
    this.#call<undefined>({ method: 'DELETE', path: `/assets/${segment(id)}`, query: { revisions } })

  /** A page of working copies, of one type or of all. */
  entries = (query: {
    type?: string
    /** Words that they contain in the locale. */
    search?: string
    where?: string
    sort?: string
    first?: number
    after?: string
    locale?: string
    /** Only entries of this region, and of types that belong to all. */
    region?: string
    count?: boolean
    /** Names of fields, parted by commas. */
    columns?: string
  }) => this.#call<EntryList>({ path: '/entries', query })
  /** Entries that contain all these words in some locale, best first. */
  search = (words: string, { type, first }: { type?: string; first?: number } = {}) =>
    this.#call<{ entries: EntryMatch[] }>({ path: '/search', query: { words, type, first } })
  entry = (id: string) => this.#call<EditableEntry>({ path: `/entries/${segment(id)}` })
  /** @param entry `region` is for types that are regional; that of its parent when left out. */
  create = (
    entry: { type: string; id?: string; values: Readonly<Record<string, unknown>>; region?: string },
    idempotencyKey?: string,
  ) => this.#call<EditableEntry>({ method: 'POST', path: '/entries', body: entry, ...keyed(idempotencyKey) })
  /** Saves edits by place that were made on version `base`; merged with others' when they do not touch. */
  edit = (id: string, base: number, edits: readonly NamedEdit[], idempotencyKey?: string) =>
    this.#call<EditableEntry & { merged: boolean; check?: PublishCheck }>({
      method: 'POST',
      path: `/entries/${segment(id)}/edits`,
      body: { base, edits },
      ...keyed(idempotencyKey),
    })
  /** JSON Merge Patch on exactly the version that was read. */
  patch = (id: string, version: number, values: Readonly<Record<string, unknown>>) =>
    this.#call<EditableEntry>({
      method: 'PATCH',
      path: `/entries/${segment(id)}`,
      body: { values },
      headers: { 'If-Match': `"v${version}"`, 'Content-Type': 'application/merge-patch+json' },
    })
  /** Moves it to the bin. */
  delete = (id: string) => this.#call<undefined>({ method: 'DELETE', path: `/entries/${segment(id)}` })
  /** Recently deleted entries, newest first. */
  bin = (after?: string) =>
    this.#call<{ entries: BinnedEntry[]; next: string | null }>({ path: '/bin', query: { after } })
  /** Restores an entry from the bin. */
  restoreFromBin = (id: string) =>
    this.#call<EditableEntry>({ method: 'POST', path: `/bin/${segment(id)}/restore`, body: {} })
  /** Deletes an entry in the bin permanently. */
  deletePermanently = (id: string) => this.#call<undefined>({ method: 'DELETE', path: `/bin/${segment(id)}` })
  archive = (id: string, { withChildren, version }: { withChildren?: boolean; version?: number } = {}) =>
    this.#call<EditableEntry>({
      method: 'POST',
      path: `/entries/${segment(id)}/archive`,
      body: { withChildren },
      ...keyed(undefined, version),
    })
  reactivate = (id: string) =>
    this.#call<EditableEntry>({ method: 'POST', path: `/entries/${segment(id)}/reactivate`, body: {} })
  /** Reports that you have the entry open, or that you left; answers who else has it open. */
  presence = (id: string, where: { at?: string | null; left?: boolean } = {}) =>
    this.#call<{ others: Present[]; version: number; updatedBy: string }>({
      method: 'POST',
      path: `/entries/${segment(id)}/presence`,
      body: where,
    })
  /** Does one action on many entries, as a job. */
  bulk = (order: BulkOrder, idempotencyKey?: string) =>
    this.#call<Job>({ method: 'POST', path: '/entries/bulk', body: order, isLong: true, ...keyed(idempotencyKey) })
  /** The result of a bulk action. Changes nothing. */
  tryBulk = (order: BulkOrder) =>
    this.#call<BulkTrial>({
      method: 'POST',
      path: '/entries/bulk',
      body: { ...order, dryRun: true },
      isQuestion: true,
      isLong: true,
    })
  /** The results of a bulk job so far, entry by entry, a page at a time. */
  bulkItems = (job: string, { after, refused }: { after?: number; refused?: boolean } = {}) =>
    this.#call<{ items: BulkItem[]; next: number | null }>({
      path: `/jobs/${segment(job)}/items`,
      query: { after, refused },
    })
  /** Undoes a bulk job, as another job. */
  undoJob = (job: string) => this.#call<Job>({ method: 'POST', path: `/jobs/${segment(job)}/undo`, body: {} })
  /** Schedules, soonest first; with `ended`, those that have ended. */
  schedules = ({ entry, ended }: { entry?: string; ended?: boolean } = {}) =>
    this.#call<{ schedules: ScheduleView[] }>({ path: '/schedules', query: { entry, ended } })
  /** Schedules a publish of an entry as it is then, or a withdrawal. */
  schedule = (id: string, plan: ScheduledTime & { does: 'publish' | 'withdraw' }) =>
    this.#call<ScheduleView>({ method: 'POST', path: `/entries/${segment(id)}/schedule`, body: plan })
  reschedule = (id: string, plan: ScheduledTime) =>
    this.#call<ScheduleView>({ method: 'PATCH', path: `/schedules/${segment(id)}`, body: plan })
  cancelSchedule = (id: string) => this.#call<undefined>({ method: 'DELETE', path: `/schedules/${segment(id)}` })
  /** The tree of pages, in the order of readers. */
  tree = () => this.#call<{ nodes: TreeNode[]; isComplete: boolean }>({ path: '/tree' })
  /** Moves an entry below another, after a sibling; null for the root, and to be the first. */
  place = (id: string, where: { parent: string | null; after: string | null }) =>
    this.#call<EditableEntry>({ method: 'POST', path: `/entries/${segment(id)}/place`, body: where })
  /** The views that you saved, and the shared ones. */
  views = () => this.#call<{ views: ListView[] }>({ path: '/views' })
  saveView = (view: { name: string; shared?: boolean; asks: ListAsks }) =>
    this.#call<ListView>({ method: 'POST', path: '/views', body: view })
  changeView = (id: string, view: { name: string; shared?: boolean; asks: ListAsks }) =>
    this.#call<ListView>({ method: 'PUT', path: `/views/${segment(id)}`, body: view })
  deleteView = (id: string) => this.#call<undefined>({ method: 'DELETE', path: `/views/${segment(id)}` })
  /** The consequences of publishing, in these locales, together with these entries. */
  consequences = (id: string, locales?: readonly string[], together?: readonly string[]) =>
    this.#call<PublishConsequences>({
      path: `/entries/${segment(id)}/consequences`,
      query: { locales: locales?.join(','), with: together?.length ? together.join(',') : undefined },
    })
  /** The consequences of withdrawing it. */
  withdrawalConsequences = (id: string, locales?: readonly string[]) =>
    this.#call<WithdrawalConsequences>({
      path: `/entries/${segment(id)}/consequences/withdraw`,
      query: { locales: locales?.join(',') },
    })
  /** Who refers to it. */
  usage = (id: string) => this.#call<Usage>({ path: `/entries/${segment(id)}/usage` })
  /** Another entry with the same values: slugs get a number, other unique values are left out. */
  duplicate = (id: string, idempotencyKey?: string) =>
    this.#call<EditableEntry>({
      method: 'POST',
      path: `/entries/${segment(id)}/duplicate`,
      body: {},
      ...keyed(idempotencyKey),
    })
  /** With `version`, only that version is published: after a later save it is refused. */
  publish = (
    id: string,
    {
      locales,
      version,
      idempotencyKey,
      together,
      minor,
    }: {
      locales?: readonly string[]
      version?: number
      idempotencyKey?: string
      /** Entries to publish along, all or nothing. */
      together?: readonly string[]
      /** The changes of the source do not matter to translations: those made from what is public stay current. */
      minor?: boolean
    } = {},
  ) =>
    this.#call<EditableEntry>({
      method: 'POST',
      path: `/entries/${segment(id)}/publish`,
      body: { locales, with: together, minor },
      ...keyed(idempotencyKey, version),
    })
  withdraw = (
    id: string,
    { locales, withChildren, version }: { locales?: readonly string[]; withChildren?: boolean; version?: number } = {},
  ) =>
    this.#call<EditableEntry>({
      method: 'POST',
      path: `/entries/${segment(id)}/withdraw`,
      body: { locales, withChildren },
      ...keyed(undefined, version),
    })
  revisions = (id: string) => this.#call<{ revisions: RevisionView[] }>({ path: `/entries/${segment(id)}/revisions` })
  /** One revision with its values, by names. */
  revision = (id: string, number: number) =>
    this.#call<RevisionView & { values: Readonly<Record<string, unknown>>; gone: readonly GoneValue[] }>({
      path: `/entries/${segment(id)}/revisions/${number}`,
    })
  /** The differences between two states of an entry; between the published and the working copy when none are named. */
  compare = (id: string, { from, to }: { from?: Point; to?: Point } = {}) =>
    this.#call<EntryComparison>({ path: `/entries/${segment(id)}/compare`, query: { from, to } })
  /** Restores the working copy, as a whole or at some places. `changed` is the number of edits. */
  restore = (
    id: string,
    { from, places, version }: { from: number | 'public'; places?: readonly FieldPlace[]; version?: number },
  ) =>
    this.#call<EditableEntry & { changed: number }>({
      method: 'POST',
      path: `/entries/${segment(id)}/restore`,
      body: { from, places },
      ...keyed(undefined, version),
    })
  preview = (id: string, frontEnd: string, locale?: string) =>
    this.#call<{ address: string; path: string | null }>({
      method: 'POST',
      path: `/entries/${segment(id)}/preview`,
      body: { frontEnd, locale },
    })

  members = () => this.#call<{ members: Member[] }>({ path: '/members' })
  addMember = (member: MemberLimits & { email: string; name?: string; password?: string }) =>
    this.#call<Member>({ method: 'POST', path: '/members', body: member })
  changeMember = (account: string, change: MemberLimits) =>
    this.#call<Member>({ method: 'PUT', path: `/members/${segment(account)}`, body: change })
  removeMember = (account: string) => this.#call<undefined>({ method: 'DELETE', path: `/members/${segment(account)}` })

  /** Open invitations. */
  invitations = () => this.#call<{ invitations: Invitation[] }>({ path: '/invitations' })
  /** Invites somebody by a one-time link, which only this answer contains. An earlier link to the same e-mail stops working. */
  invite = (invited: MemberLimits & { email: string }) =>
    this.#call<Invitation & { address: string }>({ method: 'POST', path: '/invitations', body: invited })
  revokeInvitation = (id: string) => this.#call<undefined>({ method: 'DELETE', path: `/invitations/${segment(id)}` })

  keys = () => this.#call<{ keys: AccessKey[] }>({ path: '/keys' })
  createKey = (key: { label: string; scope: KeyScope }) =>
    this.#call<AccessKey & { secret: string }>({ method: 'POST', path: '/keys', body: key })
  revokeKey = (id: string) => this.#call<undefined>({ method: 'DELETE', path: `/keys/${segment(id)}` })

  frontEnds = () => this.#call<{ frontEnds: FrontEnd[] }>({ path: '/front-ends' })
  setFrontEnd = (name: string, frontEnd: Omit<FrontEnd, 'name' | 'createdAt'>) =>
    this.#call<FrontEnd>({ method: 'PUT', path: `/front-ends/${segment(name)}`, body: frontEnd })
  removeFrontEnd = (name: string) => this.#call<undefined>({ method: 'DELETE', path: `/front-ends/${segment(name)}` })

  events = (after = 0, first = 100) =>
    this.#call<{ events: Record<string, unknown>[]; sequence: number }>({ path: '/events', query: { after, first } })
}

function keyed(idempotencyKey: string | undefined, version?: number): Pick<Call, 'headers'> {
  return {
    headers: {
      ...(idempotencyKey === undefined ? {} : { 'Idempotency-Key': idempotencyKey }),
      ...(version === undefined ? {} : { 'If-Match': `"v${version}"` }),
    },
  }
}
