import type { Comparison, Fact } from '../fields/shape.js'
import { fieldsAt, kindOf, type FieldOwner } from '../model/model.js'
import { spanOf } from '../text/span.js'
import type { WrittenCondition, Operand } from './written.js'
import { parseCondition } from './parse.js'

/** The entry that a list stands in. */
export interface Here {
  readonly id: string
  readonly owner: FieldOwner
  /** By field id, comparable forms. */
  readonly facts: Readonly<Record<string, Fact | readonly Fact[]>>
  /** The referenced ids, by the id of a field of kind entry. */
  readonly references: Readonly<Record<string, readonly string[]>>
}

type HereTest = Extract<WrittenCondition, { is: 'test' }> & { readonly operand: Operand & { readonly is: 'path' } }

/** Whether a condition may use `here`. */
export const speaksOfHere = (where: string | undefined): boolean => where !== undefined && /\bhere\b/.test(where)

/**
 * Replaces `here` in a list's condition by the values of the entry around it: `museum = here.museum` becomes `museum in ["…"]`. A
 * comparison with a missing value is false, as everywhere, and `!=` negates that. A condition that cannot be read stays as it is.
 */
export function bindHere(where: string, here: Here): string {
  let expression: WrittenCondition
  try {
    expression = parseCondition(where)
  } catch {
    return where
  }
  return testsOfHere(expression)
    .sort((a, b) => b.path.at - a.path.at)
    .reduce((text, test) => {
      const written = text.slice(test.path.at, test.at).trimEnd()
      return text.slice(0, test.path.at) + bound(test, written, here) + text.slice(test.operand.end)
    }, where)
}

function testsOfHere(expression: WrittenCondition): HereTest[] {
  switch (expression.is) {
    case 'and':
    case 'or':
      return expression.of.flatMap(testsOfHere)
    case 'not':
      return testsOfHere(expression.of)
    case 'any':
      return testsOfHere(expression.where)
    case 'test':
      return expression.operand?.is === 'path' && expression.operand.names[0] === 'here' ? [expression as HereTest] : []
  }
}

/** One test with values: each value of a list counts, as everywhere. */
function bound({ operator, operand }: HereTest, path: string, here: Here): string {
  const values = valuesOf(operand.names.slice(1), here)
  if (operator === '=') return `${path} in [${values.join(', ')}]`
  if (operator === '!=') return `not ${path} in [${values.join(', ')}]`
  if (values.length === 0) return `${path} in []`
  const tests = values.map((value) => `${path} ${operator} ${value}`)
  return tests.length === 1 ? tests[0]! : `(${tests.join(' or ')})`
}

/** The value of the entry at a path, as a condition writes it. */
function valuesOf(names: readonly string[], { id, owner, facts, references }: Here): string[] {
  if (names.length === 0) return [JSON.stringify(id)]
  const field = fieldsAt(owner, names.join('.'))?.at(-1)
  if (!field) return []
  const comparison = kindOf(field).comparison
  const all = comparison === 'reference' ? references[field.id] : facts[field.id]
  return all === undefined ? [] : [all].flat().map((fact) => literal(fact, comparison))
}

function literal(fact: Fact, comparison: Comparison | undefined): string {
  switch (comparison) {
    case 'number':
    case 'date':
    case 'dateTime':
      return String(fact)
    case 'boolean':
      return String(fact === 1)
    case 'span':
      return JSON.stringify(spanOf(Number(fact)))
    default:
      return JSON.stringify(fact)
  }
}
