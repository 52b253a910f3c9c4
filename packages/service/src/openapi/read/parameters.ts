import { localeTags, mainRegion, maxFollow, regionNames, type ContentType } from '@wisteria/core'
import type { Site } from '@wisteria/store'
import type { Schema } from '../parts.js'
import type { Example } from './examples.js'

/** Descriptions of the parameters of reads, with examples from the site where it has some. */
export function parameterDescriptions(
  site: Site,
  type: ContentType | undefined,
  example: Example | undefined,
): Record<string, Schema> {
  const locales = localeTags(site.settings)
  const field = type?.fields.find(({ kind }) => kind === 'text')?.name
  const choice = type?.fields.find(({ kind, many }) => kind === 'choice' && !many)
  const option = (choice?.options['options'] as { value: string }[] | undefined)?.[0]?.value
  const condition = option ? `${choice!.name} = ${JSON.stringify(option)}` : field ? `${field} has value` : undefined
  return {
    where: {
      description: 'A condition that the entries match.',
      ...(condition ? { examples: { one: { value: condition } } } : {}),
    },
    search: { description: 'Words to search for, matched by their beginnings or their stems.' },
    words: { description: 'Words to search for. An entry must contain all of them.', example: 'night walk' },
    types: { description: 'Only of these types, separated by commas.' },
    sort: {
      description:
        'Fields to sort by, also through references (`museum.name`); a minus before a field sorts in descending order.',
      ...(field ? { examples: { one: { value: `-${field}` } } } : {}),
    },
    first: {
      description: 'The number of entries on a page, at most.',
      schema: { type: 'integer', minimum: 1, maximum: 100, default: 20 },
    },
    after: { description: 'The `next` of the previous page.' },
    count: { description: 'Whether the answer has the total number of entries.', schema: { type: 'boolean' } },
    pick: {
      description:
        'The fields of each entry, with fields inside them in parentheses: `title, museum(name, town), body(as: html), cover(w: 640, address)`. `values` then has only these.',
      ...(field ? { examples: { one: { value: field } } } : {}),
    },
    follow: {
      description: 'How many levels of references are read without `pick`. With 0 they are id and type.',
      schema: { type: 'integer', minimum: 0, maximum: maxFollow, default: 0 },
    },
    locale: {
      description: `The site's default when left out. \`auto\` negotiates by \`Accept-Language\`.`,
      schema: { type: 'string', enum: [...locales, 'auto'] },
    },
    region: {
      description:
        'The region to read of types that are regional: entries of other types belong to all. The main one when left out.',
      schema: { type: 'string', enum: regionNames(site.settings), default: mainRegion },
    },
    locales: { description: 'Every locale at once: each entry has its locales in `locales`.' },
    edition: { description: 'Working copies need a key that may read them.' },
    richText: { description: 'The form of rich text, unless `pick` names one.' },
    choices: {
      description:
        'How choices are printed, unless `pick` says it: by value, by their label in the locale, or both as `{ value, label }`.',
    },
    exactLocale: {
      description:
        'Without fallback: entries whose words are in another locale are left out, also where others refer to them, and values of another locale are missing. `where` and `sort` still go by what readers of the locale get.',
      schema: { type: 'boolean', default: false },
    },
    alternates: {
      description: 'Whether each entry says where it can be read in its own words, for `hreflang`.',
      schema: { type: 'boolean', default: false },
    },
    valueLocales: {
      description: 'Whether each entry says which of its values come from another locale.',
      schema: { type: 'boolean', default: false },
    },
    freshness: {
      description:
        'Whether each entry says which of its translated values are missing, outdated or translated in part. Of the published edition only what is public is compared. Such answers are not cached.',
      schema: { type: 'boolean', default: false },
    },
    generation: { description: 'A generation from an event: the answer is no older than it.' },
    path: { description: 'The path of a page.', ...(example?.path ? { example: example.path } : {}) },
    id: { description: 'The id of an entry.', ...(example ? { example: example.id } : {}) },
    type: {
      description: 'The name of a type.',
      schema: { type: 'string', enum: site.model.types.map(({ name }) => name) },
    },
    since: { description: 'The position of the last answer.', schema: { type: 'integer', minimum: 0 } },
  }
}
