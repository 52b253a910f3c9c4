import { WisteriaError } from '@wisteria/core'
import type { Binding } from '../connection/reader.js'
import { assetRevisions, assets } from '../tables/assetTables.js'
import { frontEnds } from '../tables/accessTables.js'
import { automations } from '../tables/automationTables.js'
import { entries, paths, publications, revisions } from '../tables/entryTables.js'
import { webhooks } from '../tables/eventTables.js'
import { drafts, published } from '../tables/projectionTables.js'
import { models, settings } from '../tables/siteTables.js'
import type { Column, Columns, Table } from '../tables/table.js'
import { glossaries, views } from '../tables/workTables.js'

/** A line of an archive: a row of a table, with the names that an archive has for its columns. */
export type ArchiveLine = Readonly<Record<string, unknown>>

/** How a column is written: as it is, as what its JSON says, or as true and false. An actor is mapped to somebody of the service. */
type Form = 'plain' | 'json' | 'flag' | 'actor'

interface Member {
  /** In the lines. */
  readonly name: string
  readonly form: Form
}

/** A file of an archive with a line for each row of a table. */
export interface ArchivePart {
  readonly table: Table<Columns>
  /** By column. Columns that are left out are not in archives. */
  readonly members: Readonly<Record<string, Member>>
  /** What its rows belong to. */
  readonly of: 'site' | 'asset' | 'projection'
  /** The columns that order its lines. */
  readonly order: readonly string[]
}

const camelCase = (column: string): string => column.replace(/_(.)/g, (_, letter: string) => letter.toUpperCase())

/** @param forms of the columns that are in archives; a name is given where it is another than the column's. */
function part<Of extends Columns>(
  table: Table<Of>,
  forms: { readonly [Name in keyof Of]?: Form | readonly [name: string, form: Form] },
  order: readonly (keyof Of & string)[],
  of: ArchivePart['of'] = 'site',
): ArchivePart {
  const members = Object.entries(forms as Record<string, Form | readonly [string, Form]>).map(
    ([column, said]): [string, Member] => [
      column,
      typeof said === 'string' ? { name: camelCase(column), form: said } : { name: said[0], form: said[1] },
    ],
  )
  return { table, members: Object.fromEntries(members), of, order }
}

const by = (name: string) => [name, 'actor'] as const
const fileAndTexts = {
  name: 'plain',
  media_type: 'plain',
  size: 'plain',
  hash: ['sha256', 'plain'],
  width: 'plain',
  height: 'plain',
  alt: 'json',
  title: 'json',
  caption: 'json',
  focal_x: 'plain',
  focal_y: 'plain',
  origins: 'json',
} as const
const rowTimes = { entry: 'plain', locale: 'plain', published_at: 'plain', updated_at: 'plain' } as const

