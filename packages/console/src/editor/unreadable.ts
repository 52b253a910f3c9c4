import {
  applyEdit,
  contentAt,
  placeIn,
  placeOfPointer,
  type ContentType,
  type Edit,
  type Model,
  type NamedPlace,
  type Problem,
} from '@wisteria/core'
import { computed, shallowReactive } from 'vue'
import { t } from '../messages'

type Values = Record<string, unknown>

/** Text in a control that is no value of its field, and why not. */
export interface Fault {
  readonly text: unknown
  readonly message: string
}

export interface Unreadable extends NamedPlace, Fault {
  /** The control at the place, where there are several. */
  readonly part: string
}

/**
 * A typed text that cannot be read as a value. It holds back only its field: the rest is saved, and the field keeps its saved
 * value, until the text can be read.
 * @param values the form's, in which blocks and items are found.
 */
export function createUnreadable(model: Model, type: ContentType, values: Values) {
  const unreadables = shallowReactive(new Map<string, Unreadable>())
  const keyOf = ({ at, locale }: NamedPlace, part: string): string => JSON.stringify([at, locale ?? null, part])
  const placeAt = (pointer: string) => placeOfPointer(model, type, values, pointer)
  /** Unreadable texts that still exist: those in a removed block are dropped. */
  const list = computed(() =>
    [...unreadables.values()].flatMap((unread) => {
      const place = placeIn(model, type, values, unread)
      return place ? [{ ...unread, place }] : []
    }),
  )

  return {
    list,
    problems: computed<Problem[]>(() =>
      list.value.map(({ place, message, locale }) => ({
        code: 'unreadable',
        pointer: place.pointer,
        message: t('saving.fieldNotSaved', { field: place.labels.at(-1)!, message }),
        ...(locale === undefined ? {} : { locale }),
      })),
    ),
    /** Records that a control cannot read its text, or that it can again. `pointer`: of its field, with the locale. */
    hold(pointer: string, part: string, fault: Fault | undefined): void {
      const place = placeAt(pointer)
      if (!place) return
      const key = keyOf(place, part)
      if (!fault) unreadables.delete(key)
      else unreadables.set(key, { ...place, part, ...fault })
    },
    /** The unreadable text of a control. */
    at(pointer: string, part: string): Fault | undefined {
      const place = placeAt(pointer)
      return place && unreadables.get(keyOf(place, part))
    },
    /** The values to send: fields with unreadable texts have their saved values. */
    without(now: Values, saved: Values): Values {
      return list.value.reduce<Values>((result, { at, locale }) => {
        const before = contentAt(saved, at, locale)
        const where = { at, ...(locale === undefined ? {} : { locale }) }
        const edit: Edit = before === undefined ? { do: 'clear', ...where } : { do: 'set', ...where, value: before }
        return applyEdit(result, edit)
      }, now)
    },
    restoreUnsaved(words: readonly Unreadable[]): void {
      for (const unread of words) unreadables.set(keyOf(unread, unread.part), unread)
    },
    clear: () => unreadables.clear(),
  }
}
