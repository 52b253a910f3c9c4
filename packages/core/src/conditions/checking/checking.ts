import { WisteriaError } from '../../base/errors.js'
import type { ContentType, FieldOwner, Model } from '../../model/model.js'
import type { SystemFact } from '../condition.js'
import { conditionError } from '../tokens.js'

export interface CheckContext {
  readonly model: Model
  /** The type of the entries that the condition filters; or a block type or group, for the rules inside it. */
  readonly owners: readonly FieldOwner[]
  /** The facts of the system that may be used here: readers of the published edition may not use `entry.state`. */
  readonly systemFacts: readonly SystemFact[]
  /** IANA name; decides when a day begins. */
  readonly timeZone: string
  /** Whether it is a rule of a form: it sees its own entry only, and no moment. */
  readonly own?: boolean
  /** Whether only shared values may be used. */
  readonly onlyShared?: boolean
  /** The type of the entry that a list stands in, `here` in the condition. */
  readonly here?: ContentType
}

/** One check of an expression: its context, and the results so far. */
export class Checking {
  readonly context: CheckContext
  readonly #text: string
  /** Names of the types that references lead to. */
  readonly types = new Set<string>()
  /** Whether the answer changes with the time. */
  usesTime = false

  /** @param text the text that positions in the expression refer to. */
  constructor(context: CheckContext, text: string) {
    this.context = context
    this.#text = text
  }

  /** @throws WisteriaError `badCondition`, with the position if there is a text. */
  fail(at: number, message: string): never {
    if (this.#text === '')
      throw new WisteriaError('badCondition', message, { problems: [{ code: 'badCondition', message }] })
    throw conditionError(this.#text, at, message)
  }
}
