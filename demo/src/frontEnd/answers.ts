/* The answers to the queries, as far as pages use them. */
export interface Card {
  readonly entryId: string
  readonly path: string | null
  readonly title?: string | null
  readonly name?: string | null
  readonly summary?: string | null
  readonly picture?: Picture | null
  readonly town?: string | null
  readonly role?: string | null
  readonly format?: string | null
  readonly starts?: string | null
  readonly ends?: string | null
  readonly minutes?: number | null
  readonly price?: number | null
  readonly forFamilies?: boolean | null
  readonly museum?: Card | null
  readonly inventory?: string | null
  readonly made?: number | null
}

export interface Picture {
  readonly address: string
  readonly alt: string | null
  readonly width: number | null
  readonly height: number | null
}

/** The content of every page. */
export interface VisitorInfo {
  readonly claim: string | null
  readonly contact: { readonly phone: string | null; readonly mail: string | null }
  readonly openingHours: readonly {
    readonly museum: Card | null
    readonly from: string | null
    readonly to: string | null
    readonly note: string | null
  }[]
}

export interface Block {
  readonly pictures?: readonly Picture[]
  readonly __typename: string
  readonly id: string
  readonly heading?: string | null
  readonly paragraphs?: string | null
  readonly file?: Picture | null
  readonly caption?: string | null
  readonly quote?: string | null
  readonly by?: string | null
  readonly label?: string | null
  readonly to?: { readonly path: string | null } | null
  readonly listTitle?: string | null
  readonly listed?: readonly (Card & { readonly begins?: string | null })[]
}

/** A line above every page. */
export interface Notice {
  readonly text: string | null
  readonly museum: Card | null
}

export interface Page extends Card {
  readonly type: string
  readonly locale: string
  readonly contentLocale: string
  readonly paths: readonly { readonly locale: string; readonly path: string; readonly contentLocale: string }[]
  readonly body?: readonly Block[]
  readonly shows?: string | null
  readonly inPage?: Card | null
  readonly openingHours?: string | null
  readonly stepFree?: boolean | null
  readonly bio?: string | null
  readonly story?: { readonly html: string } | null
  readonly onLoan?: boolean | null
  readonly loan?: { readonly to: string | null; readonly until: string | null } | null
  readonly makers?: readonly Card[]
  readonly curators?: readonly Card[]
  readonly speakers?: readonly Card[]
  readonly exhibition?: Card | null
}

export type Lists = Readonly<
  Partial<
    Record<
      'museums' | 'exhibitions' | 'activities' | 'artefacts' | 'people' | 'pages',
      { readonly nodes: readonly Card[] }
    >
  >
>
