/** The values in a message, by name, for its text in another language. */
export type MessageParameters = Readonly<Record<string, string | number>>

/** One problem, and its place. Worded for the person who has to mend it. */
export interface Problem {
  /** Stable, for programs: `required`, `unknownField`, … */
  readonly code: string
  readonly message: string
  readonly parameters?: MessageParameters
  /** JSON Pointer (RFC 6901) into the document that was sent, e.g. `/values/title/nl`. */
  readonly pointer?: string
  readonly file?: string
  /** Both count from 1. */
  readonly line?: number
  readonly column?: number
  /** The locale of the layer with the problem, if it is in one. */
  readonly locale?: string
}

interface ErrorCode {
  /** The HTTP status, RFC 9110. */
  readonly status: number
  readonly title: string
  /** The exit code of the command line. */
  readonly exit: number
}

/** Every error the product can answer with. HTTP prints them as RFC 9457 problem details. */
export const errorCodes = {
  badRequest: { status: 400, title: 'The request is malformed', exit: 2 },
  badCondition: { status: 400, title: 'The condition cannot be used', exit: 2 },
  badSelection: { status: 400, title: 'The selection cannot be used', exit: 2 },
  tooCostly: { status: 400, title: 'The request costs more than the limit', exit: 2 },
  badModel: { status: 422, title: 'The model has mistakes', exit: 3 },
  unauthenticated: { status: 401, title: 'Sign in, or send an access key', exit: 4 },
  forbidden: { status: 403, title: 'Not allowed', exit: 4 },
  notFound: { status: 404, title: 'Not found', exit: 5 },
  gone: { status: 410, title: 'No longer public', exit: 5 },
  methodNotAllowed: { status: 405, title: 'Method not allowed', exit: 2 },
  notAcceptable: { status: 406, title: 'Not available in that form', exit: 2 },
  conflict: { status: 409, title: 'A conflict with the current state', exit: 6 },
  editConflict: { status: 409, title: 'Somebody else changed the same place', exit: 6 },
  stale: { status: 412, title: 'Changed since you read it', exit: 6 },
  preconditionRequired: { status: 428, title: 'Say which version you read', exit: 2 },
  tooLarge: { status: 413, title: 'Too large', exit: 2 },
  unsupportedMediaType: { status: 415, title: 'Unsupported media type', exit: 2 },
  invalid: { status: 422, title: 'Some values are missing or wrong', exit: 3 },
  keyReused: { status: 422, title: 'The idempotency key was used for something else', exit: 6 },
  tooMany: { status: 429, title: 'Too many requests', exit: 7 },
  unavailable: { status: 503, title: 'Not available just now', exit: 7 },
  internal: { status: 500, title: 'Something went wrong on our side', exit: 1 },
} as const satisfies Record<string, ErrorCode>

export type ErrorCodeName = keyof typeof errorCodes

/** The one error class. `detail` is a sentence for people; `problems` has the places, one by one. */
export class WisteriaError extends Error {
  readonly code: ErrorCodeName
  readonly problems: readonly Problem[]
  /** Further members of the problem details, e.g. both sides of a conflict. */
  readonly extra: Readonly<Record<string, unknown>>

  constructor(
    code: ErrorCodeName,
    detail: string,
    more: { problems?: readonly Problem[]; extra?: Record<string, unknown> } = {},
  ) {
    super(detail)
    this.name = 'WisteriaError'
    this.code = code
    this.problems = more.problems ?? []
    this.extra = more.extra ?? {}
  }

  get status(): number {
    return errorCodes[this.code].status
  }
}

/** Appends segments to a JSON Pointer, escaping them (RFC 6901, section 3). */
export function pointerTo(base: string, ...segments: (string | number)[]): string {
  return base + segments.map((segment) => '/' + String(segment).replaceAll('~', '~0').replaceAll('/', '~1')).join('')
}
