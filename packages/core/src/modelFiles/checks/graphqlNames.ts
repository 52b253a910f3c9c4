import type { Located } from '../files.js'
import { eachField, type ContentType, type FieldOwner } from '../../model/model.js'
import { choiceTypeName, groupTypeName } from '../../model/graphqlNames.js'
import type { ModelCheck } from './check.js'

/** No two names of the model are the same in GraphQL. */
export const graphqlNames: ModelCheck = ({ source, model }, tell) => {
  const taken = new Map<string, string>()
  const take = (name: string, by: string, owner: Located<unknown>) => {
    const other = taken.get(name)
    if (other === undefined) return void taken.set(name, by)
    tell(
      owner.problem(
        [],
        'nameClash',
        `\`${by}\` and \`${other}\` would both be \`${name}\` in GraphQL. Rename one, or give it another \`plural\`.`,
      ),
    )
  }
  const takeGroups = (group: FieldOwner, typeName: string, owner: Located<unknown>) =>
    eachField(group, (field, on) => {
      if (field.kind === 'group') take(groupTypeName(typeName, [...on, field]), `${group.name}.${field.name}`, owner)
      if (field.kind === 'choice')
        take(choiceTypeName(groupTypeName(typeName, on), field), `${group.name}.${field.name}`, owner)
    })
  const ofType = ({ graphql, cardinality }: ContentType): string[] =>
    cardinality === 'one'
      ? [graphql.type, graphql.type + 'Filter', graphql.one]
      : [
          graphql.type,
          graphql.type + 'Connection',
          graphql.type + 'Filter',
          graphql.type + 'Edge',
          graphql.one,
          graphql.many,
        ]
  model.types.forEach((type, index) => {
    for (const name of ofType(type)) take(name, type.name, source.types[index]!)
    takeGroups(type, type.graphql.type, source.types[index]!)
  })
  model.blockTypes.forEach((block, index) => {
    take(block.graphql.type, block.name, source.blocks[index]!)
    takeGroups(block, block.graphql.type, source.blocks[index]!)
  })
}
