/** The part that we use of the package, which brings no types of its own. */
declare module 'negotiator' {
  export default class Negotiator {
    constructor(request: { readonly headers: Readonly<Record<string, string | undefined>> })
    /** The encoding among `available` that the request prefers; of equal ones the first in `preferred`. */
    encoding(available: readonly string[], options?: { readonly preferred?: readonly string[] }): string | undefined
  }
}
