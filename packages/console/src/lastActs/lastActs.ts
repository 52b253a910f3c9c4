import type { Call, Reply } from '@wisteria/client'
import type { NamedEdit } from '@wisteria/core'
import { ref, shallowRef } from 'vue'

/** Something that was done here and changed something, as it was sent. */
export interface Act {
  readonly time: Date
  /** The site that it was done on; undefined for the account's own matters. */
  readonly site: string | undefined
  /** Its path below the site's, or the whole one. */
  readonly path: string
  readonly sent: Call
  /** Only where the command needs it: an answer may have a secret. */
  readonly answer?: unknown
  /** The request before it: the proposal of a model that was then adopted. */
  readonly first?: Act | undefined
}

/** So many are kept, in this tab and as long as it is open. */
const mostActs = 20

/** Whether the sheet with the last actions is open. */
export const showsLastActs = ref(false)

/** The last actions, newest first. */
export const lastActs = shallowRef<readonly Act[]>([])

/** Passwords and sessions are left out as secrets; presence and previews, because they change nothing that is stored. */
export const unshown = /\/(session|set-up|invitation|presence|preview)(\/|$)|password|\/account\/sign-out/
const isProposal = (act: Act | undefined): boolean => act?.path === '/model/proposals'
const isEditing = (act: Act | undefined): boolean => /^\/entries\/[^/]+\/edits$/.test(act?.path ?? '')

/** E-mails that were seen here, by the id of an account or an invitation: commands name people by them, also once they are gone. */
const emails = new Map<string, string>()
export const emailOf = (id: string): string | undefined => emails.get(id)
export function rememberEmails(
  people: readonly ({ readonly email: string } & ({ readonly id: string } | { readonly account: string }))[],
): void {
  for (const person of people) emails.set('account' in person ? person.account : person.id, person.email)
}

/** Another user works in this tab now, or nobody. */
export function forgetActs(): void {
  lastActs.value = []
  emails.clear()
}

/** Whether a request holds what nobody may read later: a password, or values of a webhook's headers. */
const isSecret = ({ body }: Call): boolean =>
  ['password', 'headers'].some((name) => (body as Record<string, unknown> | undefined)?.[name] !== undefined)

export function recordAct(sent: Call, { body: answer }: Pick<Reply<unknown>, 'body'>): void {
  if (unshown.test(sent.path) || isSecret(sent)) return
  const [, site, below] = /^\/edit\/v1\/sites\/([^/]+)(\/.*)$/.exec(sent.path) ?? []
  const act: Act = {
    time: new Date(),
    site: site === undefined ? undefined : decodeURIComponent(site),
    path: below ?? sent.path,
    // A copy as it was sent: the page may change the original.
    sent: sent.body === undefined ? sent : { ...sent, body: JSON.parse(JSON.stringify(sent.body)) as unknown },
    ...(/\/(edits|proposals)$/.test(sent.path) ? { answer } : {}),
  }
  lastActs.value = added(act, lastActs.value).slice(0, mostActs)
}

function added(act: Act, before: readonly Act[]): readonly Act[] {
  const [last, ...older] = before
  // A proposal by itself changes nothing: it is kept for the adoption that follows, and replaced by the next proposal.
  if (isProposal(last) && last?.site === act.site) {
    if (isProposal(act)) return [act, ...older]
    if (act.path.startsWith('/model/proposals/')) return [{ ...act, first: last }, ...older]
  }
  // Typing is saved every moment: changes of one entry without another action between them are one action.
  if (last && isEditing(act) && act.path === last.path && act.site === last.site) return [joined(last, act), ...older]
  return [act, ...before]
}

interface Edits {
  readonly base: number
  readonly edits: readonly NamedEdit[]
}

/** Both edits, as one request on the base of the first. A value that is set twice has the last value. */
function joined(first: Act, second: Act): Act {
  const [one, other] = [first.sent.body as Edits, second.sent.body as Edits]
  const placeOf = ({ do: does, at, locale }: NamedEdit): string => JSON.stringify([does, at, locale])
  const edits = [...one.edits]
  for (const edit of other.edits) {
    const last = edits.at(-1)
    if (edit.do === 'set' && last && placeOf(last) === placeOf(edit)) edits.pop()
    edits.push(edit)
  }
  return { ...second, sent: { ...second.sent, body: { base: one.base, edits } } }
}

/** The actions to show, without proposals that were not adopted. */
export const shownActs = (acts: readonly Act[]): readonly Act[] => acts.filter((act) => !isProposal(act))
