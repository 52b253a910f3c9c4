import {
  choiceTypeName,
  fieldNamed,
  groupTypeName,
  insideGroup,
  kindOf,
  shapeOf,
  typeNamed,
  WisteriaError,
  type WrittenCondition,
  type Field,
  type FieldOwner,
  type Model,
  type Operand,
  type Operator,
} from '@wisteria/core'
import {
  GraphQLBoolean,
  GraphQLFloat,
  GraphQLInputObjectType,
  GraphQLList,
  GraphQLNonNull,
  GraphQLString,
  type GraphQLEnumType,
  type GraphQLInputFieldConfigMap,
  type GraphQLScalarType,
} from 'graphql'

import { choiceType } from './contentTypes.js'

const list = (of: GraphQLScalarType | GraphQLEnumType) => ({ type: new GraphQLList(new GraphQLNonNull(of)) })

function operators(
  name: string,
  of: GraphQLScalarType | GraphQLEnumType,
  description: string,
  kind: 'ordered' | 'text' | 'equal',
): GraphQLInputObjectType {
  const fields: GraphQLInputFieldConfigMap = {
    is: { type: of },
    isNot: { type: of },
    hasValue: { type: GraphQLBoolean },
  }
  if (of !== GraphQLBoolean) fields['in'] = list(of)
  if (kind !== 'equal')
    for (const operator of ['lessThan', 'atMost', 'moreThan', 'atLeast']) fields[operator] = { type: of }
  if (kind === 'text') for (const operator of ['contains', 'startsWith']) fields[operator] = { type: of }
  return new GraphQLInputObjectType({ name, description, fields })
}

/** The comparisons of a filter, by the comparison of the field's kind. */
const filterOf = {
  text: operators('TextFilter', GraphQLString, 'Compares text, ignoring accents and capitals.', 'text'),
  exact: operators('ExactFilter', GraphQLString, 'Compares text exactly, letter by letter.', 'text'),
  number: operators('NumberFilter', GraphQLFloat, 'Compares numbers.', 'ordered'),
  boolean: operators('BooleanFilter', GraphQLBoolean, 'Compares true and false.', 'equal'),
  date: operators('DateFilter', GraphQLString, 'Compares days: `2031-05-04`, or `today`, `today + 7 days`.', 'ordered'),
  dateTime: operators(
    'DateTimeFilter',
    GraphQLString,
    'Compares instants: `2031-05-04T20:30:00Z`, a day, or `now`, `today + 7 days`.',
    'ordered',
  ),
  span: operators('SpanFilter', GraphQLString, 'Compares lengths of time: `PT90M`, `P2D`.', 'ordered'),
  presence: new GraphQLInputObjectType({
    name: 'PresenceFilter',
    description: 'Whether there is anything.',
    fields: { hasValue: { type: GraphQLBoolean } },
  }),
}

/** The filter input types of a model: one for each content type, with a member for each comparable field. */
export function filterTypes(model: Model): Map<string, GraphQLInputObjectType> {
  const filters = new Map<string, GraphQLInputObjectType>()
  for (const type of model.types) filters.set(type.name, filterType(model, type, type.graphql.type, [], filters))
  return filters
}

function filterType(
  model: Model,
  owner: FieldOwner,
  ownerName: string,
  groups: readonly Field[],
  filters: ReadonlyMap<string, GraphQLInputObjectType>,
): GraphQLInputObjectType {
  const filter: GraphQLInputObjectType = new GraphQLInputObjectType({
    name: `${groups.length > 0 ? groupTypeName(ownerName, groups) : ownerName}Filter`,
    description: `A condition on ${owner.name}: all members must be met.`,
    fields: () => {
      const fields: GraphQLInputFieldConfigMap = {
        and: { type: new GraphQLList(new GraphQLNonNull(filter)) },
        or: { type: new GraphQLList(new GraphQLNonNull(filter)) },
        not: { type: filter },
      }
      for (const field of owner.fields) {
        const input = inputOf(model, field, ownerName, groups, filters)
        if (!input) continue
        fields[field.name] = { type: input, ...(field.help ? { description: field.help } : {}) }
        for (const alias of field.aliases ?? [])
          fields[alias] = { type: input, deprecationReason: `Renamed to \`${field.name}\`.` }
      }
      return fields
    },
  })
  return filter
}

const choiceFilters = new WeakMap<Model, Map<string, GraphQLInputObjectType>>()

function choiceFilter(model: Model, type: GraphQLEnumType): GraphQLInputObjectType {
  const filters = choiceFilters.get(model) ?? new Map<string, GraphQLInputObjectType>()
  choiceFilters.set(model, filters)
  const filter = filters.get(type.name) ?? operators(`${type.name}Filter`, type, 'Compares some values.', 'equal')
  filters.set(type.name, filter)
  return filter
}

const referenceFilters = new WeakMap<Model, Map<string, GraphQLInputObjectType>>()

