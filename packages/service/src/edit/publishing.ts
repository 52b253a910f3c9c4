import {
  changesBetween,
  composePublic,
  decideTouch,
  isLocalized,
  layerOf,
  layersAfter,
  localeTags,
  parentOf,
  pathIn,
  publicRows,
  sameContent,
  typeWithId,
  validate,
  WisteriaError,
  type Change,
  type ContentType,
  type Problem,
  type PublicHistory,
  type PublicLayers,
} from '@wisteria/core'
import {
  Act,
  childrenOf,
  descendantsOf,
  holderOf,
  publicHistoryOf,
  raiseVersion,
  recordPaths,
  rewriteDescendants,
  sealNewest,
  sharedLayer,
  workingCopyOf,
  writeDraftRows,
  writePublicRows,
  type PublicChange,
  type Reader,
  type RowsChanged,
  type Site,
  type Transaction,
  type WorkingCopy,
} from '@wisteria/store'
import type { Kernel } from '../kernel.js'
import { invalid, referenceProblems, type Author } from './saving.js'

/** What a publish would do, before it is done. */
export interface PublishConsequences {
  readonly version: number
  readonly locales: readonly string[]
  /** Everything in the way, in every locale that would be public. */
  readonly problems: readonly Problem[]
  /** Public now, and after. */
  readonly changes: readonly Change[]
  readonly paths: Readonly<Record<string, { readonly from: string | null; readonly to: string | null }>>
  /** Entries that it refers to and that no reader can see: they are left out until they are public. */
  readonly hiddenReferences: readonly { readonly id: string; readonly type: string; readonly title: string }[]
  /** Public entries that refer to it, or whose path hangs on its path. */
  readonly affects: readonly {
    readonly id: string
    readonly type: string
    readonly title: string
    readonly because: 'refers' | 'below'
  }[]
}

/**
 * The locales to publish when none are named: every one that the working copy has words of its own in, and any that is
 * public already. A type without localized fields is published under the default locale.
 */
export function localesToPublish(
  site: Site,
  copy: WorkingCopy,
  history: PublicHistory,
  asked: readonly string[] | undefined,
): string[] {
  const all = localeTags(site.settings)
  if (!isLocalized(site.model, copy.type)) {
    const other = asked?.filter((locale) => locale !== site.settings.defaultLocale) ?? []
    if (other.length > 0)
      throw badLocale(
        `${copy.type.label} has no localized fields: it is published under ${site.settings.defaultLocale}, for all locales.`,
      )
    return [site.settings.defaultLocale]
  }
  if (asked) {
    const unknown = asked.find((locale) => !all.includes(locale))
    if (unknown !== undefined) throw badLocale(`\`${unknown}\` is not a locale of this site (${all.join(', ')}).`)
    if (asked.length === 0) throw badLocale('Name at least one locale.')
    return all.filter((locale) => asked.includes(locale))
  }
  return all.filter((locale) => history.layers?.locales[locale] !== undefined || hasWords(site, copy, locale))
}

/** Whether an entry has a value of its own in a locale. */
function hasWords(site: Site, copy: WorkingCopy, locale: string): boolean {
  return Object.keys(layerOf(site.model, copy.type, copy.document, locale)).length > 0
}

const badLocale = (message: string): WisteriaError =>
  new WisteriaError('invalid', message, { problems: [{ code: 'badLocale', pointer: '/locales', message }] })

export async function publishConsequences(
  reader: Reader,
  site: Site,
  copy: WorkingCopy,
  asked: readonly string[] | undefined,
): Promise<PublishConsequences> {
  const history = await publicHistoryOf(reader, copy.id)
  const locales = localesToPublish(site, copy, history, asked)
  const after = layersAfter(copy.document, locales, history.layers)
  const before = history.layers ? composePublic(site.model, copy.type, history.layers) : {}
  const composed = composePublic(site.model, copy.type, after)
  const paths = await pathsAfter(reader, site, copy, after)
  return {
    version: copy.version,
    locales,
    problems: await problemsOf(reader, site, copy, after),
    changes: changesBetween(site.model, copy.type, before, composed, localeTags(site.settings)),
    paths,
    hiddenReferences: await hiddenReferences(reader, site, copy),
    affects: await affectedBy(reader, site, copy.id, Object.keys(paths).length > 0),
  }
}

