import { draftFacts as allFacts, entryRoot, type SystemFact } from '../conditions/condition.js'
import { conditionError } from '../conditions/tokens.js'
import type { Comparison } from '../fields/shape.js'
import {
  fieldNamed,
  insideGroup,
  kindOf,
  shapeOf,
  typeNamed,
  type ContentType,
  type Field,
  type FieldOwner,
  type Model,
} from '../model/model.js'
import { states } from '../model/states.js'
import { didYouMean } from '../text/nearest.js'
import { isDate, instantOf } from '../text/time.js'
import { partsOf, type Expression, type Path, type Test } from './grammar.js'
import { parseExpression } from './parse.js'

/** What a path can begin with. */
export interface Root {
  /** The types of the entry that it is. Left out, its names are not known before it is there. */
  readonly types?: readonly ContentType[]
}

export interface ExpressionContext {
  readonly model: Model
  readonly roots: Readonly<Record<string, Root>>
  /** The facts of entries that may be used. */
  readonly facts: readonly SystemFact[]
  /** Whether a path can go on from a reference into the entry that it leads to. */
  readonly follows: boolean
}

/** An expression that fits its context, with the text that its positions refer to. */
export interface CheckedExpression {
  readonly text: string
  readonly expression: Expression
}

/**
 * Reads and checks an expression.
 * @throws WisteriaError `badCondition` with position and suggestion.
 */
export const readExpression = (text: string, context: ExpressionContext): CheckedExpression => ({
  text,
  expression: new Check(text, context).checked(parseExpression(text), {}),
})

/**
 * The same, where the whole is to be true or false.
 * @throws WisteriaError `badCondition` where it is another value.
 */
export function readTest(text: string, context: ExpressionContext): CheckedExpression {
  const checked = readExpression(text, context)
  requireTest(text, checked.expression)
  return checked
}

function requireTest(text: string, expression: Expression): void {
  if (!('at' in expression)) return [expression.of].flat().forEach((part) => requireTest(text, part))
  if (expression.is === 'test' || expression.is === 'any' || expression.is === 'path') return
  if (expression.is === 'constant' && typeof expression.value === 'boolean') return
  throw conditionError(
    text,
    expression.at,
    'Expected a condition, which is true or false, and this is a value: compare it with something.',
  )
}

/** What is known of the values at a path. */
interface Known {
  readonly comparison: Comparison
  readonly label: string
  readonly options?: readonly string[]
}

class Check {
  readonly #text: string
  readonly #context: ExpressionContext

  constructor(text: string, context: ExpressionContext) {
    this.#text = text
    this.#context = context
  }

  /** @param items the roots that parts around it add. */
  checked(expression: Expression, items: Readonly<Record<string, Root>>): Expression {
    const inside = (part: Expression): Expression => this.checked(part, items)
    switch (expression.is) {
      case 'and':
      case 'or':
      case 'list':
      case 'joined':
      case 'call':
        return { ...expression, of: expression.of.map(inside) }
      case 'not':
        return { is: 'not', of: inside(expression.of) }
      case 'any':
        return {
          ...expression,
          list: inside(expression.list),
          where: this.checked(expression.where, { ...items, item: {} }),
        }
      case 'arithmetic':
        return { ...expression, left: inside(expression.left), right: inside(expression.right) }
      case 'path':
        return this.#path(expression, items).path
      case 'test':
        return this.#test(expression, items)
      default:
        return expression
    }
  }

  #test(test: Test, items: Readonly<Record<string, Root>>): Test {
    const knownOf = (part: Expression | undefined) => (part?.is === 'path' ? this.#path(part, items).known : undefined)
    const [left, right] = [knownOf(test.left), knownOf(test.right)]
    if (left && test.right) this.#fits(left, test, test.right)
    if (right) this.#fits(right, test, test.left)
    const isExact = [left, right].some((known) => known?.comparison === 'exact' || known?.comparison === 'reference')
    return {
      ...test,
      left: this.checked(test.left, items),
      ...(test.right ? { right: this.checked(test.right, items) } : {}),
      ...(isExact ? { exact: true } : {}),
    }
  }

