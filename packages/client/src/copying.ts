/** Which content of another site is copied: all of it, entries of types, or some by their ids. */
export interface CopyOrder {
  /** The name of the site. */
  readonly from: string
  readonly types?: readonly string[] | undefined
  /** A condition, where one type is named. */
  readonly where?: string | undefined
  readonly ids?: readonly string[] | undefined
  /** Whether entries that these refer to are copied too: yes, when left out. */
  readonly references?: boolean | undefined
}
