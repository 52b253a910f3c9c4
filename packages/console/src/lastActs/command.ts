import type { AssetChange, BulkOrder, Call, EditableEntry, ListAsks, Proposal, ScheduledTime } from '@wisteria/client'
import { printCoded, type ModelFile, type NamedEdit, type SegmentText } from '@wisteria/core'
import type { Act } from './lastActs'
import { fileName } from './request'
import { withInput, word } from '../shellWords'

/** The e-mail of an account or an invitation: commands name people by it, and requests by an id. */
type EmailOf = (id: string) => string | undefined

type Body = Readonly<Record<string, unknown>>
type Part = string | readonly string[] | undefined | false

/** An act as a command, or several; undefined where no command does it. */
export function asCommand(act: Act, emailOf: EmailOf): string | undefined {
  const request = `${act.sent.method} ${act.path}`
  const [pattern, write] = commandFor(request) ?? []
  const ids = pattern?.exec(request)?.slice(1).map(decodeURIComponent) ?? []
  return write?.(ids, (act.sent.body ?? {}) as Body, act, (id) => emailOf(id) ?? 'EMAIL')
}

/** The writers of commands, by method and path below the site's. */
export const commandFor = (request: string): (typeof commands)[number] | undefined =>
  commands.find(([pattern]) => pattern.test(request))

type Write = (ids: readonly string[], body: Body, act: Act, emailOf: (id: string) => string) => string | undefined

const run = (words: string, ...parts: readonly Part[]): string =>
  ['wisteria', words, ...parts.flat().filter((part): part is string => Boolean(part))].join(' ')

/** `--name value`; nothing without a value. Lists are parted by commas. */
function option(name: string, value: unknown): string | undefined {
  if (value === undefined || value === null || value === false) return undefined
  if (value === true) return `--${name}`
  const text = Array.isArray(value) ? value.join(',') : String(value)
  if (text === '') return undefined
  return text.startsWith('-') ? `--${name}=${word(text)}` : `--${name} ${word(text)}`
}

const fromInput = (command: string, content: unknown): string =>
  withInput(`${command} --file -`, JSON.stringify(content, null, 2))

/** The first words of every command. */
export const connectCommand = (baseUrl: string, email: string | undefined, site: string | undefined): string =>
  run('connect', word(baseUrl), option('email', email), option('site', site))

const onEntry =
  (words: string, ...options: readonly (readonly [name: string, member: string])[]): Write =>
  ([id], body) =>
    run(
      words,
      id,
      options.map(([name, member]) => option(name, body[member]) ?? ''),
    )

const later = (plan: ScheduledTime): Part[] => [
  option('at', plan.at),
  option('zone', plan.zone),
  option('locales', plan.locales),
]

const asksOf = ({ type, where, search, sort, locale, columns }: ListAsks): Part[] => [
  option('type', type),
  option('where', where),
  option('search', search),
  option('sort', sort),
  option('locale', locale),
  option('columns', columns),
]

