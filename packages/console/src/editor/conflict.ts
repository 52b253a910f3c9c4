/** A place that two wrote at, with what each did there, as the service tells it. */
export interface Conflict {
  readonly place: readonly string[]
  readonly locale: string | null
  readonly yours: { readonly do: string; readonly value?: unknown }
  readonly theirs: { readonly do: string; readonly value?: unknown }
  readonly by: string | null
}
