import type { Fact } from '../fields/shape.js'

/** A condition that has been checked against a model: it contains only field ids and comparable values. */
export type Condition =
  | { readonly is: 'and' | 'or'; readonly of: readonly Condition[] }
  | { readonly is: 'not'; readonly of: Condition }
  | {
      readonly is: 'compare'
      readonly subject: Subject
      readonly operator: '=' | '<' | '<=' | '>' | '>='
      readonly value: Value
    }
  | { readonly is: 'in'; readonly subject: Subject; readonly values: readonly Value[] }
  | { readonly is: 'contains' | 'startsWith'; readonly subject: Subject; readonly text: string }
  | { readonly is: 'hasValue'; readonly subject: Subject }
  | { readonly is: 'any'; readonly step: Step; readonly where: Condition }

/** The left side of a test: the references on the way, then the facts compared. */
export interface Subject {
  readonly steps: readonly Step[]
  readonly fact: FactSource
}

/** To the entries that a field refers to, or to the elements of a repeated group; several ids where several types have a field of that name. */
export interface Step {
  readonly to: 'entries' | 'elements'
  readonly fields: readonly string[]
}

export type FactSource =
  /** `many`: the facts of a field with multiple values, or of a field inside a repeated group. */
  | { readonly is: 'field'; readonly fields: readonly string[]; readonly many: boolean }
  | { readonly is: 'reference'; readonly fields: readonly string[] }
  | { readonly is: 'system'; readonly name: SystemFact }

/** The facts that the system has of every entry, and which conditions may use each. */
export const systemFactSays = {
  id: 'Its id.',
  type: 'The name of its type.',
  region: 'The name of its region, `main` for the main one. Nothing for types that are not regional.',
  state:
    'Its state in the locale, in drafts and in `lockIf`: `new`, `public`, `edited`, `withdrawn`, `archived`. Refused in published reads, `showIf` and `requireIf`.',
  freshness:
    'Of the translation in the locale, in drafts: `missing`, `current`, or `outdated` where its source has changed since. Nothing in the default locale.',
  updated: 'When its bytes last changed.',
  updatedBy: 'The e-mail of the person who changed the working copy last, in lists of the Edit API.',
  published: 'Since when it can be read in the locale.',
} as const
export type SystemFact = keyof typeof systemFactSays

/** The first name of facts of an entry, which no field may have: `entry.state`. */
export const entryRoot = 'entry'
/** How a condition writes a fact of the entry. */
export const factPath = (fact: SystemFact): string => `${entryRoot}.${fact}`
/** The facts for the published edition: there an entry has no state. */
export const publicFacts = ['id', 'type', 'region', 'updated', 'published'] as const satisfies readonly SystemFact[]
/** The facts for drafts. */
export const draftFacts = [...publicFacts, 'state', 'freshness'] as const satisfies readonly SystemFact[]
/** The facts for lists of the Edit API: readers do not learn who works on an entry. */
export const editFacts = [...draftFacts, 'updatedBy'] as const satisfies readonly SystemFact[]
/** The facts by which entries of any type can be sorted. */
export const sortableFacts = ['updated', 'published'] as const satisfies readonly SystemFact[]
/** The names that a condition keeps for itself. */
export const conditionNames = ['now', 'today', entryRoot, 'here'] as const

/** A comparable value, or one that depends on the moment or on the entry. */
export type Value =
  | Fact
  | {
      readonly base: 'now' | 'today'
      readonly minutes: number
      readonly days: number
      readonly as: 'date' | 'dateTime'
    }
  /** The value of another field of the same entry, in rules of forms. */
  | { readonly field: string }

/** Whether an operand is another field. */
export const isOfField = (value: Value): value is { readonly field: string } =>
  typeof value === 'object' && 'field' in value

/** The dependencies of a condition besides the entry itself. */
export interface Dependencies {
  /** Names of types that references lead to. */
  readonly types: readonly string[]
  /** Whether the answer changes with the time. */
  readonly time: boolean
}

/** Whether a condition uses a fact of the system anywhere. */
export function asksFor(condition: Condition, fact: SystemFact): boolean {
  switch (condition.is) {
    case 'and':
    case 'or':
      return condition.of.some((part) => asksFor(part, fact))
    case 'not':
      return asksFor(condition.of, fact)
    case 'any':
      return asksFor(condition.where, fact)
    default:
      return condition.subject.fact.is === 'system' && condition.subject.fact.name === fact
  }
}

export interface CheckedCondition {
  readonly condition: Condition
  readonly dependencies: Dependencies
}