/** Everything that keeps these layers from being public. */
async function problemsOf(reader: Reader, site: Site, copy: WorkingCopy, after: PublicLayers): Promise<Problem[]> {
  const { type } = copy
  const problems = validate(site.model, type, after, site.settings)
  problems.push(...(await referenceProblems(reader, site, copy)))
  const composed = composePublic(site.model, type, after)
  const parent = parentOf(type, composed)
  const parentField = type.fields.find((field) => field.name === type.parent)
  const parentRows =
    parent === undefined
      ? []
      : await reader.all<{ locale: string; path: string | null }>(
          'select locale, path from published where entry = ?',
          [parent],
        )
  if (parent !== undefined && parentRows.length === 0)
    problems.push({
      code: 'parentNotPublic',
      pointer: `/values/${parentField!.name}`,
      message: `${parentField!.label} is not public. Publish it first: an entry's path hangs on its parent's.`,
    })
  const slugField = type.fields.find((field) => field.kind === 'slug')
  for (const row of publicRows(site.model, type, site.settings, after, (locale) =>
    parent === undefined ? null : (parentRows.find((one) => one.locale === locale)?.path ?? undefined),
  )) {
    const slugPointer = slugField
      ? `/values/${slugField.name}${slugField.localized ? '/' + row.locale : ''}`
      : undefined
    if (row.path === null) {
      const missing =
        type.path?.[row.locale] !== undefined &&
        after.locales[row.locale] !== undefined &&
        !(parent !== undefined && parentRows.length === 0)
      if (missing)
        problems.push({
          code: 'noPath',
          locale: row.locale,
          message: `${slugField?.label ?? 'Slug'} is empty in ${row.locale}, so there is no path. Write one.`,
          ...(slugPointer ? { pointer: slugPointer } : {}),
        })
      continue
    }
    const holder = await holderOf(reader, site.id, row.path)
    if (!holder?.isCurrent || (holder.entry === copy.id && holder.locale === row.locale)) continue
    const [other] = await reader.all<{ title: string }>('select title from published where entry = ? and locale = ?', [
      holder.entry,
      holder.locale,
    ])
    const message =
      holder.entry === copy.id
        ? `${row.path} would be the path in ${holder.locale} and in ${row.locale}. Choose another slug in one.`
        : `${row.path} belongs to “${other?.title ?? holder.entry}”. Choose another slug.`
    problems.push({ code: 'pathTaken', locale: row.locale, message, ...(slugPointer ? { pointer: slugPointer } : {}) })
  }
  return problems
}

async function pathsAfter(
  reader: Reader,
  site: Site,
  copy: WorkingCopy,
  after: PublicLayers,
): Promise<RowsChanged['paths']> {
  const composed = composePublic(site.model, copy.type, after)
  const parent = parentOf(copy.type, composed)
  const now = await reader.all<{ entry: string; locale: string; path: string | null }>(
    'select entry, locale, path from published where entry in (?, ?)',
    [copy.id, parent ?? ''],
  )
  const pathOf = (entry: string, locale: string) =>
    now.find((row) => row.entry === entry && row.locale === locale)?.path ?? null
  return Object.fromEntries(
    publicRows(site.model, copy.type, site.settings, after, () => null).flatMap(({ locale }) => {
      const from = pathOf(copy.id, locale)
      const to =
        pathIn(
          copy.type,
          composed,
          site.settings,
          locale,
          parent === undefined ? null : (pathOf(parent, locale) ?? undefined),
        ) ?? null
      return from === to ? [] : [[locale, { from, to }]]
    }),
  )
}

async function hiddenReferences(
  reader: Reader,
  site: Site,
  copy: WorkingCopy,
): Promise<PublishConsequences['hiddenReferences']> {
  const rows = await reader.all<{ id: string; type: string; title: string }>(
    `select distinct d.entry as id, d.type, d.title from draft_refs r join drafts d on d.entry = r.target and d.locale = ?
     where r.entry = ? and not exists (select 1 from published p where p.entry = r.target)`,
    [site.settings.defaultLocale, copy.id],
  )
  return rows.map((row) => ({ ...row, type: typeWithId(site.model, row.type)?.name ?? '' }))
}

