import { pascal } from '../../model/graphqlNames.js'
import type { BlockType, ContentType, Model, Section } from '../../model/model.js'
import type { Located } from '../files.js'
import type { BlockSource, SectionSource, TypeSource } from '../schema.js'
import { labelFrom, listOf, pluralOf, present } from '../words.js'
import { checksOf, resolveFields } from './fields.js'
import type { Renamable, Resolving } from './resolving.js'

const reservedTypeNames = new Set([
  'entry', 'query', 'mutation', 'subscription', 'pageInfo', 'date', 'dateTime', 'edition', 'localePath', 'string', 'int',
  'float', 'boolean', 'iD', 'at', 'text', 'number', 'choice', 'reference', 'schema', 'paths', 'changes', 'graphql',
  'asset', 'richText', 'location', 'metadata', 'zonedTime', 'json', 'moment', 'presence', 'span',
]) // prettier-ignore

export function resolveBlockType(resolving: Resolving, located: Located<BlockSource>): BlockType {
  const { block: name, was, fields, sections, ...rest } = located.source
  const aliases = listOf(was)
  const then = resolving.modelThen(located)
  const old = resolving.predecessor(
    resolving.before.blockTypes,
    name,
    aliases,
    (message) => resolving.problems.push(located.problem(['was'], 'badRename', message)),
    then && { olds: then.blockTypes, last: (id) => lastOf(resolving.past, (model) => model.blockTypes, id) },
  )
  return {
    id: old?.id ?? resolving.mint('b'),
    name,
    ...(aliases.length > 0 ? { aliases } : {}),
    label: rest.label ?? labelFrom(name),
    ...present({ help: rest.help, icon: rest.icon }),
    ...(sections ? { sections: makeSections(sections) } : {}),
    ...(rest.check === undefined ? {} : { checks: checksOf(rest.check) }),
    graphql: old?.graphql ?? { type: pascal(name) + 'Block' },
    fields: resolveFields(
      resolving,
      located,
      fields,
      old,
      [],
      then?.blockTypes.find((blockType) => blockType.name === name),
    ),
  }
}

export function resolveType(resolving: Resolving, located: Located<TypeSource>): ContentType {
  const {
    type: name,
    was,
    fields: written,
    sections,
    plural,
    path,
    parent,
    order,
    menu,
    root,
    drafts,
    regional,
    namedBy,
    cardinality,
    ...rest
  } = located.source
  if (reservedTypeNames.has(name))
    resolving.problems.push(
      located.problem(['type'], 'reservedName', `\`${name}\` is a reserved name. Choose another.`),
    )
  const aliases = listOf(was)
  const then = resolving.modelThen(located)
  const old = resolving.predecessor(
    resolving.before.types,
    name,
    aliases,
    (message) => resolving.problems.push(located.problem(['was'], 'badRename', message)),
    then && { olds: then.types, last: (id) => lastOf(resolving.past, (model) => model.types, id) },
  )
  const thenType = then?.types.find((candidate) => candidate.name === name)
  const fields = resolveFields(resolving, located, written, old, [], thenType)
  return {
    id: old?.id ?? resolving.mint('t'),
    name,
    ...(aliases.length > 0 ? { aliases } : {}),
    label: rest.label ?? labelFrom(name),
    ...present({ help: rest.help, icon: rest.icon, path, parent, order, menu }),
    ...(root === false ? { root } : {}),
    ...(drafts === false ? { drafts } : {}),
    ...(regional === true ? { regional } : {}),
    cardinality: cardinality ?? 'many',
    namedBy: namedBy ?? fields.find((field) => field.kind === 'text' && !field.many)?.name ?? '',
    ...(sections ? { sections: makeSections(sections) } : {}),
    ...(rest.check === undefined ? {} : { checks: checksOf(rest.check) }),
    graphql: old?.graphql ?? { type: pascal(name), one: name, many: plural ?? pluralOf(name) },
    fields,
  }
}

const makeSections = (sections: Readonly<Record<string, SectionSource>>): Section[] =>
  Object.entries(sections).map(([name, { label, help, collapsed, showIf, requireIf, lockIf }]) => ({
    name,
    label: label ?? labelFrom(name),
    collapsed: collapsed ?? false,
    ...present({ help, showIf, requireIf, lockIf }),
  }))

/** An owner as it last was, whether it still is or not. */
const lastOf = <T extends Renamable>(past: readonly Model[], ownersOf: (model: Model) => readonly T[], id: string) =>
  past
    .toReversed()
    .map((model) => ownersOf(model).find((owner) => owner.id === id))
    .find((id) => id !== undefined)
