import type { Comparison, ChoiceOption } from '../fields/shape.js'
import { insideGroup, kindOf, shapeOf, typeNamed, type FieldOwner, type Model } from '../model/model.js'
import { freshnesses, states } from '../model/states.js'
import { factPath, type SystemFact } from './condition.js'
import type { Operator } from './expression.js'

/** Something that a condition can ask about, for building one by choosing. */
export interface Askable {
  /** As a condition writes it: `museum.name`, `entry.state`. */
  readonly path: string
  /** "Museum, name". */
  readonly label: string
  readonly comparison: Comparison
  /** Of a choice: what it may be. */
  readonly options?: readonly ChoiceOption[]
  /** Of a reference: names of the types it leads to. */
  readonly types?: readonly string[]
}

/**
 * What can be asked of entries: their own fields, those in their groups, and one step through their references; only what
 * all owners have.
 * @param facts those of the entry itself that are offered, with their labels.
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

/** The operators that go with how something is compared, the likeliest first. */
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

/** One test as a condition writes it. `operand` is what somebody typed or chose; times and numbers are written as they are. */
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

/** A condition with another test that has to hold as well. */
export function withTest(condition: string, test: string): string {
  const before = condition.trim()
  if (before === '') return test
  // What is joined by `or` holds together before it is joined by `and`.
  return /\bor\b/.test(before.replace(/"(\\.|[^"\\])*"/g, '')) ? `(${before}) and ${test}` : `${before} and ${test}`
}
