import type { IncomingHttpHeaders } from 'node:http'
import type { Readable } from 'node:stream'
import type { Caller, Permission } from '@wisteria/core'
import type { Site, Transaction } from '@wisteria/store'
import type { z } from 'zod'
import type { Kernel } from './kernel.js'

export interface Answer {
  /** 200 when left out; 204 without a body. */
  readonly status?: number
  /** Printed as JSON. */
  readonly body?: unknown
  /** Sent as it is, instead of `body`. */
  readonly text?: string | Buffer
  /**
   * Until when it is the same for everybody who may ask, unless the public generation moves before, in milliseconds since the
   * epoch; never where it is left out.
   */
  readonly keptUntil?: number
  /** Sent piece by piece, instead of `body`. The signal is aborted when the receiver is gone. */
  readonly stream?: (gone: AbortSignal) => AsyncGenerator<string | Uint8Array>
  /** A file on the disk, sent instead of `body`; ranges of it may be requested. */
  readonly path?: string
  readonly headers?: Readonly<Record<string, string>>
}

/** A request that has been read and allowed. */
export interface Request<Query = unknown, Body = unknown> {
  readonly kernel: Kernel
  /** The caller. */
  readonly caller: Caller
  /** The caller as events and revisions name it: `account:…`, `key:…`, `grant:…`. */
  readonly actor: string
  readonly params: Readonly<Record<string, string>>
  readonly query: Query
  readonly body: Body
  readonly headers: IncomingHttpHeaders
  /** The body of a request that sends a file. */
  readonly file: Readable
  readonly method: string
  /** The network address of the caller. */
  readonly address: string
  /** Path and query of the request. */
  readonly url: string
  /** One transaction. Its answer is remembered under the request's idempotency key, if it has one. */
  write(work: (transaction: Transaction) => Promise<Answer>): Promise<Answer>
}

export interface SiteRequest<Query = unknown, Body = unknown> extends Request<Query, Body> {
  readonly site: Site
}

/**
 * A route of either API. Express serves the table of all of them, the reference lists it and the access test walks it, so an
 * undeclared route does not exist.
 */
export interface Route {
  readonly method: 'GET' | 'POST' | 'PUT' | 'PATCH' | 'DELETE'
  /** With placeholders: `/edit/v1/sites/{site}/entries/{id}`. */
  readonly path: string
  readonly summary: string
  /** The permission. `edition`: the right to read the edition in the query. */
  readonly permission: Permission | 'edition'
  readonly query?: z.ZodObject
  readonly body?: z.ZodType
  /** The media types of the body; JSON when left out. */
  readonly bodyTypes?: readonly string[]
  /** Whether the body is a file: it is not parsed, and read as a stream. */
  readonly isFile?: boolean
  /** Whether an `Idempotency-Key` is honoured. */
  readonly idempotent?: boolean
  /**
   * Why a route that changes a site has no dry run, and what to use instead. All other routes do their whole work in
   * `request.write`.
   */
  readonly insteadOfDryRun?: string
  /** For pauses after wrong attempts: the thing tried, such as an account's e-mail. */
  readonly guarded?: (body: never, caller: Caller) => string
  readonly handle: (request: SiteRequest<never, never>) => Promise<Answer>
}

type QueryOf<R> = R extends { readonly query: infer Q extends z.ZodType } ? z.infer<Q> : Record<string, never>
type BodyOf<R> = R extends { readonly body: infer B extends z.ZodType } ? z.infer<B> : undefined

/** Declares a route; query and body are typed by their schemas, and `site` is defined when the path has one. */
export function route<
  const Path extends string,
  Q extends z.ZodObject | undefined = undefined,
  B extends z.ZodType | undefined = undefined,
>(
  declared: Omit<Route, 'handle' | 'path' | 'query' | 'body' | 'guarded'> & {
    readonly guarded?: (body: BodyOf<{ body: B }>, caller: Caller) => string
    readonly path: Path
    readonly query?: Q
    readonly body?: B
    readonly handle: (
      request: Path extends `${string}{site}${string}`
        ? SiteRequest<QueryOf<{ query: Q }>, BodyOf<{ body: B }>>
        : Request<QueryOf<{ query: Q }>, BodyOf<{ body: B }>>,
    ) => Promise<Answer>
  },
): Route {
  return declared as unknown as Route
}
