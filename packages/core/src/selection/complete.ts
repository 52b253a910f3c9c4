import {
  fieldNamed,
  isListForReaders,
  ownersInside,
  shapeOf,
  typeNamed,
  type Field,
  type FieldOwner,
  type Model,
} from '../model/model.js'
import { assetMembers } from '../fields/asset.js'
import type { Completion, Suggestion } from '../text/completion.js'
import { selectionOptions } from './options.js'

/** The items in a pair of parentheses. */
interface Level {
  readonly owners: readonly FieldOwner[]
  readonly members: readonly string[]
  readonly options: readonly Suggestion[]
}

const nothing: Level = { owners: [], members: [], options: [] }

/** The completions at a place of a selection. @param owners the types that it selects from. */
export function completeSelection(text: string, at: number, model: Model, owners: readonly FieldOwner[]): Completion {
  const before = text.slice(0, at)
  const levels: Level[] = [{ ...nothing, owners }]
  let word = ''
  let from = 0
  for (let index = 0; index < before.length; index++) {
    const letter = before[index]!
    if (letter === '(') levels.push(inside(model, levels.at(-1)!.owners, word))
    if (letter === ')' && levels.length > 1) levels.pop()
    if (/[\w$@.]/.test(letter)) {
      if (word === '') from = index
      word += letter
    } else if (!/\s/.test(letter)) word = ''
  }
  if (word === '' || /[\s]$/.test(before)) from = at
  const level = levels.at(-1)!
  const path = word.split('.').slice(0, -1)
  const here = path.reduce<readonly FieldOwner[]>(
    (all, name) => all.flatMap((owner) => ownersIn(model, fieldNamed(owner, name))),
    level.owners,
  )
  const names = new Map<string, Suggestion>()
  for (const owner of here)
    for (const field of owner.fields)
      names.set(field.name, { label: [...path, field.name].join('.'), detail: `${field.label}, ${field.kind}` })
  const kinds =
    level.owners.length > 1 ? level.owners.map((owner) => ({ label: `@${owner.name}`, detail: owner.label })) : []
  const members = level.members.map((label) => ({ label, detail: 'Member' }))
  return { from, suggestions: [...names.values(), ...members, ...level.options, ...kinds] }
}

const ownersIn = (model: Model, field: Field | undefined): readonly FieldOwner[] =>
  field?.kind === 'group' ? ownersInside(model, field) : []

function inside(model: Model, owners: readonly FieldOwner[], word: string): Level {
  if (word.startsWith('@')) return { ...nothing, owners: owners.filter((owner) => owner.name === word.slice(1)) }
  const names = word.split('.')
  const within = names
    .slice(0, -1)
    .reduce<readonly FieldOwner[]>(
      (all, name) => all.flatMap((owner) => ownersIn(model, fieldNamed(owner, name))),
      owners,
    )
  const fields = within.flatMap((owner) => fieldNamed(owner, names.at(-1)!) ?? [])
  const byName = new Map<string, FieldOwner>()
  const members = new Set<string>()
  const options = new Map<string, Suggestion>()
  for (const field of fields) {
    const shape = shapeOf(field)
    const reached =
      shape.is === 'reference' ? shape.to.flatMap((name) => typeNamed(model, name) ?? []) : ownersInside(model, field)
    for (const owner of reached) byName.set(owner.id, owner)
    if (shape.is === 'asset') for (const name of Object.keys(assetMembers)) members.add(name)
    if (shape.is === 'object') for (const name of Object.keys(shape.members)) members.add(name)
    const forms = {
      ...(shape.is === 'asset' ? selectionOptions.asset : {}),
      ...(shape.is === 'choice' ? selectionOptions.choice : {}),
      ...(shape.is === 'richText' ? selectionOptions.richText : {}),
      ...(isListForReaders(field) ? selectionOptions.list : {}),
    }
    for (const [name, { says }] of Object.entries(forms)) options.set(name, { label: `${name}: `, detail: says })
  }
  return { owners: [...byName.values()], members: [...members], options: [...options.values()] }
}
