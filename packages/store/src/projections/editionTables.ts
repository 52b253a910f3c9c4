import { published } from '../tables/projectionTables.js'

/** Which version a reader sees. */
export type Edition = 'published' | 'draft'

/** The tables of an edition. Those of drafts and those of the published edition have nothing in common. */
export const editionTables = {
  published: {
    rows: 'published',
    values: 'published_values',
    refs: 'published_refs',
    texts: 'published_texts',
    words: 'published_words',
  },
  draft: { rows: 'drafts', values: 'draft_values', refs: 'draft_refs', texts: 'draft_texts', words: 'draft_words' },
} as const satisfies Record<Edition, Record<'rows' | 'values' | 'refs' | 'texts' | 'words', string>>

/**
 * The columns that answers are made of. The columns for finding entries are large, and are not read: every column of every row
 * becomes a JavaScript value.
 */
export const readColumns = (edition: Edition, of: string): string =>
  edition === 'draft'
    ? `${of}.*`
    : Object.keys(published.columns)
        .filter((name) => name !== 'projection' && name !== 'facts')
        .map((name) => `${of}.${name}`)
        .join(', ')

/**
 * The expression of a field's single fact. An index serves only an expression written exactly like it, so it is written here alone.
 * Field ids are ours (`f12`), never text from outside.
 */
export const factExpression = (field: string, alias?: string): string =>
  `json_extract(${alias ? alias + '.' : ''}facts, '$.${assertId(field)}')`

/** A text as an SQL literal, for ids of ours alone: partial indexes need literals. */
export const literal = (id: string): string => `'${assertId(id)}'`

function assertId(id: string): string {
  if (!/^[a-z0-9]{1,40}$/.test(id)) throw new Error(`not an internal id: ${id}`)
  return id
}
