import { mainRegion } from '../locales/regions.js'
import { chainOf, localeTags, type SiteSettings } from '../locales/settings.js'
import type { ContentType, Model } from '../model/model.js'
import { pathIn } from './entryPath.js'
import { composePublic, localesWithWords, type PublicLayers } from '../documents/layers.js'
import type { Document } from '../documents/document.js'
import { project, type Projection } from '../documents/project.js'

/** A stored row of an entry: for the readers of one locale in one edition. */
export interface EditionRow {
  readonly locale: string
  /** The locale that its words are in: its own, or the first in its chain that has any. Its own where nothing is localized. */
  readonly contentLocale: string
  /** The values as JSON text. References are ids: whether they may be seen is decided at reading. */
  readonly doc: string
  /** The values that are in another locale. */
  readonly fallbacks: Projection['fallbacks']
  readonly path: string | null
  /** Of an entry of a type that is regional; null for others. */
  readonly region: string | null
  readonly title: string
  readonly facts: Projection['facts']
  readonly elements: Projection['elements']
  readonly references: Projection['references']
  readonly assets: Projection['assets']
  readonly texts: Projection['texts']
}

/** Of the entry itself, as it is stored. */
export interface EntryHead {
  /** Needed where the rows are kept. */
  readonly id?: string
  /** Null for the main region. */
  readonly region?: string | null | undefined
}

/** The region that an entry of a type belongs to: null where the type is not regional. @param region as it is stored. */
export const regionOf = (type: ContentType, region: string | null | undefined): string | null =>
  type.regional ? (region ?? mainRegion) : null

/** The path of the parent in a locale: null without a parent, undefined when it has none there. */
export type ParentPath = (locale: string) => string | null | undefined

/**
 * A row for every locale in which the entry can be read: those with a published locale in their chain.
 */
export function publicRows(
  model: Model,
  type: ContentType,
  settings: SiteSettings,
  layers: PublicLayers,
  parentPath: ParentPath,
  head: EntryHead = {},
): EditionRow[] {
  const composed = composePublic(model, type, layers)
  const worded = localesWithWords(model, type, composed, Object.keys(layers.locales))
  return localeTags(settings)
    .filter((locale) => chainOf(settings, locale).some((tag) => layers.locales[tag] !== undefined))
    .map((locale) => rowIn(model, type, settings, composed, locale, worded, parentPath, head))
}

/** A row for every locale: a working copy can be read in all of them. */
export function draftRows(
  model: Model,
  type: ContentType,
  settings: SiteSettings,
  document: Document,
  parentPath: ParentPath,
  head: EntryHead = {},
): EditionRow[] {
  const tags = localeTags(settings)
  const worded = localesWithWords(model, type, document, tags)
  return tags.map((locale) => rowIn(model, type, settings, document, locale, worded, parentPath, head))
}

function rowIn(
  model: Model,
  type: ContentType,
  settings: SiteSettings,
  document: Document,
  locale: string,
  worded: ReadonlySet<string>,
  parentPath: ParentPath,
  { id, region: stored }: EntryHead,
): EditionRow {
  const chain = chainOf(settings, locale)
  const region = regionOf(type, stored)
  const { values, title, ...columns } = project(model, type, document, chain, id, region)
  const contentLocale = chain.find((tag) => worded.has(tag)) ?? locale
  const path = pathIn(type, document, settings, locale, parentPath(locale), region) ?? null
  return { locale, contentLocale, doc: JSON.stringify(values), path, region, title, ...columns }
}
