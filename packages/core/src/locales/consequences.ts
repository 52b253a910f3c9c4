/** The consequences of other settings of a site. */
export interface LocaleConsequences {
  readonly added: readonly string[]
  readonly retired: readonly RetiredLocale[]
  /** Locales whose chain of fallbacks differs. */
  readonly fallbacksChanged: readonly string[]
  /** Locales that become variants, or are none any longer. */
  readonly variantsChanged: readonly string[]
  readonly timeZoneChanged: boolean
  /** Another default locale; null where it stays. */
  readonly defaultChanged: { readonly to: string; readonly refused: string | null } | null
}

/** A locale to be removed: its public content is withdrawn, and its texts are kept. */
export interface RetiredLocale {
  readonly tag: string
  /** How many entries are public in it. */
  readonly public: number
  /** How many of these are public in no other locale: nobody could read them any more. */
  readonly only: number
  /** How many URLs would stop working. */
  readonly paths: number
  /** How many working copies have content in it. */
  readonly drafts: number
  /** How many schedules name it: they would fail. */
  readonly schedules: number
  /** Why it cannot be removed yet; null where it can. */
  readonly refused: string | null
}
