import type { Field } from '@wisteria/core'
import type { Fault } from '../editor/unreadable'

/** The properties and events of every control: the form around it handles locales, labels and problems. */
export interface ControlProps {
  /** The id of its main element, which the label names. */
  readonly id: string
  readonly field: Field
  readonly value: unknown
  /** What readers get while there is no value. */
  readonly fallback?: unknown
  /** Of the value, for its direction and its letters. */
  readonly locale: string
  readonly direction: 'ltr' | 'rtl'
  /** The locale that the form shows, where it is another: texts of a picture are written in it. */
  readonly formLocale?: string | undefined
  readonly isNaming?: boolean
  readonly disabled?: boolean
  /** A typed text that is no value: it is shown again. */
  readonly fault?: Fault | undefined
}

/** The events of every control. */
export interface ControlEvents {
  /** Another value; undefined where there is none. */
  change: [value: unknown]
  /** The text in the control cannot be read as a value; undefined once it can be. */
  unreadable: [fault: Fault | undefined]
}