/** By the request's method and its path below the site's. */
const commands: readonly (readonly [RegExp, Write])[] = [
  [
    /^POST \/entries$/,
    (_, { type, values, region }) =>
      fromInput(run('entry create', word(type as string), option('region', region)), values),
  ],
  [/^POST \/entries\/bulk$/, (_, body) => bulkCommand(body as unknown as BulkOrder)],
  [
    /^POST \/entries\/([^/]+)\/edits$/,
    ([id], body, { answer }) =>
      fromInput(
        run('entry change', id),
        patchOf(body['edits'] as readonly NamedEdit[], (answer as EditableEntry).values),
      ),
  ],
  [/^PATCH \/entries\/([^/]+)$/, ([id], { values }) => fromInput(run('entry change', id), values)],
  [
    /^POST \/entries\/([^/]+)\/publish$/,
    onEntry('entry publish', ['locales', 'locales'], ['with', 'with'], ['minor', 'minor']),
  ],
  [
    /^POST \/entries\/([^/]+)\/withdraw$/,
    onEntry('entry withdraw', ['locales', 'locales'], ['with-children', 'withChildren']),
  ],
  [/^POST \/entries\/([^/]+)\/archive$/, onEntry('entry archive', ['with-children', 'withChildren'])],
  [/^POST \/entries\/([^/]+)\/reactivate$/, onEntry('entry reactivate')],
  [/^POST \/entries\/([^/]+)\/duplicate$/, onEntry('entry duplicate')],
  [/^DELETE \/entries\/([^/]+)$/, onEntry('entry delete')],
  [/^POST \/bin\/([^/]+)\/restore$/, onEntry('entry restore')],
  [/^DELETE \/bin\/([^/]+)$/, ([id]) => run('entry delete', id, '--permanently')],
  [
    /^POST \/entries\/([^/]+)\/restore$/,
    ([id], { from, places }) =>
      run(
        'entry restore',
        id,
        option('from', from),
        ((places ?? []) as readonly { at: readonly string[]; locale?: string }[]).map(
          ({ at, locale }) => option('field', at.join('/') + (locale === undefined ? '' : `:${locale}`)) ?? '',
        ),
      ),
  ],
  [
    /^POST \/entries\/([^/]+)\/place$/,
    ([id], { parent, after }) =>
      run('entry place', id, parent === null ? '--root' : option('below', parent), option('after', after)),
  ],
  [
    /^POST \/entries\/([^/]+)\/schedule$/,
    ([id], body) => run(`entry ${body['does'] as string}`, id, ...later(body as unknown as ScheduledTime)),
  ],
  [
    /^PATCH \/schedules\/([^/]+)$/,
    ([id], body) => run('schedule change', id, ...later({ ...(body as unknown as ScheduledTime), locales: [] })),
  ],
  [/^DELETE \/schedules\/([^/]+)$/, ([id]) => run('schedule cancel', id)],
  [
    /^POST \/views$/,
    (_, { name, asks, shared }) =>
      run('view save', word(name as string), ...asksOf(asks as ListAsks), option('shared', shared)),
  ],
  [/^DELETE \/views\/([^/]+)$/, ([id]) => run('view delete', id)],
  [/^POST \/entries\/([^/]+)\/translation$/, ([id], body) => translationCommand(id!, body)],
  [/^POST \/assets\/([^/]+)\/translation$/, ([id], body) => translationCommand(id!, body, '--asset')],
  [
    /^POST \/entries\/([^/]+)\/translation\/ready$/,
    ([id], { locale, ready }) => run('translate ready', id, option('locale', locale), option('not', ready === false)),
  ],
  [/^PUT \/translations\/glossary$/, (_, glossary) => fromInput(run('translate glossary'), glossary)],
  [
    /^POST \/translations\/imports$/,
    (_, __, { sent }) =>
      run(
        'translate import',
        word(String(sent.query?.['name'])),
        option('locale', sent.query?.['locale']),
        option('format', sent.query?.['format']),
      ),
  ],
  [
    /^POST \/translations\/assign$/,
    (_, { entries, locale, assignee, due }, __, emailOf) =>
      run(
        'translate assign',
        entries as readonly string[],
        option('locale', locale),
        assignee === null ? '--nobody' : option('to', emailOf(assignee as string)),
        option('due', due),
      ),
  ],
  [
    /^POST \/translations\/orders$/,
    (_, { connector, ids, locale, type, where, search, publish }) =>
      run(
        'translate order',
        (ids as readonly string[] | undefined) ?? [],
        option('from', connector),
        option('locale', locale),
        option('type', type),
        option('where', where),
        option('search', search),
        option('all', ids === undefined && type === undefined && where === undefined && search === undefined),
        option('publish', publish),
      ),
  ],
  [/^POST \/translations\/orders\/([^/]+)\/retry$/, ([id]) => run('translate retry', id)],
  [/^POST \/translations\/orders\/([^/]+)\/stop$/, ([id]) => run('translate stop', id)],
  [
    /^POST \/translations\/connectors$/,
    (_, { label, address, locales }) =>
      run('connector add', option('label', label), option('address', address), option('locales', locales)),
  ],
  [
    /^PATCH \/translations\/connectors\/([^/]+)$/,
    ([id], { label, address, locales, enabled }) =>
      run(
        'connector change',
        id,
        option('label', label),
        option('address', address),
        locales === null ? '--all-locales' : option('locales', locales),
        option('on', enabled === true),
        option('off', enabled === false),
      ),
  ],
  [/^DELETE \/translations\/connectors\/([^/]+)$/, ([id]) => run('connector remove', id)],
  [
    /^POST \/translations\/rules$/,
    (_, { connector, label, event, type, where, locales, publish }) =>
      run(
        'connector add-rule',
        word(connector as string),
        option('label', label),
        option('after', event),
        option('type', type),
        option('where', where),
        option('locales', locales),
        option('publish', publish),
      ),
  ],
  [
    /^PATCH \/translations\/rules\/([^/]+)$/,
    ([id], { enabled }) => run('connector change-rule', id, enabled === true ? '--on' : '--off'),
  ],
  [/^DELETE \/translations\/rules\/([^/]+)$/, ([id]) => run('connector remove-rule', id)],
  [/^POST \/jobs\/([^/]+)\/stop$/, ([id]) => run('job stop', id)],
  [/^POST \/jobs\/([^/]+)\/undo$/, ([id]) => run('job undo', id)],
  [/^POST \/assets\/upload$/, (_, __, { sent }) => run('asset add', word(String(sent.query?.['name'])))],
  [/^PATCH \/assets\/([^/]+)$/, ([id], body) => assetCommand(id!, body)],
  [/^PUT \/assets\/([^/]+)\/file$/, ([id], _, { sent }) => run('asset replace', id, word(fileOf(sent)))],
  [
    /^POST \/assets\/([^/]+)\/restore$/,
    ([id], { revision, only }) => run('asset restore', id, option('from', revision), option('only', only)),
  ],
  [
    /^DELETE \/assets\/([^/]+)$/,
    ([id], _, { sent }) => run('asset delete', id, sent.query?.['revisions'] === 'ignore' && '--ignore-revisions'),
  ],
  [
    /^POST \/copies$/,
    (_, { from, types, where, ids, references, publish }) =>
      run(
        'site copy',
        (ids as readonly string[] | undefined) ?? [],
        option('from', from),
        option('types', types),
        option('where', where),
        option('without-references', references === false),
        option('publish', publish),
      ),
  ],
  [
    /^POST \/counterparts$/,
    (_, { region, ids, withChildren }) =>
      run('region copy', word(region as string), ids as readonly string[], option('with-children', withChildren)),
  ],
  [/^POST \/entries\/([^/]+)\/source$/, ([id], order) => takeCommand(id!, order)],
  [
    /^PUT \/entries\/([^/]+)\/region$/,
    ([id], { region, counterpartOf }) =>
      run('region place', id, word(region as string), counterpartOf === null ? '--alone' : option('of', counterpartOf)),
  ],
  [/^POST \/model\/proposals\/[^/]+\/adopt$/, (_, __, { first }) => first && adoptCommand(first)],
  [/^DELETE \/locales\/removed\/([^/]+)$/, ([tag]) => run('locale forget', tag)],
  [/^PUT \/locales$/, (_, { retire, ...settings }) => fromInput(run('locale set', option('retire', retire)), settings)],
  [/^PUT \/regions$/, (_, regions) => fromInput(run('region set'), regions)],
  [/^PUT \/open$/, (_, { open }) => run('site open', open === false && '--close')],
  [/^POST \/rebuild$/, () => run('site rebuild')],
  [/^POST \/edit\/v1\/sites$/, (_, site) => fromInput(run('site create'), site)],
  [
    /^POST \/invitations$/,
    (_, { email, role, locales, regions }) =>
      run(
        'member invite',
        word(email as string),
        option('role', role),
        option('locales', locales),
        option('regions', regions),
      ),
  ],
  [/^DELETE \/invitations\/([^/]+)$/, ([id], _, __, emailOf) => run('member revoke', word(emailOf(id!)))],
  [
    /^PUT \/members\/([^/]+)$/,
    ([account], { role, locales, regions }, _, emailOf) =>
      run(
        'member change',
        word(emailOf(account!)),
        option('role', role),
        option('locales', locales),
        option('regions', regions),
      ),
  ],
  [/^DELETE \/members\/([^/]+)$/, ([account], _, __, emailOf) => run('member remove', word(emailOf(account!)))],
  [/^POST \/keys$/, (_, { label, scope }) => run('key create', option('label', label), option('scope', scope))],
  [/^DELETE \/keys\/([^/]+)$/, ([id]) => run('key revoke', id)],
  [/^PUT \/front-ends\/([^/]+)$/, ([name], frontEnd) => fromInput(run('front-end set', word(name!)), frontEnd)],
  [/^DELETE \/front-ends\/([^/]+)$/, ([name]) => run('front-end remove', word(name!))],
  [/^POST \/imports\/([^/]+)\/undo$/, ([id]) => run('import undo', id)],
  [
    /^PUT \/archive$/,
    (_, __, { sent }) => run('site import', 'archive.zip', option('new-ids', sent.query?.['ids'] === 'new')),
  ],
  [/^DELETE \/imports\/([^/]+)$/, ([id]) => run('import remove', id)],
  [/^DELETE \/import-mappings\/([^/]+)$/, ([name]) => run('import forget', word(name!))],
  [
    /^POST \/automations\/([^/]+)\/run$/,
    ([name], { entries }) => run('automation run', word(name!), option('entries', entries)),
  ],
  [
    /^PATCH \/automations\/([^/]+)$/,
    ([name], { enabled }) =>
      run('automation change', word(name!), option('on', enabled === true), option('off', enabled === false)),
  ],
  [/^POST \/automations\/([^/]+)\/secret$/, ([name]) => run('automation secret', word(name!))],
  [
    /^PUT \/automations\/([^/]+)\/secrets\/([^/]+)$/,
    ([name, secret]) => run('automation set-secret', word(name!), word(secret!)),
  ],
  [
    /^DELETE \/automations\/([^/]+)\/secrets\/([^/]+)$/,
    ([name, secret]) => run('automation remove-secret', word(name!), word(secret!)),
  ],
  [/^DELETE \/automations\/([^/]+)$/, ([name]) => run('automation remove', word(name!))],
  [/^POST \/automation-runs\/([^/]+)\/stop$/, ([id]) => run('automation stop', id)],
  [/^POST \/automation-runs\/([^/]+)\/retry$/, ([id]) => run('automation retry', id)],
  [
    /^POST \/webhooks$/,
    (_, { label, address, ...subscription }) =>
      run('webhook create', option('label', label), option('address', address), ...subscriptionOptions(subscription)),
  ],
  [/^POST \/webhooks\/([^/]+)\/deliveries\/([^/]+)\/resend$/, (ids) => run('webhook resend', ...ids)],
  [
    /^POST \/webhooks\/([^/]+)\/resend$/,
    ([id], { from, to, onlyMissed }) =>
      run('webhook resend', id, option('from', from), option('to', to), option('missed', onlyMissed)),
  ],
  [/^POST \/webhooks\/([^/]+)\/test$/, ([id]) => run('webhook test', id)],
  [
    /^POST \/webhooks\/([^/]+)\/secrets$/,
    ([id], { keepHours }) => run('webhook secret', id, option('keep-hours', keepHours)),
  ],
  [/^DELETE \/webhooks\/([^/]+)\/secrets\/([^/]+)$/, (ids) => run('webhook end-secret', ...ids)],
  [
    /^PATCH \/webhooks\/([^/]+)$/,
    ([id], { label, address, enabled, paused, ...subscription }) =>
      run(
        'webhook change',
        id,
        option('label', label),
        option('address', address),
        ...subscriptionOptions(subscription),
        option('on', enabled === true),
        option('off', enabled === false),
        option('resume', paused === false),
      ),
  ],
  [/^DELETE \/webhooks\/([^/]+)$/, ([id]) => run('webhook remove', id)],
  [/^DELETE \/edit\/v1\/account\/sessions\/([^/]+)$/, ([id]) => run('account end-session', id)],
  [
    /^PUT \/edit\/v1\/accounts\/([^/]+)\/disabled$/,
    ([account], { disabled }, _, emailOf) =>
      run(disabled === true ? 'account disable' : 'account enable', word(emailOf(account!))),
  ],
  [
    /^PUT \/edit\/v1\/account$/,
    (_, { name, language, timeZone }) =>
      run(
        'account change',
        option('name', name),
        language === undefined ? '' : (option('language', language) ?? "--language ''"),
        timeZone === undefined ? '' : (option('time-zone', timeZone) ?? "--time-zone ''"),
      ),
  ],
]

