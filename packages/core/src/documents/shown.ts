import { hasRulesInside, fieldRuleState } from './fieldRules.js'
import { chainOf, localeTags, type SiteSettings } from '../locales/settings.js'
import { insideGroup, type FieldOwner, type Model } from '../model/model.js'
import { holdsLocales, insideOf, isRecord, type Document, type LocaleMap, type NestedItem } from './document.js'
import { storedReader } from './facts.js'

/**
 * A document without values that its rules hide: these stay in the working copy, and are never public. For a localized field the
 * rules are evaluated in each locale, with the values that its readers get.
 */
export function withoutHidden(model: Model, owner: FieldOwner, document: Document, settings: SiteSettings): Document {
  if (!hasRulesInside(model, owner)) return document
  const chains = new Map(localeTags(settings).map((tag) => [tag, chainOf(settings, tag)]))
  const within = (type: FieldOwner, values: Document, locale: string | undefined): Document => {
    const left: Record<string, unknown> = { ...values }
    for (const field of type.fields) {
      const content = values[field.id]
      if (content === undefined) continue
      const isShown = (tag: string) =>
        fieldRuleState(model, type, field, values, storedReader(chains.get(tag) ?? [tag], locale !== undefined)).isShown
      if (holdsLocales(field, locale !== undefined)) {
        const kept = Object.entries(content as LocaleMap).filter(([tag]) => isShown(tag))
        const opened = kept.map(([tag, content]) => [tag, inside(type, field.id, content, tag)])
        if (opened.length > 0) left[field.id] = Object.fromEntries(opened)
        else delete left[field.id]
      } else if (isShown(locale ?? settings.defaultLocale)) left[field.id] = inside(type, field.id, content, locale)
      else delete left[field.id]
    }
    return left
  }
  const inside = (type: FieldOwner, id: string, content: unknown, locale: string | undefined): unknown => {
    const field = type.fields.find((candidate) => candidate.id === id)!
    const group = insideGroup(field)
    if (group && !field.many) return isRecord(content) ? within(group, content, locale) : content
    const nested = insideOf(model, field, content)
    if (nested.length === 0) return content
    return (content as NestedItem[]).map((item, index) => {
      const opened = nested.find((candidate) => candidate.index === index)
      return opened ? { ...item, values: within(opened.owner, item.values, locale) } : item
    })
  }
  return within(owner, document, undefined)
}
