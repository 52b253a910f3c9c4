import { z } from 'zod'

/** A request of a tool, to one of the routes of the service. */
export interface ToolCall {
  readonly method: 'GET' | 'POST' | 'PATCH'
  /** As routes declare it, with placeholders. */
  readonly route: string
  readonly params?: Readonly<Record<string, string>>
  readonly query?: Readonly<Record<string, string | undefined>>
  readonly headers?: Readonly<Record<string, string>>
  readonly body?: unknown
}

/** Something that an assistant can do: what it may is decided by the route, as for everybody. */
export interface Tool {
  readonly name: string
  readonly description: string
  /** Whether it changes nothing. */
  readonly reads: boolean
  readonly input: z.ZodObject
  readonly call: (input: never) => ToolCall
}

function tool<Input extends z.ZodObject>(
  declared: Omit<Tool, 'input' | 'call'> & {
    readonly input: Input
    readonly call: (input: z.infer<Input>) => ToolCall
  },
): Tool {
  return declared
}

const edit = '/edit/v1/sites/{site}'
const entry = `${edit}/entries/{id}`
const id = z
  .string()
  .min(1)
  .max(64)
  .describe('The id of an entry; of a type with exactly one entry, the name of the type.')
const type = z.string().max(64).describe('The name of a type.')
const locale = z.string().max(40).optional().describe('A locale of the site; the default one, when left out.')
const locales = z.array(z.string().max(40)).optional().describe('All locales with content, when left out.')
const where = z
  .string()
  .max(10_000)
  .optional()
  .describe('A condition, such as `price > 10 and museum.name contains "light"`.')
const values = z
  .record(z.string(), z.unknown())
  .describe('By field names. A localized field is an object by locale: `{ "title": { "en": "Night walk" } }`.')
const sort = z.string().max(300).optional().describe('Fields, comma-separated; `-` in front turns the order.')
const first = z.number().int().min(1).max(100).optional()
const textOf = (value: number | undefined): string | undefined => (value === undefined ? undefined : String(value))

/** What an assistant can do on a site. */
export const tools: readonly Tool[] = [
  tool({
    name: 'read_model',
    description:
      'The types, blocks and fields of the site, as model files. Read it first: all else names types and fields.',
    reads: true,
    input: z.strictObject({}),
    call: () => ({ method: 'GET', route: `${edit}/model` }),
  }),
  tool({
    name: 'find_entries',
    description:
      'Working copies of entries, by type, condition or words, with their states. `after` is the `next` of an earlier answer.',
    reads: true,
    input: z.strictObject({
      type: type.optional(),
      where,
      search: z.string().max(500).optional().describe('Words that they contain.'),
      sort,
      locale,
      first,
      after: z.string().max(2000).optional(),
    }),
    call: ({ first, ...query }) => ({
      method: 'GET',
      route: `${edit}/entries`,
      query: { ...query, first: textOf(first), count: 'true' },
    }),
  }),
  tool({
    name: 'read_entry',
    description: 'The working copy of an entry: its values in all locales, its version, and its state in each locale.',
    reads: true,
    input: z.strictObject({ id }),
    call: ({ id }) => ({ method: 'GET', route: entry, params: { id } }),
  }),
  tool({
    name: 'read_published',
    description: 'What is public of the entries of a type, in one locale, as visitors get it.',
    reads: true,
    input: z.strictObject({
      type,
      where,
      sort,
      locale,
      first,
      pick: z.string().max(5000).optional().describe('The fields to print: `title, museum(name)`.'),
      after: z.string().max(2000).optional(),
    }),
    call: ({ type, first, ...query }) => ({
      method: 'GET',
      route: '/read/v1/{site}/entries/{type}',
      params: { type },
      query: { ...query, first: textOf(first) },
    }),
  }),
  tool({
    name: 'create_entry',
    description: 'Creates an entry as a draft. Nothing is public until it is published.',
    reads: false,
    input: z.strictObject({ type, values }),
    call: (body) => ({ method: 'POST', route: `${edit}/entries`, body }),
  }),
  tool({
    name: 'change_entry',
    description:
      'Changes values of a working copy: those that are given, by JSON Merge Patch, where null clears one. `version` is that of the working copy that was read; somebody else’s newer version is not overwritten.',
    reads: false,
    input: z.strictObject({ id, version: z.number().int().min(1), values }),
    call: ({ id, version, values }) => ({
      method: 'PATCH',
      route: entry,
      params: { id },
      headers: { 'if-match': `"v${version}"` },
      body: { values },
    }),
  }),
  tool({
    name: 'compare_entry',
    description: 'What differs between what is public of an entry and its working copy, word by word.',
    reads: true,
    input: z.strictObject({
      id,
      from: z.string().max(40).optional().describe('`public`, `working` or the number of a revision.'),
      to: z.string().max(40).optional().describe('As `from`; `working`, when left out.'),
    }),
    call: ({ id, ...query }) => ({ method: 'GET', route: `${entry}/compare`, params: { id }, query }),
  }),
  tool({
    name: 'publish_consequences',
    description: 'What publishing an entry would change, and what keeps it from being published. Changes nothing.',
    reads: true,
    input: z.strictObject({ id, locales }),
    call: ({ id, locales }) => ({
      method: 'GET',
      route: `${entry}/consequences`,
      params: { id },
      query: { locales: locales?.join(',') },
    }),
  }),
  tool({
    name: 'publish_entry',
    description: 'Makes the working copy of an entry public. Needs a key that may publish: scope `edit`.',
    reads: false,
    input: z.strictObject({ id, locales }),
    call: ({ id, locales }) => ({
      method: 'POST',
      route: `${entry}/publish`,
      params: { id },
      body: locales === undefined ? {} : { locales },
    }),
  }),
]
