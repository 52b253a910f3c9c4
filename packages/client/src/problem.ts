import type { ErrorCodeName, Problem } from '@wisteria/core'

/** A refusal of the service, from its problem details (RFC 9457). */
export class WisteriaProblem extends Error {
  readonly status: number
  /** Stable, for programs; `network` when no answer came. */
  readonly code: ErrorCodeName | 'network'
  /** Every place that is wrong, with JSON Pointers. */
  readonly problems: readonly Problem[]
  readonly requestId: string | undefined
  /** All other members of the answer, e.g. both sides of a conflict. */
  readonly details: Readonly<Record<string, unknown>>
  /** The groups that a "not found" depends on: a page made from it is stale when one of them changes. */
  readonly groups: readonly string[]
  /** Seconds after which to try again, if the service said so. */
  readonly retryAfter: number | undefined

  constructor(
    status: number,
    details: Readonly<Record<string, unknown>>,
    groups: readonly string[] = [],
    retryAfter?: number,
  ) {
    super(typeof details['detail'] === 'string' ? details['detail'] : `The service answered ${status}.`)
    this.name = 'WisteriaProblem'
    this.status = status
    this.code = (details['code'] as ErrorCodeName | undefined) ?? 'internal'
    this.problems = (details['problems'] as Problem[] | undefined) ?? []
    this.requestId = details['requestId'] as string | undefined
    this.details = details
    this.groups = groups
    this.retryAfter = retryAfter
  }

  get isNotFound(): boolean {
    return this.status === 404 || this.status === 410
  }
}

/** No answer came: the service is not there, or the network is not. */
export class WisteriaUnreachable extends WisteriaProblem {
  /** Whether it took too long; another attempt would take as long. */
  readonly timedOut: boolean

  constructor(address: string, cause: unknown) {
    const timedOut = cause instanceof Error && cause.name === 'TimeoutError'
    super(0, {
      code: 'network',
      detail: timedOut ? `${address} did not answer in time.` : `${address} cannot be reached.`,
    })
    this.name = 'WisteriaUnreachable'
    this.timedOut = timedOut
    this.cause = cause
  }
}
