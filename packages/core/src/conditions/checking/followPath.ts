import { fieldNamed, insideGroup, kindOf, shapeOf, typeNamed, type Field, type FieldOwner } from '../../model/model.js'
import { didYouMean } from '../../text/nearest.js'
import type { Step } from '../condition.js'
import type { WrittenPath } from '../written.js'
import type { Checking } from './checking.js'

/** Where a path leads. */
export interface FollowedPath {
  /** The references on the way. */
  readonly steps: Step[]
  /** The fields of its last name: several where several types have a field of that name. */
  readonly fields: Field[]
  /** The targets of the last field. */
  readonly to: readonly FieldOwner[]
  /** Whether it goes through a repeated group. */
  readonly isRepeated: boolean
}

/** Follows a path through references and groups to its last field(s); `wanted` names the required target. */
export function followPath(
  checking: Checking,
  path: WrittenPath,
  from: readonly FieldOwner[],
  wanted?: 'entries' | 'any',
): FollowedPath {
  const steps: Step[] = []
  let here = from
  let fields: Field[] = []
  let isRepeated = false
  for (const [index, name] of path.names.entries()) {
    fields = here.flatMap((owner) => fieldNamed(owner, name) ?? [])
    if (fields.length === 0) {
      const names = [...new Set(here.flatMap((owner) => owner.fields.map((field) => field.name)))]
      const owners = here.map((owner) => owner.name).join(' or ')
      checking.fail(path.at, `\`${name}\` is not a field of ${owners}.${didYouMean(name, names)}`)
    }
    const kinds = new Set(fields.map((field) => `${kindOf(field).comparison} ${field.many}`))
    if (kinds.size > 1)
      checking.fail(path.at, `\`${name}\` is of different kinds in ${here.map((owner) => owner.name).join(' and ')}.`)
    const first = fields[0]!
    if (checking.context.onlyShared && first.localized)
      checking.fail(
        path.at,
        `\`${name}\` is localized: the rule of a field that all locales share can only ask what they share.`,
      )
    const isLast = index === path.names.length - 1
    const leads = first.kind === 'group' ? 'elements' : first.kind === 'entry' ? 'entries' : undefined
    if (!isLast && leads === undefined)
      checking.fail(path.at, `\`${name}\` is of kind ${first.kind}, so nothing follows it after a dot.`)
    if (isLast && wanted === 'entries' && leads !== 'entries')
      checking.fail(path.at, `\`${name}\` is of kind ${first.kind}, so nothing follows it after a dot.`)
    if (isLast && wanted === 'any' && !(leads === 'entries' || (leads === 'elements' && first.many)))
      checking.fail(
        path.at,
        `\`any\` needs a field of kind entry or a repeated group, and ${dotted(path)} is ${first.kind === 'group' ? 'one group' : `of kind ${first.kind}`}.`,
      )
    if (leads === 'entries') {
      if (!isLast || wanted !== undefined) {
        if (checking.context.own)
          checking.fail(path.at, `A rule of a form only sees its own entry: \`${name}\` leads to another one.`)
        isRepeated = false
      }
      here = [...new Set(fields.flatMap((field) => targetsOf(field)))].flatMap(
        (target) => typeNamed(checking.context.model, target) ?? [],
      )
      if (!checking.context.own) for (const type of here) checking.types.add(type.name)
      if (!isLast) steps.push(stepTo('entries', fields))
    } else if (leads === 'elements') {
      here = fields.flatMap((field) => insideGroup(field) ?? [])
      isRepeated ||= first.many && !isLast
    }
  }
  return { steps, fields, to: here, isRepeated }
}

export const stepTo = (to: Step['to'], fields: readonly Field[]): Step => ({
  to,
  fields: fields.map((field) => field.id),
})
export const dotted = (path: WrittenPath): string => `\`${path.names.join('.')}\``

function targetsOf(field: Field): readonly string[] {
  const shape = shapeOf(field)
  return shape.is === 'reference' ? shape.to : []
}
