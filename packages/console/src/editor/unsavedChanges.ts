import { keptRecords } from '../kept/records'
import type { Unreadable } from './unreadable'

type Values = Record<string, unknown>

/** Unsaved edits of an entry. */
export interface Words {
  /** When they were kept: an ISO instant. */
  readonly at: string
  /** The version that they were written on. */
  readonly version: number
  /** The values of that version. */
  readonly saved: Values
  readonly values: Values
  /** Text in controls that was no value. */
  readonly unread?: readonly Unreadable[]
}

/** Words of an entry that are kept in the browser until the service has them. */
export const unsavedChanges = (storage: Storage | undefined, account: string, place: string, tab: string) =>
  keptRecords<Words>(storage, `wisteria/words/${account}/${place}`, tab, isWords)

const isWords = (record: Partial<Words>): boolean =>
  typeof record.version === 'number' && record.saved !== undefined && record.values !== undefined
