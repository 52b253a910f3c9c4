import { readPattern } from '../../paths/pattern.js'
import { didYouMean } from '../../text/nearest.js'
import type { ModelCheck } from './check.js'

/** Path patterns are well formed, of known locales, and name existing fields; parents are entries, order is a number. */
export const places: ModelCheck = ({ source, model, site }, tell) => {
  source.types.forEach((owner, index) => {
    const type = model.types[index]!
    if (type.parent !== undefined) {
      const parent = type.fields.find((field) => field.name === type.parent)
      const accepts = parent?.options['accepts'] as string[] | undefined
      const fits =
        parent?.kind === 'entry' &&
        !parent.many &&
        !parent.localized &&
        accepts !== undefined &&
        accepts.every((name) => model.types.find((candidate) => candidate.name === name)?.path !== undefined)
      if (type.cardinality === 'one')
        tell(owner.problem(['parent'], 'badOption', 'A type with exactly one entry cannot have a parent.'))
      else if (!fits)
        tell(
          owner.problem(
            ['parent'],
            'badOption',
            '`parent` must name a field of kind entry that holds one entry for all locales, of types that have paths.',
          ),
        )
    }
    for (const [option, kind] of [
      ['order', 'number'],
      ['menu', 'boolean'],
    ] as const) {
      const name = type[option]
      if (name === undefined) continue
      const field = type.fields.find((candidate) => candidate.name === name)
      const fields = type.fields
        .filter((field) => field.kind === kind && !field.many && !field.localized)
        .map((field) => field.name)
      if (!field || !fields.includes(name))
        tell(
          owner.problem(
            [option],
            'badOption',
            `\`${option}\` must name a field of kind ${kind} that holds one value for all locales.${didYouMean(name, fields)}`,
          ),
        )
    }
    if (type.root === false && type.parent === undefined)
      tell(owner.problem(['root'], 'badOption', '`root: false` needs `parent:`, the field that names the parent.'))
    if (type.regional && type.fields.some(({ name }) => name === 'region'))
      tell(
        owner.problem(
          ['fields', 'region'],
          'reservedName',
          'Entries of a type that is `regional` have a `region` already: choose another name for the field.',
          true,
        ),
      )
    if (type.regional && type.cardinality === 'one')
      tell(owner.problem(['regional'], 'badOption', 'A type with exactly one entry cannot be `regional`.'))
    for (const [locale, pattern] of Object.entries(type.path ?? {})) {
      const bad = (code: string, message: string, onKey = false) =>
        tell(owner.problem(['path', locale], code, message, onKey))
      if (!site.locales.includes(locale))
        bad(
          'unknownLocale',
          `\`${locale}\` is not a locale of this site (${site.locales.join(', ')}).${didYouMean(locale, site.locales)}`,
          true,
        )
      const pieces = readPattern(pattern)
      if (typeof pieces === 'string') {
        bad('badPattern', `The path pattern ${pieces}.`)
        continue
      }
      if (type.cardinality === 'many' && !pieces.some((piece) => piece.is === 'field'))
        bad(
          'badPattern',
          'The path pattern needs a placeholder such as `{slug}`, or every entry would have the same path.',
        )
      for (const piece of pieces) {
        if (piece.is === 'parent' && type.parent === undefined)
          bad('badPattern', '`{parent}` needs `parent:` to name the field that holds the parent.')
        if (piece.is !== 'field') continue
        const slugs = type.fields.filter((field) => field.kind === 'slug').map((field) => field.name)
        if (!slugs.includes(piece.name))
          bad(
            'badPattern',
            `\`{${piece.name}}\` is not a field of kind slug of this type.${didYouMean(piece.name, slugs)}`,
          )
      }
    }
  })
}
