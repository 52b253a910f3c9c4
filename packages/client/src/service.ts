import type { ManagedAccount, PasswordLink, Role } from '@wisteria/core'
import type { NewSite, Offer, Session, SignedIn, SiteView } from './answers.js'
import { Editor } from './editor.js'
import { call, segment, type Call, type Connection } from './transport.js'

/** Calls outside a site: signing in, accounts, creating sites. */
export class Service {
  readonly #connection: Connection

  constructor(connection: Connection) {
    this.#connection = connection
  }

  async #call<Body>(request: Call): Promise<Body> {
    return (await call<Body>(this.#connection, request)).body
  }

  state = () => this.#call<{ waitsForOwner: boolean }>({ path: '/edit/v1/service' })
  setUp = (first: {
    code: string
    email: string
    name: string
    password: string
    site: NewSite
    as?: 'cookie' | 'token'
  }) => this.#call<SignedIn>({ method: 'POST', path: '/edit/v1/service/set-up', body: first })
  signIn = (who: { email: string; password: string; as?: 'cookie' | 'token' }) =>
    this.#call<SignedIn>({ method: 'POST', path: '/edit/v1/session', body: who })
  session = () => this.#call<SignedIn>({ path: '/edit/v1/session' })
  signOut = () => this.#call<undefined>({ method: 'DELETE', path: '/edit/v1/session' })
  /** Changes your name, the language of the console and the time zone that it shows times in. */
  changeAccount = (change: { name: string; language: string | null; timeZone: string | null }) =>
    this.#call<Omit<SignedIn, 'token'>>({ method: 'PUT', path: '/edit/v1/account', body: change })
  /** Where you are signed in. */
  sessions = () => this.#call<{ sessions: Session[] }>({ path: '/edit/v1/account/sessions' })
  endSession = (id: string) =>
    this.#call<undefined>({ method: 'DELETE', path: `/edit/v1/account/sessions/${segment(id)}` })
  /** The site and role of an invitation, by the code in its link. */
  invitation = (code: string) => this.#call<Offer>({ method: 'POST', path: '/edit/v1/invitation', body: { code } })
  /** Becomes a member by the code of an invitation, and signs in: with a name and a new password, or the password of the account. */
  acceptInvitation = (by: { code: string; name?: string; password?: string; as?: 'cookie' | 'token' }) =>
    this.#call<SignedIn>({ method: 'POST', path: '/edit/v1/invitation/accept', body: by })
  /** Changes your own password; every other session of yours ends. */
  changePassword = (change: { current: string; password: string }) =>
    this.#call<undefined>({ method: 'PUT', path: '/edit/v1/account/password', body: change })
  /** Sets a password with the code of a one-time link, and signs in. */
  usePasswordLink = (by: { code: string; password: string; as?: 'cookie' | 'token' }) =>
    this.#call<SignedIn>({ method: 'POST', path: '/edit/v1/account/password/by-link', body: by })
  /** Ends every session and preview grant of yours. */
  signOutEverywhere = () => this.#call<undefined>({ method: 'POST', path: '/edit/v1/account/sign-out' })
  /** The accounts that you manage. */
  accounts = () => this.#call<{ accounts: ManagedAccount[] }>({ path: '/edit/v1/accounts' })
  setAccountDisabled = (account: string, disabled: boolean) =>
    this.#call<ManagedAccount>({
      method: 'PUT',
      path: `/edit/v1/accounts/${segment(account)}/disabled`,
      body: { disabled },
    })
  /** A one-time link to set a new password. */
  makePasswordLink = (account: string) =>
    this.#call<PasswordLink>({ method: 'POST', path: `/edit/v1/accounts/${segment(account)}/password-link` })
  /** The sites that you are a member of; all of them as an operator. `role` is yours there. */
  sites = () => this.#call<{ sites: { name: string; label: string; role: Role | null }[] }>({ path: '/edit/v1/sites' })
  createSite = (site: NewSite) => this.#call<SiteView>({ method: 'POST', path: '/edit/v1/sites', body: site })
  /** A client of one of the sites, with the same rights. */
  site = (name: string): Editor => new Editor({ ...this.#connection, site: name })
}