/** What a webhook receives, as options; null takes a limit away. */
const subscriptionOptions = ({ events, where, merge }: Body): Part[] => [
  option('all-events', events === null),
  option('events', events),
  option('always', where === null),
  option('where', where),
  option('merge', merge),
]

/** Places are named as they stand in changes: a list of them where several are chosen. */
function takeCommand(id: string, { take, choices, conflicts }: Body): string {
  const chosen = (choices ?? []) as readonly { at: readonly string[]; locale?: string | null; side: 'source' | 'own' }[]
  const places = chosen.map(({ at, locale, side }) => option(side, at.join('/') + (locale ? `:${locale}` : '')) ?? '')
  return run('region take', id, places, option('conflicts', conflicts), option('everything', take === 'everything'))
}

/** Texts are named by their addresses, which need no request to be found. */
function translationCommand(id: string, { locale, texts, ...marks }: Body, kind = ''): string {
  const written = (texts ?? []) as readonly { readonly unit: string; readonly text: SegmentText | string }[]
  const set = written.map(({ unit, text }) => word(`${unit}=${typeof text === 'string' ? text : printCoded(text)}`))
  const said = [
    option('still-right', marks['stillRight']),
    option('needs-none', marks['needsNone']),
    option('needed', marks['needed']),
    option('empty', marks['empty']),
  ]
  return [
    ...(set.length > 0 ? [run('translate set', id, kind, option('locale', locale), set)] : []),
    ...(said.some(Boolean) ? [run('translate mark', id, kind, option('locale', locale), ...said)] : []),
  ].join('\n')
}

