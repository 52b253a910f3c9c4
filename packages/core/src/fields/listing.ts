import { z } from 'zod'
import { defineKind } from './kind.js'

/** More than so many entries are no list that fills itself: that is a page of its own. */
export const maxListing = 100

const form = z.strictObject({
  type: z.string().min(1).max(64),
  where: z.string().min(1).max(10_000).optional(),
  sort: z.string().min(1).max(300).optional(),
  first: z.int().min(1).max(maxListing),
})

/** The query of a list that fills itself. */
export type Listing = z.infer<typeof form>

/** A list as a row has it, with what it takes from the entry around it: its region, where that is not the main one. */
export type BoundListing = Listing & { readonly region?: string }

/** Before, moments and facts of an entry were written with a sign: `$now`, `$state`; and `first` was called `limit`. */
const signed = /\$(now|today)\b|\$(?=(?:type|state|updated|published)\b)/g
const isSigned = (text: string | undefined): boolean => text?.includes('$') === true
const unsigned = (text: string): string => text.replace(signed, (_, moment?: string) => moment ?? 'entry.')

/** A list as it was stored earlier, in the form of now; itself where it is in that form. */
export function upgradeListing(value: unknown): unknown {
  if (typeof value !== 'object' || value === null) return value
  const { where, sort, limit, ...more } = value as Partial<Listing> & { limit?: unknown }
  if (!isSigned(where) && !isSigned(sort) && limit === undefined) return value
  return {
    ...more,
    ...(where && { where: unsigned(where) }),
    ...(sort && { sort: unsigned(sort) }),
    ...(limit !== undefined && { first: limit }),
  }
}

export const listing = defineKind<{ accepts: string[]; max?: number | undefined }>({
  name: 'listing',
  label: 'List that fills itself',
  summary:
    'Entries that match a condition whenever it is read: `{ type, where, sort, first }`. Readers get the entries, as of a field of kind `entry` with multiple values.',
  example: 'entries: { kind: listing, accepts: [activity, exhibition], max: 12 }',
  options: z.strictObject({
    accepts: z.array(z.string()).min(1, 'must name at least one type'),
    max: z.int().min(1).max(maxListing).optional(),
  }),
  descriptions: {
    accepts: 'The names of the types that it may list.',
    max: `How many entries it lists at most, up to ${maxListing}.`,
  },
  indexed: false,
  single: true,
  shape: ({ accepts }) => ({ is: 'reference', to: accepts, filled: true }),
  checkForm: (value) =>
    form.safeParse(value).success
      ? undefined
      : `must be \`{ type, where, sort, first }\`: the name of a type, a condition and a sort order that may be left out, and a number from 1 to ${maxListing}`,
  checkRules: (value, { max }) =>
    max !== undefined && (value as Listing).first > max
      ? [
          {
            code: 'tooMany',
            message: `lists ${(value as Listing).first} entries, at most ${max} fit`,
            parameters: { count: (value as Listing).first, max },
          },
        ]
      : [],
  comparison: 'presence',
  fact: () => 1,
  sample: ({ accepts }) => ({ type: accepts[0], first: 3 }),
})