async function affectedBy(
  reader: Reader,
  site: Site,
  entry: string,
  pathsChange: boolean,
): Promise<PublishConsequences['affects']> {
  const below = pathsChange ? (await descendantsOf(reader, site, 'published', entry)).map(({ id }) => id) : []
  const referring = await reader.all<{ entry: string }>(
    'select distinct entry from published_refs where target = ? order by entry limit 100',
    [entry],
  )
  const refers = referring.map((row) => row.entry).filter((id) => id !== entry && !below.includes(id))
  // Named in the default locale, or in any that it can be read in.
  const rows = await reader.all<{ entry: string; type: string; title: string }>(
    `select entry, type, title from published where entry in (select value from json_each(?)) order by locale = ?`,
    [JSON.stringify([...below, ...refers]), site.settings.defaultLocale],
  )
  const named = new Map(rows.map((row) => [row.entry, row]))
  return [...below, ...refers].flatMap((id) => {
    const row = named.get(id)
    if (!row) return []
    const type = typeWithId(site.model, row.type)?.name ?? ''
    return [{ id, type, title: row.title, because: below.includes(id) ? ('below' as const) : ('refers' as const) }]
  })
}

/**
 * Publishes locales of an entry, and with them its shared layer: seals the revision, appends to `publications`, and
 * rebuilds the entry's rows, in the caller's transaction with its event.
 * @throws WisteriaError `invalid` with every problem in every locale that would be public.
 */
export async function publish(
  kernel: Kernel,
  transaction: Transaction,
  site: Site,
  author: Author,
  copy: WorkingCopy,
  asked: readonly string[] | undefined,
): Promise<WorkingCopy> {
  const history = await publicHistoryOf(transaction, copy.id)
  const locales = localesToPublish(site, copy, history, asked)
  if (locales.length === 0) throw badLocale('There is nothing to publish: the entry has no words in any locale yet.')
  const may = decideTouch(author.caller, { locales, shared: sharedDiffers(site, copy, history) }, 'publish')
  if (!may.allowed) throw new WisteriaError('forbidden', may.because!)
  const after = layersAfter(copy.document, locales, history.layers)
  const problems = await problemsOf(transaction, site, copy, after)
  if (problems.length > 0) throw invalid(problems)
  const act = new Act(transaction, site, author.actor, kernel.surroundings)
  const before = history.layers ? composePublic(site.model, copy.type, history.layers) : {}
  const fields = [
    ...new Set(
      changesBetween(
        site.model,
        copy.type,
        before,
        composePublic(site.model, copy.type, after),
        localeTags(site.settings),
      ).map((change) => change.field),
    ),
  ]
  await sealNewest(transaction, copy, act.at)
  await append(transaction, act, copy, [sharedLayer, ...locales], copy.revision)
  const raised = await raiseVersion(transaction, copy)
  const change = await takeEffect(transaction, act, raised, after)
  await act.tell(
    'entry.published',
    { entry: { id: copy.id, type: copy.type.name }, version: raised.version, locales, fields, paths: change.paths },
    change.public,
  )
  return raised
}

const sharedDiffers = (site: Site, copy: WorkingCopy, history: PublicHistory): boolean =>
  history.layers === undefined ||
  !sameContent(
    layerOf(site.model, copy.type, copy.document, undefined),
    layerOf(site.model, copy.type, history.layers.shared, undefined),
  )

/** Takes locales of an entry down; with the last one the shared layer leaves too. */
export async function unpublish(
  kernel: Kernel,
  transaction: Transaction,
  site: Site,
  author: Author,
  copy: WorkingCopy,
  asked: readonly string[] | undefined,
  withChildren: boolean,
): Promise<WorkingCopy> {
  const history = await publicHistoryOf(transaction, copy.id)
  const publicLocales = localeTags(site.settings).filter((locale) => history.layers?.locales[locale] !== undefined)
  const locales = asked ?? publicLocales
  const notPublic = locales.find((locale) => !publicLocales.includes(locale))
  if (notPublic !== undefined || locales.length === 0)
    throw new WisteriaError(
      'conflict',
      notPublic === undefined ? 'Nothing of the entry is public.' : `The entry is not public in \`${notPublic}\`.`,
    )
  const left = publicLocales.filter((locale) => !locales.includes(locale))
  // Values that all locales share leave when the last locale does.
  const may = decideTouch(author.caller, { locales, shared: left.length === 0 }, 'publish')
  if (!may.allowed) throw new WisteriaError('forbidden', may.because!)
  const act = new Act(transaction, site, author.actor, kernel.surroundings)
  if (left.length === 0) await takeChildrenDown(transaction, act, copy, withChildren)
  return takeDown(transaction, act, copy, locales, left, history)
}

