import { checkGlossary, localeTags, maxTermLength, maxTerms, WisteriaError, type GlossaryView } from '@wisteria/core'
import { Act, glossaryOf, setGlossary, siteWithId } from '@wisteria/store'
import { z } from 'zod'
import { meetsIfMatch } from '../kernel/entityTags.js'
import { route, type Route } from '../kernel/route.js'
import { invalid } from '../workingCopies/saving.js'
import { memoryFor } from './memory.js'
import { requireTarget } from './reading.js'

const base = '/edit/v1/sites/{site}/translations'

const word = z.string().trim().min(1, 'must not be empty').max(maxTermLength)
const terms = z
  .array(
    z.strictObject({
      term: word,
      note: z.string().max(1000).optional(),
      translations: z.record(
        z.string().max(40),
        z.strictObject({ use: word.optional(), avoid: z.array(word).max(20).optional() }),
      ),
    }),
  )
  .max(maxTerms)

const etagOf = (version: number): string => `"g${version}"`

/** What helps while translating: earlier translations, and the terms of the site. */
export const translationHelpRoutes: readonly Route[] = [
  route({
    method: 'GET',
    path: `${base}/memory`,
    summary:
      'Earlier translations into `locale` of the same or nearly the same text, each with its likeness in per cent; at most 5. `entry` and `unit` name the text that it is for.',
    permission: 'draft.read',
    query: z.object({
      locale: z.string().max(40),
      text: z.string().min(1).max(5000),
      entry: z.string().max(60).optional(),
      unit: z.string().max(2000).optional(),
    }),
    handle: async ({ kernel, site, query: { locale, text, ...except } }) => ({
      body: { matches: await memoryFor(kernel.database, site, requireTarget(site, locale), text, except) },
    }),
  }),
  route({
    method: 'GET',
    path: `${base}/glossary`,
    summary: 'The terms of the site, in its default locale, with the translations to use and to avoid.',
    permission: 'draft.read',
    handle: async ({ kernel, site }) => {
      const { terms, version } = await glossaryOf(kernel.database, site)
      return { body: { terms, version } satisfies GlossaryView, headers: { ETag: etagOf(version) } }
    },
  }),
  route({
    method: 'PUT',
    path: `${base}/glossary`,
    summary:
      'Replaces the terms of the site. `If-Match` with the `ETag` that was read guards what others have changed since.',
    permission: 'entry.write',
    body: z.strictObject({ terms }),
    handle: (request) =>
      request.write(async (transaction) => {
        const site = await siteWithId(transaction, request.site.id)
        const before = await glossaryOf(transaction, site)
        if (!meetsIfMatch(request.headers['if-match'], etagOf(before.version)))
          throw new WisteriaError('stale', 'Somebody has changed the glossary since you read it. Read it again.')
        const { terms } = request.body
        const problems = checkGlossary(terms, localeTags(site.settings), site.settings.defaultLocale)
        if (problems.length > 0) throw invalid(problems)
        const act = new Act(transaction, site, request.actor, request.kernel.environment)
        const version = await setGlossary(transaction, site, terms, request.actor, act.at)
        await act.tell('translation.glossaryChanged', {})
        return { body: { terms, version } satisfies GlossaryView, headers: { ETag: etagOf(version) } }
      }),
  }),
]
