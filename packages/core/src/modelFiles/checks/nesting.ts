import { shapeOf, type BlockType, type FieldOwner } from '../../model/model.js'
import type { ModelCheck } from './check.js'

/** A block may contain blocks of its own type, unless every one needs another without end. */
export const nesting: ModelCheck = ({ source, model }, tell) => {
  const finishable = new Set<string>()
  const canFinish = (owner: FieldOwner): boolean =>
    owner.fields.every((field) => {
      const shape = shapeOf(field)
      if (shape.is === 'group') return !field.required || canFinish(field as FieldOwner & typeof field)
      const needed = shape.is === 'blocks' && (field.required || (field.count?.min ?? 0) > 0)
      return !needed || shape.of.some((name) => finishable.has(name))
    })
  for (let before = -1; before !== finishable.size;) {
    before = finishable.size
    for (const block of model.blockTypes) if (canFinish(block)) finishable.add(block.name)
  }
  model.blockTypes.forEach((block: BlockType, index) => {
    if (!finishable.has(block.name))
      tell(
        source.blocks[index]!.problem(
          ['fields'],
          'endless',
          `A block \`${block.name}\` could never be finished: it needs a block inside it, which needs another, and so on. Let one of these fields be without \`required\`.`,
          true,
        ),
      )
  })
}
