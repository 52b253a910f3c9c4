import type { Problem } from '../../base/errors.js'
import type { ModelSource } from '../files.js'
import { listOf } from '../words.js'

/** Two types, or two block types, with one name; or one whose earlier name is another's. */
export function refuseDuplicates(source: ModelSource, problems: Problem[]): void {
  for (const [what, owners] of [
    ['type', source.types],
    ['block type', source.blocks],
  ] as const) {
    const names = new Set<string>()
    for (const owner of owners) {
      const name = 'type' in owner.source ? owner.source.type : owner.source.block
      if (names.has(name)) problems.push(owner.problem([], 'twice', `There is another ${what} named \`${name}\`.`))
      names.add(name)
    }
    for (const owner of owners)
      for (const was of listOf(owner.source.was))
        if (names.has(was))
          problems.push(
            owner.problem(
              ['was'],
              'nameTaken',
              `There is a ${what} named \`${was}\`, so this one cannot answer to that name too.`,
            ),
          )
  }
}