/** The current values of the fields that edits touched, as a JSON Merge Patch (RFC 7396): in one locale if all edits were in it. */
function patchOf(edits: readonly NamedEdit[], values: Body): Body {
  const patch: Record<string, unknown> = {}
  for (const { at, locale } of edits) {
    const [name] = at[0]!.split('.') as [string]
    const value = values[name] ?? null
    const isOneLocale = locale !== undefined && at.length === 1 && typeof value === 'object' && !at[0]!.includes('.')
    if (!isOneLocale) patch[name] = value
    else if (!(name in patch) || isMap(patch[name]))
      patch[name] = { ...(patch[name] as Body | undefined), [locale]: (value as Body | null)?.[locale] ?? null }
  }
  return patch
}

const isMap = (value: unknown): boolean => typeof value === 'object' && value !== null && !Array.isArray(value)

function bulkCommand({ do: does, ids = [], edits, locales, locale, all, ...asks }: BulkOrder): string | undefined {
  const command = run(
    `entry bulk ${does}`,
    ids,
    ...asksOf(asks),
    option('all', all),
    option('locales', locales),
    option('locale', locale),
  )
  if (edits === undefined) return command
  // The command sets and clears whole fields.
  if (edits.some(({ do: how, at }) => !['set', 'clear'].includes(how) || at.length > 1)) return undefined
  const values: Record<string, unknown> = {}
  for (const { do: how, at, locale: tag, value } of edits) {
    const set = how === 'clear' ? null : value
    values[at[0]!] = tag === undefined ? set : { ...(values[at[0]!] as Body | undefined), [tag]: set }
  }
  return fromInput(command, values)
}

