import { shapeOf, typeNamed, type ContentType, type Field, type Model } from '@wisteria/core'
import { emptyGraphql, emptyRest, type Question } from './question'
import { t } from '../messages'

/** A query that works on this site, with its purpose. */
export interface Example {
  readonly says: string
  readonly question: Question
}

const kind = (type: ContentType, ...kinds: readonly string[]): Field | undefined =>
  type.fields.find((field) => kinds.includes(field.kind) && !field.many)

function optionsOf(field: Field): string[] {
  const shape = shapeOf(field)
  return shape.is === 'choice' ? shape.options.map(({ value }) => value) : []
}

function targetsOf(field: Field): readonly string[] {
  const shape = shapeOf(field)
  return shape.is === 'reference' ? shape.to : []
}

/** Questions on a site's own types; none of them needs an entry of a certain name. */
export function examplesFor(model: Model, somePath: string | undefined): Example[] {
  const many = model.types.filter((type) => type.cardinality === 'many')
  // The type with the most to ask about shows the most.
  const [type] = [...many].sort((a, b) => weightOf(b) - weightOf(a))
  if (!type) return []
  const title = type.namedBy
  const choice = kind(type, 'choice')
  const option = choice && optionsOf(choice)[0]
  const time = kind(type, 'dateTime', 'date')
  const reference = kind(type, 'entry')
  const target = reference && typeNamed(model, targetsOf(reference)[0] ?? '')
  const texts = kind(type, 'richText')
  const picture = kind(type, 'asset')
  const rest = (says: string, more: Partial<typeof emptyRest>): Example => ({
    says,
    question: { ...emptyRest, type: type.name, ...more },
  })
  const all: (Example | false | undefined)[] = [
    rest(t('query.example.newest', { type: type.label }), { sort: '-entry.updated', first: '5', pick: title }),
    option !== undefined &&
      rest(t('query.example.by', { field: choice!.label.toLowerCase() }), {
        where: `${choice!.name} = ${JSON.stringify(option)}`,
        pick: `${title}, ${choice!.name}`,
      }),
    time &&
      rest(t('query.example.toCome'), {
        where: `${time.name} >= ${time.kind === 'date' ? 'today' : 'now'}`,
        sort: time.name,
        pick: `${title}, ${time.name}`,
      }),
    target &&
      rest(t('query.example.withTheir', { field: reference.label.toLowerCase() }), {
        pick: `${title}, ${reference.name}(${target.namedBy})`,
        first: '5',
      }),
    target &&
      rest(t('query.example.sortedBy', { field: reference.label.toLowerCase() }), {
        sort: `${reference.name}.${target.namedBy},${title}`,
        pick: `${title}, ${reference.name}(${target.namedBy})`,
      }),
    texts && rest(t('query.example.asHtml'), { pick: `${title}, ${texts.name}(as: html)`, first: '1' }),
    picture &&
      rest(t('query.example.picture'), {
        pick: `${title}, ${picture.name}(w: 640, format: webp, address, alt)`,
        first: '5',
      }),
    somePath !== undefined && rest(t('query.example.atPath'), { ask: 'at', path: somePath, type: '' }),
    {
      says: t('query.example.graphql', { type: type.label }),
      question: {
        ...emptyGraphql,
        query: `{\n  ${type.graphql.many}(first: 5) {\n    nodes {\n      path\n      ${graphqlField(model, type, title)}\n${
          target ? `      ${reference.name} {\n        ${inner(model, reference, target)}\n      }\n` : ''
        }    }\n    pageInfo { hasNextPage endCursor }\n  }\n}`,
      },
    },
  ]
  return all.filter((example) => example !== false && example !== undefined)
}

const weightOf = (type: ContentType): number =>
  new Set(
    type.fields
      .map(({ kind }) => kind)
      .filter((kind) => ['choice', 'dateTime', 'date', 'entry', 'richText', 'asset'].includes(kind)),
  ).size

const graphqlField = (_: Model, type: ContentType, name: string): string =>
  type.fields.find((field) => field.name === name)?.kind === 'richText' ? `${name} { text }` : name

/** The selection inside a reference: of one type, if it accepts several. */
const inner = (model: Model, reference: Field, target: ContentType): string =>
  targetsOf(reference).length > 1
    ? `... on ${target.graphql.type} { ${graphqlField(model, target, target.namedBy)} }`
    : graphqlField(model, target, target.namedBy)
