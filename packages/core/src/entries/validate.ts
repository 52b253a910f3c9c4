import { chainOf, localeTags, type SiteSettings } from '../locales/settings.js'
import type { Problem } from '../errors.js'
import { blockTypeWithId, kindOf, type ContentType, type Field, type Model } from '../model/model.js'
import { composePublic, type PublicLayers } from './compose.js'
import { hasContent, valuesIn, walk, type BlockItem, type Document, type Spot } from './document.js'
import { resolve } from './project.js'

/** The layers that would be public after publishing a working copy in some locales. */
export function layersAfter(
  document: Document,
  locales: readonly string[],
  now: PublicLayers | undefined,
): PublicLayers {
  return {
    shared: document,
    locales: { ...now?.locales, ...Object.fromEntries(locales.map((locale) => [locale, document])) },
  }
}

/**
 * Everything that keeps what would be public from being valid: every missing or wrong value, in every locale that
 * would be public, also inside blocks. Required means: has a value after fallback through layers that will be public.
 */
export function validate(model: Model, type: ContentType, layers: PublicLayers, settings: SiteSettings): Problem[] {
  const problems: Problem[] = []
  const composed = composePublic(model, type, layers)
  const publicLocales = localeTags(settings).filter((locale) => layers.locales[locale] !== undefined)
  const contents = new Map<string, unknown>()
  walk(
    model,
    type,
    composed,
    localeTags(settings),
    (content, spot) => void contents.set(key(spot.place, spot.locale), content),
  )
  walk(model, type, composed, publicLocales, (content, spot) => {
    const { field, locale } = spot
    const tell = (code: string, message: string) =>
      void problems.push({ code, message, pointer: spot.pointer, ...(locale === undefined ? {} : { locale }) })
    if (field.required && !hasContent(inherited(content, spot, contents, settings)))
      tell('required', emptyMessage(spot, composed, model))
    if (!hasContent(content)) return
    const name = nameOf(spot, composed, model)
    const where = locale === undefined ? '' : ` in ${locale}`
    if (field.many) {
      const count = (content as unknown[]).length
      if (field.count?.min !== undefined && count < field.count.min)
        tell('tooFew', `${name} has ${count} of at least ${field.count.min}${where}.`)
      if (field.count?.max !== undefined && count > field.count.max)
        tell('tooMany', `${name} has ${count} of at most ${field.count.max}${where}.`)
    }
    for (const value of valuesIn(content, field)) {
      const misfit = kindOf(field).misfit(value, field.options)
      if (misfit) tell('wrongForm', `${name}${where} ${misfit}.`)
      else
        for (const { code, message } of kindOf(field).judge(value, field.options))
          tell(code, `${name}${where} ${message.replace(/\.$/, '')}.`)
    }
  })
  return problems
}

/** What a reader finds at a spot: for a localized one, after fallback. */
function inherited(
  content: unknown,
  spot: Spot,
  contents: ReadonlyMap<string, unknown>,
  settings: SiteSettings,
): unknown {
  if (spot.locale === undefined) return content
  const chain = chainOf(settings, spot.locale)
  return resolve(Object.fromEntries(chain.map((locale) => [locale, contents.get(key(spot.place, locale))])), chain)
    .content
}

const key = (place: readonly string[], locale: string | undefined): string => `${place.join('/')} ${locale ?? ''}`

function emptyMessage(spot: Spot, document: Document, model: Model): string {
  const name = nameOf(spot, document, model)
  return spot.locale === undefined
    ? `${name} is empty. Fill it in.`
    : `${name} is empty in ${spot.locale}. Write one, or leave ${spot.locale} out.`
}

/** "Title", or "Text of the 2nd block (Quote) of Body". */
export function nameOf(spot: Pick<Spot, 'field' | 'pointer' | 'place'>, document: Document, model: Model): string {
  if (spot.place.length === 1) return spot.field.label
  const [listId, handle] = spot.place as [string, string]
  const list = document[listId]
  const index = Array.isArray(list) ? (list as BlockItem[]).findIndex((item) => item.handle === handle) : -1
  const block = index >= 0 ? blockTypeWithId(model, (list as BlockItem[])[index]!.block) : undefined
  return index < 0 ? spot.field.label : `${spot.field.label} of block ${index + 1} (${block?.label ?? '?'})`
}

/** A reference in a working copy, with what it may lead to: the service knows which entries there are. */
export interface HeldReference {
  readonly pointer: string
  readonly target: string
  readonly accepts: readonly string[]
  readonly field: Field
}

/** Every reference that a document holds, in every locale. */
export function referencesIn(
  model: Model,
  type: ContentType,
  document: Document,
  locales: readonly string[],
): HeldReference[] {
  const held: HeldReference[] = []
  walk(model, type, document, locales, (content, spot) => {
    if (spot.field.kind !== 'entry') return
    const accepts = spot.field.options['accepts'] as string[]
    valuesIn(content, spot.field).forEach((target, index) =>
      held.push({
        pointer: spot.field.many ? `${spot.pointer}/${index}` : spot.pointer,
        target: target as string,
        accepts,
        field: spot.field,
      }),
    )
  })
  return held
}
