/** An account, for those who manage it. */
export interface ManagedAccount {
  readonly id: string
  readonly email: string
  readonly name: string
  readonly operator: boolean
  /** ISO instant; null while the account may sign in. */
  readonly disabledAt: string | null
  readonly sites: readonly { readonly name: string; readonly role: string }[]
}

/** A one-time link to set a new password. */
export interface PasswordLink {
  readonly address: string
  /** ISO instant. */
  readonly expiresAt: string
}
