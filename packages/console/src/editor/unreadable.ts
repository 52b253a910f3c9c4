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
  /** Which control of the place it is, where there are several. */
  readonly part: string
}

/**
 * What was typed and cannot be read as a value. It holds back its field alone: the rest is saved, and the field keeps what was
 * saved of it, until it can be read.
 * @param values those on the desk, in which blocks and items are found.
 */
export function createUnreadable(model: Model, type: ContentType, values: Values) {
  const unreadables = shallowReactive(new Map<string, Unreadable>())
  const keyOf = ({ at, locale }: NamedPlace, part: string): string => JSON.stringify([at, locale ?? null, part])
  const placeAt = (pointer: string) => placeOfPointer(model, type, values, pointer)
  /** Those that are still there: a block that was removed takes its faults along. */
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
    /** Notes what a control cannot read, or that it can again. `pointer`: of its field, with the locale. */
    hold(pointer: string, part: string, fault: Fault | undefined): void {
      const place = placeAt(pointer)
      if (!place) return
      const key = keyOf(place, part)
      if (!fault) unreadables.delete(key)
      else unreadables.set(key, { ...place, part, ...fault })
    },
    /** What a control had that could not be read. */
    at(pointer: string, part: string): Fault | undefined {
      const place = placeAt(pointer)
      return place && unreadables.get(keyOf(place, part))
    },
    /** The values without what may not be sent: such fields are as they are saved. */
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
