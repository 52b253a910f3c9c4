import {
  fieldNamed,
  insideGroup,
  kindOf,
  shapeOf,
  typeNamed,
  type Field,
  type FieldOwner,
  type Model,
} from '../model/model.js'
import type { Completion, Suggestion } from '../text/completion.js'
import type { Comparison } from '../fields/shape.js'
import { optionsOfFact, systemComparisons } from './checking/subject.js'
import { entryRoot, factPath, systemFactSays, type SystemFact } from './condition.js'
import { operatorSays, type Operator } from './written.js'

const equal: readonly Operator[] = ['=', '!=', 'in', 'has value', 'has no value']
const ordered: readonly Operator[] = ['=', '!=', '<', '<=', '>', '>=', 'in', 'has value', 'has no value']
const texts: readonly Operator[] = [...equal, 'contains', 'starts with']

/** The operators that fit fields of a comparison, and the options of a choice. */
function operatorsOf(comparison: Comparison | undefined, isChoice: boolean): readonly Operator[] {
  if (comparison === 'presence' || comparison === undefined) return ['has value', 'has no value']
  if (comparison === 'reference' || comparison === 'boolean' || isChoice) return equal
  return comparison === 'text' || comparison === 'exact' ? texts : ordered
}

const says = (label: string, detail: string): Suggestion => ({ label, detail })
const logic = [says('and', 'Both hold.'), says('or', 'One of them holds.')]
const sign = /(?:!=|<=|>=|=|<|>|\bcontains|\bstarts with|\bin)\s*$/
/** A path of fields at the end of a text. */
const pathAtEnd = /([A-Za-z_]\w*(?:\.[A-Za-z_]\w*)*)\s*$/
const words = new Set([
  'and',
  'or',
  'not',
  'any',
  'in',
  'contains',
  'starts',
  'with',
  'has',
  'no',
  'value',
  'true',
  'false',
])

/**
 * The completions at a place of a condition.
 * @param owners the types whose entries it filters.
 */
export function completeCondition(
  text: string,
  at: number,
  model: Model,
  owners: readonly FieldOwner[],
  systemFacts: readonly SystemFact[],
): Completion {
  const before = text.slice(0, at)
  const word = /[A-Za-z_][\w.]*$/.exec(before)?.[0] ?? ''
  const from = at - word.length
  const rest = before.slice(0, from)
  const here = ownersAt(rest, model, owners)
  const inList = /(?:^|\s)([\w.]+)\s+in\s*\[[^\]]*$/.exec(rest)
  const tested = inList?.[1] ?? (sign.test(rest) ? pathAtEnd.exec(rest.replace(sign, ''))?.[1] : undefined)
  if (tested !== undefined)
    return { from, suggestions: valuesOf(model, fieldAt(model, here, tested), tested, inList !== null) }
  const last = /([\w."\])]+)\s+$/.exec(rest)?.[1]
  if (last !== undefined && /[)\]"\d]$|^(value|true|false)$/.test(last)) return { from, suggestions: logic }
  if (last !== undefined && !words.has(last) && pathAtEnd.test(last)) {
    const field = fieldAt(model, here, last)
    const fact = factAt(last)
    const comparison = fact ? systemComparisons[fact] : field && kindOf(field).comparison
    const isChoice =
      (fact !== undefined && optionsOfFact(fact, model) !== undefined) ||
      (field !== undefined && shapeOf(field).is === 'choice')
    return {
      from,
      suggestions: operatorsOf(comparison, isChoice).map((operator) => says(operator, operatorSays[operator])),
    }
  }
  const path = word.split('.').slice(0, -1)
  if (path.at(-1) === entryRoot)
    return {
      from,
      suggestions: systemFacts.map((fact) => says([...path, fact].join('.'), systemFactSays[fact])),
    }
  const owned = path.reduce<readonly FieldOwner[]>(
    (all, name) => all.flatMap((owner) => leadsTo(model, fieldNamed(owner, name))),
    here,
  )
  const named = new Map<string, Suggestion>()
  for (const owner of owned)
    for (const field of owner.fields)
      named.set(field.name, says([...path, field.name].join('.'), `${field.label}, ${field.kind}`))
  const facts = path.length > 0 ? [] : systemFacts.map((fact) => says(factPath(fact), systemFactSays[fact]))
  const more = path.length > 0 ? [] : [says('not', 'It does not hold.'), says('any', 'One element meets all of it.')]
  return { from, suggestions: [...named.values(), ...facts, ...more] }
}

const leadsTo = (model: Model, field: Field | undefined): readonly FieldOwner[] => {
  if (!field) return []
  const shape = shapeOf(field)
  const group = insideGroup(field)
  return group ? [group] : shape.is === 'reference' ? shape.to.flatMap((name) => typeNamed(model, name) ?? []) : []
}

/** The owners at a place: inside `any speakers (` those of speakers. */
function ownersAt(text: string, model: Model, owners: readonly FieldOwner[]): readonly FieldOwner[] {
  const open: (string | undefined)[] = []
  for (const match of text.matchAll(/"(?:[^"\\]|\\.)*"|(?:\bany\s+([\w.]+)\s*)?\(|\)/g)) {
    if (match[0].endsWith('(')) open.push(match[1])
    else if (match[0] === ')') open.pop()
  }
  return open.reduce<readonly FieldOwner[]>(
    (here, path) =>
      path === undefined
        ? here
        : path
            .split('.')
            .reduce<readonly FieldOwner[]>(
              (all, name) => all.flatMap((owner) => leadsTo(model, fieldNamed(owner, name))),
              here,
            ),
    owners,
  )
}

function fieldAt(model: Model, owners: readonly FieldOwner[], path: string): Field | undefined {
  const names = path.split('.')
  const within = names
    .slice(0, -1)
    .reduce<readonly FieldOwner[]>(
      (all, name) => all.flatMap((owner) => leadsTo(model, fieldNamed(owner, name))),
      owners,
    )
  return within.flatMap((owner) => fieldNamed(owner, names.at(-1)!) ?? [])[0]
}

/** The fact of an entry that a path ends at. */
const factAt = (path: string): SystemFact | undefined => {
  const names = path.split('.')
  return names.at(-2) === entryRoot ? (names.at(-1) as SystemFact) : undefined
}

function valuesOf(model: Model, field: Field | undefined, path: string, inList: boolean): Suggestion[] {
  const fact = factAt(path)
  if (fact === 'type') return model.types.map((type) => says(JSON.stringify(type.name), type.label))
  if (fact !== undefined && optionsOfFact(fact, model))
    return optionsOfFact(fact, model)!.map((option) => says(JSON.stringify(option), ''))
  const shape = field && shapeOf(field)
  if (shape?.is === 'choice') return shape.options.map(({ value, label }) => says(JSON.stringify(value), label))
  const comparison = fact ? systemComparisons[fact] : field && kindOf(field).comparison
  if (comparison === 'boolean') return [says('true', 'Yes.'), says('false', 'No.')]
  if (inList) return []
  const today = says('today', 'The day of asking, in the site’s time zone.')
  if (comparison === 'date') return [today, says('today + 7 days', 'In a week.')]
  if (comparison === 'dateTime') return [says('now', 'The time of asking.'), today, says('now + 7 days', 'In a week.')]
  return []
}
