/** What copying content from another site would do. */
export interface CopyPlan {
  /** The name of the site that is copied from. */
  readonly from: string
  readonly types: readonly {
    readonly type: string
    readonly entries: number
    /** Why some of them cannot be copied, with how many; without a model that fits, for instance. */
    readonly refused: readonly { readonly message: string; readonly entries: number }[]
  }[]
  readonly assets: { readonly count: number; readonly bytes: number }
  /** Locales that this site does not have: texts in them are left out. */
  readonly localesLeftOut: readonly string[]
  /** How many references lead to what is not copied, and are left out. */
  readonly referencesLeftOut: number
}
