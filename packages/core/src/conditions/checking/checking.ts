import { WisteriaError } from '../../base/errors.js'
import type { ContentType, FieldOwner, Model } from '../../model/model.js'
import type { SystemFact } from '../condition.js'
import { conditionError } from '../parse.js'

export interface CheckContext {
  readonly model: Model
  /** The type whose entries the condition is asked of; or a block type or group, for the rules inside it. */
  readonly owners: readonly FieldOwner[]
  /** Facts of the system that may be asked here: `entry.state` is refused to readers of the published edition. */
  readonly systemFacts: readonly SystemFact[]
  /** IANA name; says when a day begins. */
  readonly timeZone: string
  /** Whether it is a rule of a form: it sees its own entry only, and no moment. */
  readonly own?: boolean
  /** Whether only what all locales share may be asked. */
  readonly onlyShared?: boolean
  /** The type of the entry that a list stands in, which the condition may call `here`. */
  readonly here?: ContentType
}

/** One check of an expression: what it is checked against, and what was found out on the way. */
export class Checking {
  readonly context: CheckContext
  readonly #text: string
  /** Names of the types that references lead to. */
  readonly types = new Set<string>()
  /** Whether the answer changes by waiting. */
  usesTime = false

  /** @param text what the positions in the expression refer to. */
  constructor(context: CheckContext, text: string) {
    this.context = context
    this.#text = text
  }

  /** @throws WisteriaError `badCondition`, with the position where there is a text. */
  fail(at: number, message: string): never {
    if (this.#text === '')
      throw new WisteriaError('badCondition', message, { problems: [{ code: 'badCondition', message }] })
    throw conditionError(this.#text, at, message)
  }
}