async function takeChildrenDown(
  transaction: Transaction,
  act: Act,
  copy: WorkingCopy,
  withChildren: boolean,
): Promise<void> {
  const children = await childrenOf(transaction, act.site, 'published', [copy.id])
  if (children.length === 0) return
  const titles = await transaction.all<{ id: string; title: string }>(
    'select entry as id, max(title) as title from published where entry in (select value from json_each(?)) group by entry',
    [JSON.stringify(children.map(({ id }) => id))],
  )
  if (!withChildren) {
    const names = titles.map(({ title }) => `“${title}”`).join(', ')
    throw new WisteriaError(
      'conflict',
      `Public entries stand below this one: ${names}. Take them down with it: \`withChildren\`.`,
      { extra: { children: titles } },
    )
  }
  for (const { id } of children) {
    const child = (await workingCopyOf(transaction, act.site, id))!
    await takeChildrenDown(transaction, act, child, true)
    const history = await publicHistoryOf(transaction, id)
    await takeDown(transaction, act, child, Object.keys(history.layers?.locales ?? {}), [], history)
  }
}

async function takeDown(
  transaction: Transaction,
  act: Act,
  copy: WorkingCopy,
  locales: readonly string[],
  left: readonly string[],
  history: PublicHistory,
): Promise<WorkingCopy> {
  await append(transaction, act, copy, left.length === 0 ? [...locales, sharedLayer] : locales, null)
  const raised = await raiseVersion(transaction, copy)
  const layers: PublicLayers | undefined =
    left.length === 0
      ? undefined
      : {
          shared: history.layers!.shared,
          locales: Object.fromEntries(left.map((locale) => [locale, history.layers!.locales[locale]!])),
        }
  if (layers) {
    const problems = validate(act.site.model, copy.type, layers, act.site.settings)
    if (problems.length > 0)
      throw invalid(
        problems.map((problem) => ({
          ...problem,
          message: `${problem.message} What stays public would not be valid.`,
        })),
      )
  }
  const change = await takeEffect(transaction, act, raised, layers)
  await act.tell(
    'entry.unpublished',
    { entry: { id: copy.id, type: copy.type.name }, version: raised.version, locales, paths: change.paths },
    change.public,
  )
  return raised
}

async function append(
  transaction: Transaction,
  act: Act,
  copy: WorkingCopy,
  layers: readonly string[],
  revision: number | null,
): Promise<void> {
  for (const layer of layers)
    await transaction.run('insert into publications (site, entry, layer, revision, model_version, sequence, at, actor, action) values (?, ?, ?, ?, ?, ?, ?, ?, ?)', [
      act.site.id, copy.id, layer, revision, act.site.model.version, act.sequence, act.at, act.actor, act.action,
    ]) // prettier-ignore
}

/** Makes the rows of both editions say what the layers now are, and records paths. */
async function takeEffect(
  transaction: Transaction,
  act: Act,
  copy: WorkingCopy,
  layers: PublicLayers | undefined,
): Promise<{ paths: RowsChanged['paths']; public: PublicChange }> {
  const { site, at } = act
  const own = await writePublicRows(transaction, site, copy.type, copy.id, layers, at)
  const below = Object.keys(own.paths).length > 0 ? await rewriteDescendants(transaction, site, copy.id, at) : []
  const changed: { id: string; type: ContentType; changed: RowsChanged }[] = [
    { id: copy.id, type: copy.type, changed: own },
    ...below,
  ]
  await recordPaths(
    transaction,
    site,
    changed.map(({ id, changed: { paths } }) => ({ entry: id, paths })),
    at,
  )
  await writeDraftRows(
    transaction,
    site,
    copy.type,
    copy,
    copy.document,
    await publicHistoryOf(transaction, copy.id),
    at,
  )
  const current = await transaction.all<{ path: string }>(
    'select path from published where entry in (select value from json_each(?)) and path is not null',
    [JSON.stringify(changed.map(({ id }) => id))],
  )
  const old = changed.flatMap(({ changed: { paths } }) => Object.values(paths).flatMap(({ from }) => from ?? []))
  return {
    paths: own.paths,
    public: {
      entries: changed.map(({ id, type }) => ({ id, type: type.name })),
      paths: [...current.map(({ path }) => path), ...old].sort(),
    },
  }
}
