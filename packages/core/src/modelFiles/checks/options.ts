import { kindNamed } from '../../fields/kinds.js'
import { canBeUnique } from '../../model/unique.js'
import { didYouMean } from '../../text/nearest.js'
import { eachField } from '../../model/model.js'
import type { ModelCheck, Owner } from './check.js'
import { eachOwner, eachSourceField } from './check.js'

const maxFields = 400

/**
 * Options that depend on other parts of the model: what a field accepts, the field that it takes its value from, and its number of
 * values.
 */
export const options: ModelCheck = (proposed, tell) => {
  const { model } = proposed
  // Inside blocks and repeated groups a value cannot be unique.
  const insideTypes = new Set<string>()
  for (const type of model.types) {
    insideTypes.add(type.id)
    eachField(type, (field, on) => {
      if (field.kind === 'group' && [...on, field].every((step) => !step.many)) insideTypes.add(field.id)
    })
  }
  const isInside = (owner: Owner): boolean => !insideTypes.has(owner.made.id)
  eachSourceField(proposed, (field, owner, at) => {
    const kind = kindNamed(field.kind)
    const bad = (option: string, message: string) => tell(owner.located.problem([...at, option], 'badOption', message))
    const shape = kind.shape(field.options)
    const named = (names: readonly string[], allowed: readonly string[], noun: string, ...place: (string | number)[]) =>
      names.forEach((name, index) => {
        if (!allowed.includes(name))
          tell(
            owner.located.problem(
              [...at, ...place, index],
              'unknownType',
              `\`${name}\` is not a ${noun} of this model.${didYouMean(name, allowed)}`,
            ),
          )
      })
    const types = model.types.map((type) => type.name)
    const blocks = model.blockTypes.map((type) => type.name)
    if (shape.is === 'reference') named(shape.to, types, 'type', 'accepts')
    if (shape.is === 'richText') named(shape.entries, types, 'type', 'accepts')
    if (shape.is === 'blocks') {
      named(shape.of, blocks, 'block type', 'accepts')
      for (const name of Object.keys(field.options['each'] ?? {}))
        if (!shape.of.includes(name))
          bad('each', `\`${name}\` is not among what the field accepts.${didYouMean(name, shape.of)}`)
    }
    const { min, max } = field.count ?? {}
    if (min !== undefined && max !== undefined && min > max) bad('count', '`count`: min is more than max.')
    if (field.count && !field.many) bad('count', '`count` belongs to a field with `many: true`.')
    if (field.required === false && min && field.kind === 'block') bad('count', '`count.min` needs `required: true`.')
    if (field.many && kind.single)
      bad(
        'many',
        field.kind === 'slug'
          ? 'An entry has one slug: `many` is not possible.'
          : `A field of kind ${kind.name} holds one value.`,
      )
    if (field.localized && kind.shared)
      bad('localized', `A field of kind ${kind.name} is the same in all locales: localize the fields inside it.`)
    if (field.unique && !canBeUnique(field))
      bad('unique', `\`unique\` needs one comparable value, not ${field.many ? 'a list' : `kind ${field.kind}`}.`)
    if (field.unique && isInside(owner))
      bad('unique', '`unique` needs a field of a type, or of a group in it that is not repeated.')
    const sections = Object.keys(owner.sections)
    if (field.section !== undefined && !sections.includes(field.section))
      bad(
        'section',
        `\`${field.section}\` is not a section of ${owner.made.name}.${didYouMean(field.section, sections)}${sections.length === 0 ? ' Name it in `sections:` first.' : ''}`,
      )
    const siblings = (...kinds: string[]) =>
      owner.made.fields.filter((field) => kinds.includes(field.kind) && !field.many).map((field) => field.name)
    if (
      field.kind === 'slug' &&
      field.options['from'] !== undefined &&
      !siblings('text').includes(String(field.options['from']))
    )
      bad(
        'from',
        `\`from\` must name a field of kind text.${didYouMean(String(field.options['from']), siblings('text'))}`,
      )
    if (field.kind === 'metadata')
      for (const [member, name] of Object.entries((field.options['from'] ?? {}) as Record<string, string>)) {
        const wanted = member === 'image' ? siblings('asset') : siblings('text', 'longText')
        if (!wanted.includes(name))
          tell(
            owner.located.problem(
              [...at, 'from', member],
              'badOption',
              `\`from.${member}\` must name a field of kind ${member === 'image' ? 'asset' : 'text or longText'}.${didYouMean(name, wanted)}`,
            ),
          )
      }
  })
  eachOwner(proposed, ({ made: owner, located, at }) => {
    if (owner.fields.length > maxFields)
      tell(
        located.problem(
          [...at, 'fields'],
          'tooMany',
          `${owner.label} has ${owner.fields.length} fields, at most ${maxFields} fit. Move fields that belong together into block types or other types.`,
          true,
        ),
      )
    if (owner.fields.length === 0)
      tell(located.problem([...at, 'fields'], 'missing', `${owner.label} has no fields: it needs at least one.`, true))
  })
}
