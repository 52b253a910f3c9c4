import type { Comparison, ChoiceOption } from '../fields/shape.js'
import { insideGroup, kindOf, shapeOf, typeNamed, type FieldOwner, type Model } from '../model/model.js'
import { freshnesses, states } from '../model/states.js'
import { factPath, type SystemFact } from './condition.js'
import type { Operator } from './written.js'

/** A possible left side of a condition, for building one by choosing. */
export interface Askable {
  /** As a condition writes it: `museum.name`, `entry.state`. */
  readonly path: string
  /** "Museum, name". */
  readonly label: string
  readonly comparison: Comparison
  /** The options of a choice. */
  readonly options?: readonly ChoiceOption[]
  /** Of a reference: names of the types it leads to. */
  readonly types?: readonly string[]
}

/**
 * The possible left sides for entries: their own fields, those in their groups, and one step through their references; only fields
 * that all owners have.
 * @param facts the offered facts of the entry itself, with their labels.
 */
export function askables(
  model: Model,
  owners: readonly FieldOwner[],
  facts: Readonly<Partial<Record<SystemFact, string>>>,
): Askable[] {
  const [first, ...others] = owners
  const askables = first ? fieldsOf(model, first, [], [], 1) : []
  const shared = askables.filter((askable) =>
    others.every((owner) =>
      fieldsOf(model, owner, [], [], 1).some(
        (other) => other.path === askable.path && other.comparison === askable.comparison,
      ),
    ),
  )
  const told = Object.entries(facts) as [SystemFact, string][]
  return [...told.map(([fact, label]) => ofSystem(model, fact, label)), ...shared]
}

function ofSystem(model: Model, fact: SystemFact, label: string): Askable {
  const of = (names: readonly string[]) => names.map((value) => ({ value, label: value }))
  const path = factPath(fact)
  switch (fact) {
    case 'id':
      return { path, label, comparison: 'reference' }
    case 'region':
    case 'updatedBy':
      return { path, label, comparison: 'exact' }
    case 'state':
      return { path, label, comparison: 'exact', options: of(states) }
    case 'freshness':
      return { path, label, comparison: 'exact', options: of(freshnesses) }
    case 'type':
      return {
        path,
        label,
        comparison: 'exact',
        options: model.types.map((type) => ({ value: type.name, label: type.label })),
      }
    case 'updated':
    case 'published':
      return { path, label, comparison: 'dateTime' }
  }
}

function fieldsOf(
  model: Model,
  owner: FieldOwner,
  path: readonly string[],
  labels: readonly string[],
  steps: number,
): Askable[] {
  return owner.fields.flatMap((field): Askable[] => {
    const at = [...path, field.name]
    const called = [...labels, path.length > 0 ? field.label.toLowerCase() : field.label]
    const group = insideGroup(field)
    if (group) return fieldsOf(model, group, at, called, steps)
    const { comparison } = kindOf(field)
    if (comparison === undefined) return []
    const shape = shapeOf(field)
    const reference = shape.is === 'reference' && !shape.filled ? shape.to : undefined
    const askable: Askable = {
      path: at.join('.'),
      label: called.join(', '),
      comparison,
      ...(shape.is === 'choice' ? { options: shape.options } : {}),
      ...(reference ? { types: reference } : {}),
    }
    const target = reference?.length === 1 && steps > 0 ? typeNamed(model, reference[0]!) : undefined
    return target ? [askable, ...fieldsOf(model, target, at, called, steps - 1)] : [askable]
  })
}

/** The operators that fit a comparison, the most frequent first. */
export function operatorsFor({ comparison, options }: Pick<Askable, 'comparison' | 'options'>): readonly Operator[] {
  const presence: Operator[] = ['has value', 'has no value']
  if (options) return ['=', '!=', ...presence]
  switch (comparison) {
    case 'text':
      return ['contains', 'starts with', '=', '!=', ...presence]
    case 'exact':
      return ['=', '!=', 'contains', 'starts with', ...presence]
    case 'number':
    case 'date':
    case 'dateTime':
    case 'span':
      return ['>=', '<=', '=', '!=', '>', '<', ...presence]
    case 'boolean':
      return ['=', '!=', ...presence]
    case 'reference':
      return ['=', '!=', ...presence]
    case 'presence':
      return presence
  }
}

/** One test as a condition writes it. `operand` is the typed or chosen value; times and numbers are written without quotes. */
export function writeTest({ path, comparison, options }: Askable, operator: Operator, operand: string): string {
  if (operator === 'has value' || operator === 'has no value') return `${path} ${operator}`
  const isText =
    options !== undefined ||
    comparison === 'text' ||
    comparison === 'exact' ||
    comparison === 'span' ||
    comparison === 'reference'
  return `${path} ${operator} ${isText ? JSON.stringify(operand) : operand}`
}

/** A condition, and another test that must hold too. */
export function withTest(condition: string, test: string): string {
  const before = condition.trim()
  if (before === '') return test
  // An `or` needs parentheses before it is joined by `and`.
  return /\bor\b/.test(before.replace(/"(\\.|[^"\\])*"/g, '')) ? `(${before}) and ${test}` : `${before} and ${test}`
}
