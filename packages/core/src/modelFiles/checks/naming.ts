import { didYouMean } from '../../text/nearest.js'
import type { ModelCheck } from './check.js'

/** Every type names its entries by a field of kind text. */
export const naming: ModelCheck = ({ source, model }, tell) => {
  source.types.forEach((owner, index) => {
    const type = model.types[index]!
    const texts = type.fields.filter((field) => field.kind === 'text' && !field.many).map((field) => field.name)
    if (type.namedBy === '')
      tell(
        owner.problem(
          ['fields'],
          'noName',
          'A type needs a field of kind text to name its entries by: `namedBy: title`.',
        ),
      )
    else if (!texts.includes(type.namedBy))
      tell(
        owner.problem(
          ['namedBy'],
          'badOption',
          `\`namedBy\` must name a field of kind text that holds one value.${didYouMean(type.namedBy, texts)}`,
        ),
      )
  })
}
