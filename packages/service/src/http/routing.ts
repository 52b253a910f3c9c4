import { WisteriaError } from '@wisteria/core'
import type { Route } from '../kernel/route.js'

/** The route of an address, with the values of its placeholders. */
export interface Matched {
  readonly route: Route
  readonly params: Readonly<Record<string, string>>
  /** The address without its query. */
  readonly path: string
}

/** Finds routes by method and address. */
export class Routing {
  readonly #bySize = new Map<number, { readonly parts: readonly string[]; readonly route: Route }[]>()

  constructor(routes: readonly Route[]) {
    for (const route of routes) {
      const parts = route.path.split('/')
      this.#bySize.set(parts.length, [...(this.#bySize.get(parts.length) ?? []), { parts, route }])
    }
  }

  /**
   * @returns undefined where no route has the address.
   * @throws WisteriaError `methodNotAllowed` where some have, but not for the method.
   */
  match(method: string, url: string): Matched | undefined {
    const end = url.indexOf('?')
    const path = end < 0 ? url : url.slice(0, end)
    const segments = (path.endsWith('/') ? path.slice(0, -1) : path).split('/')
    const fitting = (this.#bySize.get(segments.length) ?? []).filter(({ parts }) =>
      parts.every((part, index) => part === segments[index] || (part.startsWith('{') && segments[index] !== '')),
    )
    const wanted = method === 'HEAD' ? 'GET' : method
    const match = fitting.find(({ route }) => route.method === wanted)
    if (!match) {
      if (fitting.length === 0) return undefined
      const allowed = [...new Set(fitting.map(({ route }) => route.method))].flatMap((method) =>
        method === 'GET' ? ['GET', 'HEAD'] : [method],
      )
      throw new WisteriaError('methodNotAllowed', `${method} is not allowed here. Allowed: ${allowed.join(', ')}.`, {
        extra: { allow: allowed },
      })
    }
    const params = Object.fromEntries(
      match.parts.flatMap((part, index) =>
        part.startsWith('{') ? [[part.slice(1, -1), decoded(segments[index]!)]] : [],
      ),
    )
    return { route: match.route, params, path }
  }
}

function decoded(segment: string): string {
  try {
    return decodeURIComponent(segment)
  } catch {
    throw new WisteriaError('badRequest', `\`${segment.slice(0, 80)}\` is not well encoded (RFC 3986).`)
  }
}