  /** A constant beside a field must be of its kind. */
  #fits({ comparison, label, options }: Known, test: Test, other: Expression): void {
    if (other.is === 'list')
      return other.of.forEach((item) => this.#fits({ comparison, label, ...(options ? { options } : {}) }, test, item))
    if (comparison === 'presence') this.#fail(test.at, `${label} is not compared: ask whether it has a value.`)
    if (other.is !== 'constant') return
    const { value, at } = other
    const wanted = wantedFor(comparison, value)
    if (wanted) this.#fail(at, `${label} is compared with ${wanted}.`)
    const isWhole = test.operator === '=' || test.operator === '!=' || test.operator === 'in'
    if (options && isWhole && !options.includes(String(value)))
      this.#fail(
        at,
        `\`${String(value)}\` is not one of the values of ${label}: ${options.slice(0, 12).join(', ')}.${didYouMean(String(value), options)}`,
      )
  }

  /** A path with the present names of its fields. */
  #path(path: Path, items: Readonly<Record<string, Root>>): { path: Path; known?: Known } {
    const roots = { ...this.#context.roots, ...items }
    const [first, ...rest] = path.names as [string, ...string[]]
    const root = Object.hasOwn(roots, first) ? roots[first]! : undefined
    if (!root) {
      const names = Object.keys(roots)
      const isField = names.includes(entryRoot) && this.#ownersHave(roots[entryRoot]!, first)
      this.#fail(
        path.at,
        `A path begins with ${names.join(', ')}, and not with \`${first}\`.${isField ? ` Did you mean \`${entryRoot}.${path.names.join('.')}\`?` : didYouMean(first, names)}`,
      )
    }
    if (!root.types || rest.length === 0) return { path }
    const isFact = first === entryRoot && rest[0] !== undefined && (allFacts as readonly string[]).includes(rest[0])
    if (isFact || rest[0] === entryRoot) return { path, known: this.#fact(path, isFact ? rest : rest.slice(1)) }
    return this.#fields(path, first, rest, root.types)
  }

  #ownersHave = ({ types = [] }: Root, name: string): boolean =>
    types.some((type) => fieldNamed(type, name) !== undefined)

  #fact(path: Path, names: readonly string[]): Known {
    const name = names[0] as SystemFact | undefined
    const { facts } = this.#context
    if (names.length !== 1 || name === undefined || !facts.includes(name))
      this.#fail(
        path.at,
        `\`${path.names.join('.')}\` is no fact of an entry that can be asked here.${didYouMean(name ?? '', facts)} These can: ${facts.join(', ')}.`,
      )
    const isTime = name === 'updated' || name === 'published'
    const options =
      name === 'state' ? states : name === 'type' ? this.#context.model.types.map((type) => type.name) : undefined
    return {
      comparison: isTime ? 'dateTime' : 'exact',
      label: `\`${path.names.join('.')}\``,
      ...(options ? { options } : {}),
    }
  }

  #fields(
    path: Path,
    root: string,
    names: readonly string[],
    types: readonly ContentType[],
  ): { path: Path; known?: Known } {
    let owners: readonly FieldOwner[] = types
    const current = [root]
    let fields: Field[] = []
    for (const [index, name] of names.entries()) {
      fields = owners.flatMap((owner) => fieldNamed(owner, name) ?? [])
      if (fields.length === 0) {
        const known = [...new Set(owners.flatMap((owner) => owner.fields.map((field) => field.name)))]
        const where = owners.length > 4 ? 'any type' : owners.map((owner) => owner.name).join(' or ')
        this.#fail(path.at, `\`${name}\` is not a field of ${where}.${didYouMean(name, known)}`)
      }
      current.push(fields[0]!.name)
      const rest = names.slice(index + 1)
      if (rest.length === 0) break
      const groups = fields.flatMap((field) => insideGroup(field) ?? [])
      if (groups.length > 0) {
        owners = groups
        continue
      }
      const { kind } = fields[0]!
      // Their names are those of their JSON.
      if (kind === 'asset' || kind === 'block' || kind === 'location')
        return { path: { ...path, names: [...current, ...rest] } }
      if (kind !== 'entry') this.#fail(path.at, `\`${name}\` is of kind ${kind}, so nothing follows it after a dot.`)
      if (!this.#context.follows)
        this.#fail(
          path.at,
          `\`${name}\` leads to another entry, and only the entry itself is at hand here: compare its id.`,
        )
      if (rest[0] === entryRoot)
        return { path: { ...path, names: [...current, ...rest] }, known: this.#fact(path, rest.slice(1)) }
      owners = fields.flatMap(targetsOf).flatMap((target) => typeNamed(this.#context.model, target) ?? [])
    }
    return { path: { ...path, names: current }, ...knownOf(fields, path) }
  }

  #fail(at: number, message: string): never {
    throw conditionError(this.#text, at, message)
  }
}

function targetsOf(field: Field): readonly string[] {
  const shape = shapeOf(field)
  return shape.is === 'reference' ? shape.to : []
}

function knownOf(fields: readonly Field[], path: Path): { known?: Known } {
  const comparisons = new Set(fields.map((field) => kindOf(field).comparison))
  const [comparison] = comparisons
  if (comparisons.size > 1 || comparison === undefined) return {}
  const label = `\`${path.names.join('.')}\` (kind ${fields[0]!.kind})`
  const options = fields.flatMap((field) => {
    const shape = shapeOf(field)
    return shape.is === 'choice' ? shape.options.map(({ value }) => value) : []
  })
  return { known: { comparison, label, ...(options.length > 0 ? { options } : {}) } }
}

/** What a comparison wants, where a constant is something else. */
function wantedFor(comparison: Comparison, value: string | number | boolean): string | undefined {
  switch (comparison) {
    case 'number':
      return typeof value === 'number' ? undefined : 'a number'
    case 'boolean':
      return typeof value === 'boolean' ? undefined : '`true` or `false`'
    case 'date':
    case 'dateTime':
      return typeof value === 'string' && (isDate(value) || instantOf(value) !== undefined)
        ? undefined
        : 'a day or an instant, such as `2031-05-04` or `now`'
    default:
      return typeof value === 'string' ? undefined : 'a text in double quotes'
  }
}

/** The roots that an expression uses. */
export function rootsIn(expression: Expression): ReadonlySet<string> {
  const roots = new Set<string>()
  const look = (part: Expression): void => {
    if (part.is === 'path') roots.add(part.names[0]!)
    partsOf(part).forEach(look)
  }
  look(expression)
  return roots
}
