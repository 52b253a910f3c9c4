import type { ManagedAccount, PasswordLink } from '@wisteria/core'
import type { NewSite, SignedIn, SiteView } from './answers.js'
import { Editor } from './editor.js'
import { call, segment, type Call, type Connection } from './transport.js'

/** What belongs to no site: signing in, accounts, creating sites. */
export class Service {
  readonly #connection: Connection

  constructor(connection: Connection) {
    this.#connection = connection
  }

  async #call<Body>(request: Call): Promise<Body> {
    return (await call<Body>(this.#connection, request)).body
  }

  state = () => this.#call<{ waitsForOwner: boolean }>({ path: '/edit/v1/service' })
  begin = (first: {
    code: string
    email: string
    name: string
    password: string
    site: NewSite
    as?: 'cookie' | 'token'
  }) => this.#call<SignedIn>({ method: 'POST', path: '/edit/v1/service/begin', body: first })
  signIn = (who: { email: string; password: string; as?: 'cookie' | 'token' }) =>
    this.#call<SignedIn>({ method: 'POST', path: '/edit/v1/session', body: who })
  session = () => this.#call<SignedIn>({ path: '/edit/v1/session' })
  signOut = () => this.#call<undefined>({ method: 'DELETE', path: '/edit/v1/session' })
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
  /** A one-time link by which somebody sets a new password. */
  makePasswordLink = (account: string) =>
    this.#call<PasswordLink>({ method: 'POST', path: `/edit/v1/accounts/${segment(account)}/password-link` })
  createSite = (site: NewSite) => this.#call<SiteView>({ method: 'POST', path: '/edit/v1/sites', body: site })
  /** A client of one of the sites, with the same rights. */
  site = (name: string): Editor => new Editor({ ...this.#connection, site: name })
}