function inputOf(
  model: Model,
  field: Field,
  ownerName: string,
  groups: readonly Field[],
  filters: ReadonlyMap<string, GraphQLInputObjectType>,
): GraphQLInputObjectType | undefined {
  const comparison = kindOf(field).comparison
  if (comparison === undefined) return undefined
  const group = insideGroup(field)
  if (group) {
    const inner = filterType(model, group, ownerName, [...groups, field], filters)
    if (!field.many) return inner
    return new GraphQLInputObjectType({
      name: `${groupTypeName(ownerName, [...groups, field])}ListFilter`,
      description: `Asks of ${field.name} whether it has any element, or \`any\` one that meets a condition.`,
      fields: { any: { type: inner }, hasValue: { type: GraphQLBoolean } },
    })
  }
  if (field.kind === 'choice') {
    const owner = groups.length > 0 ? groupTypeName(ownerName, groups) : ownerName
    return choiceFilter(model, choiceType(model, field, choiceTypeName(owner, field)))
  }
  if (comparison !== 'reference') return filterOf[comparison]
  const shape = shapeOf(field)
  const target = shape.is === 'reference' && shape.to.length === 1 ? typeNamed(model, shape.to[0]!) : undefined
  // A reference is compared by id, and through `any` by fields of the entry: of one element of many, or of the only one.
  const cached = referenceFilters.get(model) ?? new Map<string, GraphQLInputObjectType>()
  referenceFilters.set(model, cached)
  const name = target ? `${target.graphql.type}ReferenceFilter` : 'ReferenceFilter'
  const input =
    cached.get(name) ??
    new GraphQLInputObjectType({
      name,
      description: 'Compares referenced entries, by id or by `any` of their fields.',
      fields: () => ({
        is: { type: GraphQLString },
        isNot: { type: GraphQLString },
        in: list(GraphQLString),
        hasValue: { type: GraphQLBoolean },
        ...(target ? { any: { type: filters.get(target.name)! } } : {}),
      }),
    })
  cached.set(name, input)
  return input
}

const written: Record<string, Operator> = {
  is: '=',
  isNot: '!=',
  lessThan: '<',
  atMost: '<=',
  moreThan: '>',
  atLeast: '>=',
  contains: 'contains',
  startsWith: 'starts with',
}

type Filter = Readonly<Record<string, unknown>>

/**
 * Turns a filter into the tree that a written condition becomes. Undefined for an empty filter.
 * @param around names of the single groups around the owner.
 */
export function filterToExpression(
  model: Model,
  owner: FieldOwner,
  filter: Filter,
  depth = 0,
  around: readonly string[] = [],
): WrittenCondition | undefined {
  if (depth > 32) throw new WisteriaError('badCondition', 'A filter nests at most 32 deep.')
  const parts: WrittenCondition[] = []
  const inner = (value: unknown) => filterToExpression(model, owner, value as Filter, depth + 1, around)
  for (const [name, value] of Object.entries(filter)) {
    if (value === null || value === undefined) continue
    if (name === 'and' || name === 'or') {
      const of = (value as Filter[]).flatMap((filter) => inner(filter) ?? [])
      if (of.length > 0) parts.push({ is: name, of })
    } else if (name === 'not') {
      const of = inner(value)
      if (of) parts.push({ is: 'not', of })
    } else parts.push(...fieldTests(model, fieldNamed(owner, name)!, value as Filter, depth, around))
  }
  return parts.length === 0 ? undefined : parts.length === 1 ? parts[0] : { is: 'and', of: parts }
}

function fieldTests(
  model: Model,
  field: Field,
  filter: Filter,
  depth: number,
  around: readonly string[],
): WrittenCondition[] {
  const names = [...around, field.name]
  const path = { names, at: 0 }
  const group = insideGroup(field)
  if (group && !field.many) {
    const where = filterToExpression(model, group, filter, depth + 1, names)
    return where ? [where] : []
  }
  return Object.entries(filter).flatMap(([name, value]): WrittenCondition[] => {
    if (value === null || value === undefined) return []
    if (name === 'hasValue')
      return [{ is: 'test', path, operator: value === true ? 'has value' : 'has no value', at: 0 }]
    if (name === 'in')
      return [
        {
          is: 'test',
          path,
          operator: 'in',
          operand: { is: 'list', of: (value as unknown[]).map((item) => operandOf(field, item)), at: 0 },
          at: 0,
        },
      ]
    if (name === 'any') {
      const target = group ?? typeNamed(model, (field.options['accepts'] as string[])[0]!)!
      const where = filterToExpression(model, target, value as Filter, depth + 1)
      return where ? [{ is: 'any', path, where }] : [{ is: 'test', path, operator: 'has value', at: 0 }]
    }
    return [{ is: 'test', path, operator: written[name]!, operand: operandOf(field, value), at: 0 }]
  })
}

const momentForm = /^(now|today)(?:\s*([+-])\s*(\d{1,6})\s+(minute|hour|day|week)s?)?$/

function operandOf(field: Field, value: unknown): Operand {
  if (typeof value === 'number') return { is: 'number', value, at: 0 }
  if (typeof value === 'boolean') return { is: 'boolean', value, at: 0 }
  const text = String(value)
  const moment = field.kind === 'date' || field.kind === 'dateTime' ? momentForm.exec(text) : null
  if (!moment) return { is: 'text', value: text, at: 0 }
  const amount = (moment[2] === '-' ? -1 : 1) * Number(moment[3] ?? 0)
  const size = { minute: 1, hour: 60, day: 1, week: 7 }[moment[4] ?? 'day']!
  const isShort = moment[4] === 'minute' || moment[4] === 'hour'
  return {
    is: 'moment',
    base: moment[1] as 'now' | 'today',
    minutes: isShort ? amount * size : 0,
    days: isShort ? 0 : amount * size,
    at: 0,
  }
}
