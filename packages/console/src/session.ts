import { Service, WisteriaProblem, type Editor, type Member, type SignedIn, type SiteView } from '@wisteria/client'
import { nameOfElsewhere, type Caller, type Model } from '@wisteria/core'
import { reactive, shallowRef, watch } from 'vue'
import { forgetActs, recordAct, rememberEmails } from './lastActs/lastActs'
import { signedOut } from './signedOut'
import { speak, t } from './messages'

/** The signed-in account; null when nobody is signed in, undefined until that is known. */
export const session = shallowRef<SignedIn | null | undefined>(undefined)

// Actions of one user are not shown to the next one in this tab.
watch(() => session.value?.account.id, forgetActs, { flush: 'sync' })

/** A user whose session has ended signs in again without leaving the page; at the start nobody is asked. */
export const signInAgain = (): Promise<boolean> => (session.value ? signedOut.askToSignIn() : Promise.resolve(false))

export const service = new Service({ baseUrl: '', signInAgain, onChange: recordAct })

export async function loadSession(): Promise<SignedIn | null> {
  try {
    session.value = await service.session()
  } catch (error) {
    if (!(error instanceof WisteriaProblem) || error.status !== 401) throw error
    session.value = null
  }
  await speak(session.value?.account.language)
  return session.value
}

/** A site as the console works on it: its model and settings, and who its members are. */
export interface Site {
  readonly name: string
  readonly editor: Editor
  readonly settings: SiteView
  readonly model: Model
  readonly members: readonly Member[]
  /** Who is signed in, as the core's rules of access see them. The service decides; the console only spares people the try. */
  readonly caller: Caller
}

const sites = reactive(new Map<string, Promise<Site>>())

/** The site of that name, loaded once; again after `forgetSite`. */
export function openSite(name: string): Promise<Site> {
  const site = sites.get(name)
  if (site) return site
  const opened = loadSite(name)
  sites.set(name, opened)
  opened.catch(() => sites.delete(name))
  return opened
}

export const forgetSites = (): void => sites.clear()

async function loadSite(name: string): Promise<Site> {
  const editor = service.site(name)
  const [settings, model, { members }] = await Promise.all([editor.settings(), editor.model(), editor.members()])
  rememberEmails(members)
  const membership = session.value?.sites.find((site) => site.name === name)
  return { name, editor, settings, model, members, caller: callerOn(membership) }
}

/** Who is signed in, as a member of that site. */
export function callerOn(membership: SignedIn['sites'][number] | undefined): Caller {
  const account = session.value?.account
  return {
    is: 'member',
    account: account?.id ?? '',
    operator: account?.operator ?? false,
    role: membership?.role,
    locales: membership?.locales ?? undefined,
    regions: membership?.regions ?? undefined,
  }
}

/** The name of `account:…`, or of another actor. */
export function nameOfActor(site: Site, actor: string): string {
  const [kind, id] = actor.split(':')
  if (kind === 'account') return site.members.find((member) => member.account === id)?.name ?? t('shell.somebodyGone')
  const name = nameOfElsewhere(actor)
  if (name !== undefined) return name || t('shell.somebodyGone')
  if (kind === 'connector') return t('shell.connector')
  if (kind === 'automation') return t('shell.anAutomation')
  return kind === 'key' ? t('shell.accessKey') : kind === 'grant' ? t('shell.aPreview') : actor
}