function assetCommand(id: string, { name, alt, title, caption, focalPoint }: AssetChange): string | undefined {
  if (focalPoint === null) return undefined
  const inLocales = (as: string, texts: Readonly<Record<string, string | null>> = {}) =>
    Object.entries(texts).map(([tag, text]) => `--${as} ${word(`${tag}=${text ?? ''}`)}`)
  return run(
    'asset change',
    id,
    option('name', name),
    inLocales('alt', alt),
    inLocales('title', title),
    inLocales('caption', caption),
    focalPoint && option('focal', `${focalPoint.x},${focalPoint.y}`),
  )
}

const fileOf = (sent: Call): string => (sent.file ? fileName(sent.file) : 'FILE')

/** Writes the files of the proposed model into a new folder, and adopts that. */
function adoptCommand({ sent, answer }: Act): string {
  const breaks = (answer as Proposal | undefined)?.consequences.some(({ weight }) => weight === 'breaking')
  const { files, version, from, types } = sent.body as {
    files?: readonly ModelFile[]
    version?: number
    from?: string
    types?: readonly string[]
  }
  if (!files)
    return run(
      'model adopt',
      option('at', version),
      option('from-site', from),
      option('types', types),
      breaks && '--breaking',
    )
  return [
    'mkdir model',
    ...files.map(({ name, text }) => withInput(`cat > ${word(`model/${name}`)}`, text)),
    run('model adopt', './model', breaks && '--breaking'),
  ].join('\n')
}
