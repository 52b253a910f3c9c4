import type { Field } from '@wisteria/core'

/** What every control gets and tells: the form around it knows locales, labels and problems. */
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
  readonly isNaming?: boolean
  readonly disabled?: boolean
}
