import {
  composePublic,
  statesOf,
  type ContentType,
  type Document,
  type EntryChange,
  type EntryMoment,
  type PublicHistory,
} from '@wisteria/core'
import type { Site, WorkingCopy } from '@wisteria/store'

/** An entry at a moment: its working copy, and what was public. */
export interface Known {
  readonly document: Document
  /** Left out where an event does not need the states. */
  readonly history?: PublicHistory
}

type Head = Pick<WorkingCopy, 'id' | 'region'> & { readonly type: ContentType }

/** What an event changed of a working copy, for conditions: undefined where there was, or is, none. */
export const draftChange =
  (site: Site, { id, type, region }: Head, before: Known | undefined, after: Known | undefined) =>
  (): EntryChange => ({
    id,
    type,
    region,
    before: before && { document: before.document, states: statesIn(site, type, before) },
    after: after && { document: after.document, states: statesIn(site, type, after) },
  })

/** What an event changed of what is public, for conditions. */
export const publicChange =
  (
    site: Site,
    { id, type, region, document }: Head & Pick<WorkingCopy, 'document'>,
    before: PublicHistory,
    after: PublicHistory,
  ) =>
  (): EntryChange => {
    const moment = (history: PublicHistory): EntryMoment | undefined =>
      history.layers && {
        document: composePublic(site.model, type, history.layers),
        states: statesIn(site, type, { document, history }),
      }
    return { id, type, region, before: moment(before), after: moment(after) }
  }

/** An event about a working copy that stays as it is. */
export const unchanged = (site: Site, copy: WorkingCopy, history?: PublicHistory): (() => EntryChange) => {
  const known = { document: copy.document, ...(history ? { history } : {}) }
  return draftChange(site, copy, known, known)
}

const statesIn = (site: Site, type: ContentType, { document, history }: Known): EntryMoment['states'] =>
  history ? statesOf(site.model, type, document, history, site.settings) : {}