/** Everything of a site that is in an archive, by the name of its file, in the order in which it is imported. */
export const archiveParts = {
  settings: part(settings, { version: 'plain', settings: 'json', sequence: 'plain', at: 'plain', actor: by('by') }, [
    'version',
  ]),
  models: part(
    models,
    {
      version: 'plain',
      files: 'json',
      model: 'json',
      consequences: 'json',
      sequence: 'plain',
      at: 'plain',
      actor: by('by'),
    },
    ['version'],
  ),
  assets: part(
    assets,
    {
      id: 'plain',
      ...fileAndTexts,
      created_at: 'plain',
      created_by: 'actor',
      updated_at: 'plain',
      revision: 'plain',
    },
    ['id'],
  ),
  assetRevisions: part(
    assetRevisions,
    { asset: 'plain', revision: 'plain', ...fileAndTexts, at: 'plain', by: by('by') },
    ['asset', 'revision'],
    'asset',
  ),
  entries: part(
    entries,
    {
      id: 'plain',
      type: 'plain',
      version: 'plain',
      revision: 'plain',
      created_at: 'plain',
      created_by: 'actor',
      updated_at: 'plain',
      updated_by: 'actor',
      archived_at: 'plain',
      deleted_at: 'plain',
      deleted_by: 'actor',
      region: 'plain',
      counterpart_of: 'plain',
      counterpart_root: 'plain',
      counterpart_revision: 'plain',
    },
    ['id'],
  ),
  revisions: part(
    revisions,
    {
      entry: 'plain',
      number: 'plain',
      model_version: 'plain',
      version: 'plain',
      author: 'actor',
      created_at: 'plain',
      updated_at: 'plain',
      sealed_at: 'plain',
      document: ['values', 'json'],
      origins: 'json',
    },
    ['entry', 'number'],
  ),
  publications: part(
    publications,
    {
      entry: 'plain',
      layer: 'plain',
      revision: 'plain',
      model_version: 'plain',
      sequence: 'plain',
      at: 'plain',
      actor: by('by'),
      action: 'plain',
    },
    ['id'],
  ),
  paths: part(paths, { path: 'plain', locale: 'plain', entry: 'plain', current: 'flag', since: 'plain' }, ['path']),
  published: part(published, rowTimes, ['entry', 'locale'], 'projection'),
  drafts: part(drafts, { ...rowTimes, work_since: 'plain' }, ['entry', 'locale'], 'projection'),
  glossary: part(glossaries, { terms: 'json', version: 'plain', at: 'plain', actor: by('by') }, ['site']),
  views: part(
    views,
    { name: 'plain', owner: 'actor', shared: 'flag', asks: 'json', created_at: 'plain', updated_at: 'plain' },
    ['id'],
  ),
  frontEnds: part(frontEnds, { name: 'plain', label: 'plain', origins: 'json', enter: 'json', created_at: 'plain' }, [
    'name',
  ]),
  automations: part(
    automations,
    {
      name: 'plain',
      version: 'plain',
      definition: 'json',
      starts_by: 'plain',
      created_at: 'plain',
      changed_at: 'plain',
      changed_by: 'actor',
    },
    ['name'],
  ),
  webhooks: part(
    webhooks,
    {
      label: 'plain',
      address: 'plain',
      events: 'json',
      condition: 'plain',
      merge: 'plain',
      created_at: 'plain',
      created_by: 'actor',
    },
    ['created_at', 'id'],
  ),
} as const satisfies Record<string, ArchivePart>
export type PartName = keyof typeof archiveParts

/** A row as a line. */
export function lineOf({ members }: ArchivePart, row: Readonly<Record<string, Binding>>): ArchiveLine {
  return Object.fromEntries(
    Object.entries(members).flatMap(([column, { name, form }]): [string, unknown][] => {
      const value = row[column] ?? null
      if (value === null) return []
      return [[name, form === 'json' ? JSON.parse(value as string) : form === 'flag' ? value === 1 : value]]
    }),
  )
}

/** The actors that a line names. */
export const actorsIn = ({ members }: ArchivePart, line: ArchiveLine): string[] =>
  Object.values(members).flatMap(({ name, form }) => (form === 'actor' && line[name] ? [line[name] as string] : []))

/**
 * A line as a row, without the columns that archives do not have.
 * @param actorOf who an actor of the archive is here.
 * @throws WisteriaError `invalid` that names the member that is missing, unknown or of another kind.
 */
export function rowOf(
  { table, members }: ArchivePart,
  line: ArchiveLine,
  actorOf: (actor: string) => string,
): Record<string, Binding> {
  const names = new Set(Object.values(members).map(({ name }) => name))
  const unknown = Object.keys(line).find((name) => !names.has(name))
  if (unknown !== undefined)
    throw new WisteriaError('invalid', `It has \`${unknown.slice(0, 60)}\`, which is none of ${[...names].join(', ')}.`)
  return Object.fromEntries(
    Object.entries(members).map(([column, member]): [string, Binding] => [
      column,
      bindingOf(table.columns[column]!, member, line[member.name], actorOf),
    ]),
  )
}

function bindingOf(
  { type, isNullable }: Column<unknown>,
  { name, form }: Member,
  value: unknown,
  actorOf: (actor: string) => string,
): Binding {
  if (value === undefined || value === null) {
    if (isNullable) return null
    throw new WisteriaError('invalid', `\`${name}\` is missing.`)
  }
  if (form === 'json') return JSON.stringify(value)
  if (form === 'flag' && typeof value === 'boolean') return value ? 1 : 0
  const fits =
    type === 'text' ? typeof value === 'string' : type === 'real' ? Number.isFinite(value) : Number.isSafeInteger(value)
  if (!fits || form === 'flag')
    throw new WisteriaError(
      'invalid',
      `\`${name}\` must be ${form === 'flag' ? 'true or false' : type === 'text' ? 'a text' : type === 'real' ? 'a number' : 'a whole number'}.`,
    )
  return form === 'actor' ? actorOf(value as string) : (value as Binding)
}
