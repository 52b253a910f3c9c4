import type { Shape } from '../fields/shape.js'
import { groupTypeName } from '../model/graphqlNames.js'
import {
  blockTypeNamed,
  insideGroup,
  isListForReaders,
  ownersOf,
  shapeOf,
  type Field,
  type FieldOwner,
  type Model,
} from '../model/model.js'

export interface TypeScriptOptions {
  /** Types of required fields are not null: true of entries published since the field was required, and not of drafts. */
  readonly trustRequired?: boolean
}

/** The beginning of every file: forms of kinds that are the same in every model. */
const common: Record<string, string> = {
  Asset: `/** A file of the site. */
export interface Asset {
  id: string
  name: string
  /** Where the file is, on the service. */
  address: string
  mediaType: string
  /** Bytes. */
  size: number
  width: number | null
  height: number | null
  alt: string | null
  title: string | null
  caption: string | null
}`,
  RichText: `/** A structured document, as \`richText=document\` gives it: a Markdown syntax tree (mdast). */
export interface RichText {
  type: 'root'
  children: RichBlock[]
}
export type RichBlock =
  | { type: 'paragraph'; data: { id: string }; children: Phrasing[] }
  | { type: 'heading'; depth: 2 | 3 | 4; data: { id: string }; children: Phrasing[] }
  | { type: 'list'; ordered: boolean; start?: number; spread: boolean; data: { id: string }; children: ListItem[] }
  | { type: 'blockquote'; data: { id: string }; children: RichBlock[] }
  | { type: 'code'; lang?: string; meta?: string; value: string; data: { id: string } }
  | { type: 'thematicBreak'; data: { id: string } }
export interface ListItem {
  type: 'listItem'
  spread: boolean
  data: { id: string }
  children: RichBlock[]
}
export type Phrasing =
  | { type: 'text' | 'inlineCode'; value: string }
  | { type: 'strong' | 'emphasis' | 'delete'; children: Phrasing[] }
  | { type: 'break' }
  | { type: 'link'; url: string; title?: string; data?: { entry: string } | { asset: string }; children: Phrasing[] }
  | { type: 'image'; url: string; alt?: string; title?: string; data: { asset: string } }`,
  ReferenceTo: `/** A reference: read the entry by it. */
export interface ReferenceTo<Type extends string> {
  id: string
  type: Type
}`,
}

/**
 * TypeScript of everything that readers get of a model over REST. \`Content\` maps names of types to their values, for
 * \`new Reader<Content>(…)\`.
 */
export function typeScriptOf(model: Model, { trustRequired = false }: TypeScriptOptions = {}): string {
  const needed = new Set<string>()
  const printed: string[] = []

  const nameOf = (owner: FieldOwner): string =>
    'graphql' in owner ? (owner as { graphql: { type: string } }).graphql.type : owner.name
  const owner = (of: FieldOwner, name: string, groups: readonly Field[]): void => {
    const lines = of.fields.flatMap((field) => {
      const inside = insideGroup(field)
      const path = [...groups, field]
      const root = name
      const typeName = inside ? groupTypeName(root, path) : undefined
      if (inside) owner(inside, root, path)
      const type = typeOf(field, typeName)
      const lines = [
        ...doc([field.help ?? (field.label.toLowerCase() === field.name.toLowerCase() ? '' : field.label)], '  '),
        `  ${field.name}: ${type}`,
      ]
      const olds = (field.aliases ?? []).flatMap((alias) => [
        `  /** @deprecated Renamed to \`${field.name}\`. */`,
        `  ${alias}: ${type}`,
      ])
      return [...lines, ...olds]
    })
    const ownName = groups.length > 0 ? groupTypeName(name, groups) : name + 'Values'
    printed.push([...doc([of.help ?? ''], ''), `export interface ${ownName} {`, ...lines, '}'].join('\n'))
  }
  const typeOf = (field: Field, group: string | undefined): string => {
    const shape = shapeOf(field)
    if (group) return field.many ? `{ id: string; values: ${group} }[]` : group
    const text = shapeType(shape)
    if (isListForReaders(field)) return /[ |]/.test(text) ? `(${text})[]` : `${text}[]`
    const section = field.section !== undefined
    const sure = trustRequired && field.required && field.showIf === undefined && !section
    return sure || text === 'unknown' ? text : `${text} | null`
  }
  const shapeType = (shape: Shape): string => {
    switch (shape.is) {
      case 'scalar':
        return {
          string: 'string',
          number: 'number',
          integer: 'number',
          long: 'number',
          boolean: 'boolean',
          date: 'string',
          dateTime: 'string',
        }[shape.scalar]
      case 'choice':
        return shape.options.map((option) => quoted(option.value)).join(' | ')
      case 'reference':
        needed.add('ReferenceTo')
        return `ReferenceTo<${shape.to.map(quoted).join(' | ')}>`
      case 'asset':
        needed.add('Asset')
        return 'Asset'
      case 'richText':
        needed.add('RichText')
        return 'RichText'
      case 'json':
        return 'unknown'
      case 'object': {
        if (!(shape.name in objects)) {
          objects[shape.name] = ''
          const members = Object.entries(shape.members).flatMap(([name, member]) => [
            `  /** ${member.says} */`,
            `  ${name}: ${shapeType(member.shape)}${member.always ? '' : ' | null'}`,
          ])
          objects[shape.name] = [`export interface ${shape.name} {`, ...members, '}'].join('\n')
        }
        return shape.name
      }
      case 'blocks':
        return shape.of.map((name) => blockTypeNamed(model, name)!.graphql.type).join(' | ')
      case 'group':
        return 'unknown'
    }
  }
  const objects: Record<string, string> = {}
  for (const declared of ownersOf(model)) owner(declared, nameOf(declared), [])
  for (const block of model.blockTypes)
    printed.push(
      [
        `export interface ${block.graphql.type} {`,
        '  id: string',
        `  block: ${quoted(block.name)}`,
        `  values: ${block.graphql.type}Values`,
        '}',
      ].join('\n'),
    )
  const names = model.types.flatMap((type) => [
    `  ${type.name}: ${type.graphql.type}Values`,
    ...(type.aliases ?? []).map(
      (alias) => `  /** @deprecated Renamed to \`${type.name}\`. */\n  ${alias}: ${type.graphql.type}Values`,
    ),
  ])
  const shared = [...needed].map((name) => common[name]!)
  return (
    [
      `// Written by \`wisteria types\` from version ${model.version} of the model. Write it again when the model changes.`,
      [
        '/** The values of every type, by its name: `new Reader<Content>(…)`. */',
        'export interface Content {',
        ...names,
        '}',
      ].join('\n'),
      ...printed,
      ...Object.values(objects),
      ...shared,
    ].join('\n\n') + '\n'
  )
}

const quoted = (text: string): string => `'${text.replaceAll('\\', '\\\\').replaceAll("'", "\\'")}'`

const doc = ([text]: [string], indent: string): string[] =>
  text === '' ? [] : [`${indent}/** ${text.replaceAll('*/', '*\\/').replaceAll('\n', ' ')} */`]
