import { fieldRuleState } from '../documents/fieldRules.js'
import type { Problem } from '../base/errors.js'
import { chainOf, type SiteSettings } from '../locales/settings.js'
import { fieldWithId, insideGroup, type ContentType, type Field, type FieldOwner, type Model } from '../model/model.js'
import { insideOf, isRecord, type Document, type Item } from '../documents/document.js'
import type { Edit } from './edits.js'
import { storedReader } from '../documents/facts.js'
import type { State } from '../model/states.js'
import { summaryOf } from '../publishing/state.js'

/**
 * The edits of locked places: by the document before them, and by the state of the entry (in the locale of the edit, or over all
 * for shared values). Pointers are into the array of edits.
 */
export function lockedEdits(
  model: Model,
  type: ContentType,
  document: Document,
  edits: readonly Edit[],
  states: Readonly<Record<string, State>>,
  settings: SiteSettings,
): Problem[] {
  return edits.flatMap((edit, index): Problem[] => {
    const state = edit.locale === undefined ? summaryOf(states) : (states[edit.locale] ?? 'new')
    const chain = chainOf(settings, edit.locale ?? settings.defaultLocale)
    const locked = lockedOn(model, type, document, edit, chain, state)
    if (!locked) return []
    const message = `${locked.label} is locked${edit.locale === undefined ? '' : ` in ${edit.locale}`}: it cannot be changed while ${why(type, locked)}.`
    return [
      {
        code: 'locked',
        pointer: `/edits/${index}`,
        message,
        parameters: { field: locked.label },
        ...(edit.locale === undefined ? {} : { locale: edit.locale }),
      },
    ]
  })
}

/** The first field on the way to a place that is locked. */
function lockedOn(
  model: Model,
  type: ContentType,
  document: Document,
  edit: Edit,
  chain: readonly string[],
  state: State,
): Field | undefined {
  let owner: FieldOwner = type
  let values: Document = document
  let insideLocale = false
  for (let index = 0; index < edit.at.length; index += 2) {
    let content: unknown
    let last: Field | undefined
    for (const id of edit.at[index]!.split('.')) {
      const field = fieldWithId(owner, id)
      if (!field) return undefined
      if (fieldRuleState(model, owner, field, values, storedReader(chain, insideLocale), state).isLocked) return field
      content = values[id]
      if (field.localized && !insideLocale) {
        content = isRecord(content) && edit.locale !== undefined ? content[edit.locale] : undefined
        insideLocale = true
      }
      last = field
      const group = insideGroup(field)
      if (group && !field.many) {
        owner = group
        values = isRecord(content) ? content : {}
      }
    }
    const itemId = edit.at[index + 1]
    const item = Array.isArray(content) ? (content as Item[]).find((other) => other.id === itemId) : undefined
    const inside = item && last ? insideOf(model, last, [item])[0] : undefined
    if (!inside) return undefined
    owner = inside.owner
    values = inside.values
  }
  return undefined
}

function why(type: FieldOwner, field: Field): string {
  const section =
    field.section === undefined ? undefined : type.sections?.find((candidate) => candidate.name === field.section)
  return [field.lockIf, section?.lockIf]
    .filter(Boolean)
    .map((text) => `\`${text}\``)
    .join(' or ')
}
