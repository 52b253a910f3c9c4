import {
  changesBetween,
  composePublic,
  layersAfter,
  localesToPublish,
  localeTags,
  parentOf,
  publicRows,
  typeWithId,
  type PublicLayers,
  type PublishCheck,
  type PublishConsequences,
} from '@wisteria/core'
import {
  descendantsOf,
  hiddenTargets,
  namedPublicRows,
  parentPathsOf,
  pathsOfEntries,
  publicHistoryOf,
  publicReferrers,
  type KnownHistory,
  type Reader,
  type RowsChanged,
  type Site,
  type WorkingCopy,
  workOfEntry,
} from '@wisteria/store'
import { namesIn } from '../workingCopies/named.js'
import { outdatedBySource } from './minorChange.js'
import { problemsOf, readersSee } from './publishProblems.js'

export async function publishConsequences(
  reader: Reader,
  site: Site,
  copy: WorkingCopy,
  asked: readonly string[] | undefined,
): Promise<Omit<PublishConsequences, 'together'>> {
  const history = await publicHistoryOf(reader, site, copy.type, copy.id)
  const locales = localesToPublish(site.model, site.settings, copy.type, copy.document, history, asked)
  const after = layersAfter(copy.document, locales, history.layers)
  const before = history.layers ? readersSee(site, copy.type, history.layers) : {}
  const composed = readersSee(site, copy.type, after)
  const paths = await pathsAfter(reader, site, copy, after)
  const changes = changesBetween(site.model, copy.type, before, composed, localeTags(site.settings))
  return {
    version: copy.version,
    locales,
    problems: await problemsOf(reader, site, copy, after),
    changes,
    names: await namesIn(reader, site, changes),
    paths,
    hiddenReferences: await hiddenTargets(reader, site, copy.id),
    translations: await workOfEntry(reader, site, copy.id),
    outdates: Object.fromEntries(
      Object.entries(outdatedBySource(site, copy, history)).map(([locale, units]) => [locale, units.length]),
    ),
    affects: await affectedBy(reader, site, copy.id, Object.keys(paths).length > 0),
  }
}

/** The blocking problems of a working copy, and where it differs from the published edition: part of every save's answer. */
export async function publishCheck(
  reader: Reader,
  site: Site,
  copy: WorkingCopy,
  history: KnownHistory,
): Promise<PublishCheck> {
  const locales = localesToPublish(site.model, site.settings, copy.type, copy.document, history, undefined)
  const after = layersAfter(copy.document, locales, history.layers)
  const before = history.layers ? readersSee(site, copy.type, history.layers) : {}
  const composed = readersSee(site, copy.type, after)
  const changes = changesBetween(site.model, copy.type, before, composed, localeTags(site.settings))
  return {
    locales,
    problems: await problemsOf(reader, site, copy, after),
    changes,
    names: await namesIn(reader, site, changes),
  }
}

async function pathsAfter(
  reader: Reader,
  site: Site,
  copy: WorkingCopy,
  after: PublicLayers,
): Promise<RowsChanged['paths']> {
  const parent = parentOf(copy.type, composePublic(site.model, copy.type, after))
  const parentPath = await parentPathsOf(reader, site, 'published', parent)
  const now = await pathsOfEntries(reader, site, 'published', [copy.id])
  return Object.fromEntries(
    publicRows(site.model, copy.type, site.settings, after, parentPath, copy).flatMap(({ locale, path: to }) => {
      const from = now.find((row) => row.locale === locale)?.path ?? null
      return from === to ? [] : [[locale, { from, to }]]
    }),
  )
}

/** The most public entries named that refer to one. */
const maxReferring = 100

async function affectedBy(
  reader: Reader,
  site: Site,
  entry: string,
  pathsChange: boolean,
): Promise<PublishConsequences['affects']> {
  const below = pathsChange ? (await descendantsOf(reader, site, 'published', entry)).map(({ id }) => id) : []
  const referring = await publicReferrers(reader, site, entry, maxReferring)
  const refers = referring.filter((id) => id !== entry && !below.includes(id))
  const named = await namedPublicRows(reader, site, [...below, ...refers])
  return [...below, ...refers].flatMap((id) => {
    const row = named.get(id)
    if (!row) return []
    const type = typeWithId(site.model, row.type)?.name ?? ''
    return [{ id, type, title: row.title, because: below.includes(id) ? ('below' as const) : ('refers' as const) }]
  })
}
