import { currentChoice } from '../../fields/choice.js'
import type { Comparison } from '../../fields/shape.js'
import { kindOf, shapeOf, type Field, type FieldOwner, type Model } from '../../model/model.js'
import { freshnesses, states } from '../../model/states.js'
import { didYouMean } from '../../text/nearest.js'
import { entryRoot, factPath, type FactSource, type Subject, type SystemFact } from '../condition.js'
import type { WrittenPath } from '../written.js'
import type { Checking } from './checking.js'
import { dotted, followPath, stepTo } from './followPath.js'

/** The left side of a test. */
export interface CheckedSubject {
  readonly subject: Subject
  readonly comparison: Comparison
  /** As messages name it. */
  readonly label: string
  /** Its possible values, if they are known. */
  readonly options: readonly string[] | undefined
  /** The current value of an option, by an earlier one. */
  readonly current?: (value: string) => string
}

/** How facts of an entry are compared. */
export const systemComparisons: Readonly<Record<SystemFact, Comparison>> = {
  id: 'reference',
  type: 'exact',
  region: 'exact',
  state: 'exact',
  freshness: 'exact',
  updated: 'dateTime',
  updatedBy: 'exact',
  published: 'dateTime',
}

export const subjectOf = (checking: Checking, path: WrittenPath, from: readonly FieldOwner[]): CheckedSubject =>
  path.names.includes(entryRoot) ? systemSubject(checking, path, from) : fieldSubject(checking, path, from)

function systemSubject(checking: Checking, path: WrittenPath, from: readonly FieldOwner[]): CheckedSubject {
  const at = path.names.indexOf(entryRoot)
  const before = at > 0 ? followPath(checking, { ...path, names: path.names.slice(0, at) }, from, 'entries') : undefined
  const [name, ...more] = path.names.slice(at + 1) as [SystemFact?, ...string[]]
  const last = [entryRoot, name, ...more].filter(Boolean).join('.')
  const paths = (Object.keys(systemComparisons) as SystemFact[]).map(factPath)
  if (name === undefined || !(name in systemComparisons) || more.length > 0)
    return checking.fail(
      path.at,
      `\`${last}\` is not a fact of an entry.${didYouMean(last, paths) || ` These are: ${paths.join(', ')}.`}`,
    )
  if (!checking.context.systemFacts.includes(name))
    checking.fail(
      path.at,
      checking.context.own
        ? `\`${last}\` cannot be asked in a rule of a form${checking.context.systemFacts.length > 0 ? '' : '; of the facts of an entry only `lockIf` may ask one, `entry.state`'}.`
        : name === 'updatedBy'
          ? `\`${last}\` is known to the Edit API only.`
          : `\`${last}\` is not known in the published edition.`,
    )
  if (!before && !checking.context.own && from.some((owner) => !('cardinality' in owner)))
    checking.fail(path.at, `\`${last}\` is a fact of an entry, and ${from[0]!.name} is a group in one.`)
  const options = optionsOfFact(name, checking.context.model)
  const fact: FactSource = { is: 'system', name }
  return {
    subject: { steps: before ? [...before.steps, stepTo('entries', before.fields)] : [], fact } satisfies Subject,
    comparison: systemComparisons[name],
    label: last,
    options,
  }
}

/** The possible values of a fact, if they are known. */
export const optionsOfFact = (fact: SystemFact, model: Model): readonly string[] | undefined =>
  fact === 'state'
    ? states
    : fact === 'freshness'
      ? freshnesses
      : fact === 'type'
        ? model.types.map((type) => type.name)
        : undefined

function fieldSubject(checking: Checking, path: WrittenPath, from: readonly FieldOwner[]): CheckedSubject {
  const { steps, fields, isRepeated } = followPath(checking, path, from)
  const first = fields[0]!
  const comparison = kindOf(first).comparison
  const label = `${dotted(path)} (kind ${first.kind})`
  if (comparison === undefined) return checking.fail(path.at, `${label} cannot be compared.`)
  const ids = fields.map((field) => field.id)
  const many = isRepeated || (first.many && comparison !== 'presence')
  const fact: FactSource =
    comparison === 'reference' ? { is: 'reference', fields: ids } : { is: 'field', fields: ids, many }
  const shape = shapeOf(first)
  const options = shape.is === 'choice' ? [...new Set(fields.flatMap((field) => choicesOf(field)))] : undefined
  const current = (value: string): string => fields.reduce((known, field) => currentOf(field, known), value)
  return { subject: { steps, fact } satisfies Subject, comparison, label, options, ...(options ? { current } : {}) }
}

function currentOf(field: Field, value: string): string {
  const shape = shapeOf(field)
  return shape.is === 'choice' ? currentChoice(shape.options, value) : value
}

function choicesOf(field: Field): string[] {
  const shape = shapeOf(field)
  return shape.is === 'choice' ? shape.options.map((option) => option.value) : []
}
