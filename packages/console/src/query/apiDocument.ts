/** A JSON Schema, as far as it is looked into here. */
export interface Schema {
  readonly $ref?: string
  readonly title?: string
  readonly description?: string
  readonly type?: string | readonly string[]
  readonly format?: string
  readonly enum?: readonly unknown[]
  readonly const?: unknown
  readonly default?: unknown
  readonly minimum?: number
  readonly maximum?: number
  readonly minLength?: number
  readonly maxLength?: number
  readonly minItems?: number
  readonly maxItems?: number
  readonly items?: Schema
  readonly properties?: Readonly<Record<string, Schema>>
  readonly required?: readonly string[]
  readonly additionalProperties?: boolean | Schema
  readonly anyOf?: readonly Schema[]
  readonly oneOf?: readonly Schema[]
  readonly allOf?: readonly Schema[]
}

interface Media {
  readonly schema?: Schema
  readonly example?: unknown
}
interface Answer {
  readonly $ref?: string
  readonly description?: string
  readonly content?: Readonly<Record<string, Media>>
}
export interface Parameter {
  readonly name: string
  readonly in: string
  readonly required?: boolean
  readonly description?: string
  readonly schema?: Schema
  readonly examples?: Readonly<Record<string, { readonly value?: unknown }>>
}
interface WrittenOperation {
  readonly summary?: string
  readonly description?: string
  readonly tags?: readonly string[]
  readonly parameters?: readonly Parameter[]
  readonly requestBody?: { readonly required?: boolean; readonly content?: Readonly<Record<string, Media>> }
  readonly responses?: Readonly<Record<string, Answer>>
}

/** An OpenAPI document, as far as it is looked into here. */
export interface ApiDocument {
  readonly tags?: readonly { readonly name: string; readonly description?: string }[]
  readonly paths?: Readonly<Record<string, Readonly<Record<string, WrittenOperation>>>>
  readonly components?: {
    readonly schemas?: Readonly<Record<string, Schema>>
    readonly responses?: Readonly<Record<string, Answer>>
  }
}

/** A request or answer body, in one media type. */
export interface Content {
  readonly mediaType: string
  readonly schema: Schema
  readonly example: unknown
}

/** One operation, as the page shows it. */
export interface Operation {
  /** `get /entries/{id}`: the same in each document of this API. */
  readonly id: string
  readonly method: string
  readonly path: string
  readonly summary: string
  readonly description: string
  readonly tag: string
  readonly parameters: readonly Parameter[]
  readonly body: { readonly isRequired: boolean; readonly contents: readonly Content[] } | undefined
  readonly answers: readonly { readonly status: string; readonly says: string; readonly contents: readonly Content[] }[]
  readonly refusals: readonly { readonly status: string; readonly says: string }[]
}

const contentsOf = (content: Readonly<Record<string, Media>> = {}): Content[] =>
  Object.entries(content).map(([mediaType, { schema = {}, example }]) => ({ mediaType, schema, example }))

function operationFrom(document: ApiDocument, path: string, method: string, written: WrittenOperation): Operation {
  const answers = Object.entries(written.responses ?? {}).map(([status, answer]) => {
    const name = answer.$ref?.split('/').at(-1)
    const { description = '', content } = (name === undefined ? answer : document.components?.responses?.[name]) ?? {}
    return { status, says: description, contents: contentsOf(content) }
  })
  const isRefusal = ({ status }: { readonly status: string }): boolean => /^[45]/.test(status)
  const { summary = '', description = '' } = written
  return {
    id: `${method} ${path}`,
    method: method.toUpperCase(),
    path,
    summary,
    // Many descriptions begin with the summary.
    description: description.startsWith(summary)
      ? description.slice(summary.length).replace(/^\.\s*/, '')
      : description,
    tag: written.tags?.[0] ?? '',
    parameters: written.parameters ?? [],
    body: written.requestBody && {
      isRequired: written.requestBody.required ?? false,
      contents: contentsOf(written.requestBody.content),
    },
    answers: answers.filter((answer) => !isRefusal(answer)),
    refusals: answers.filter(isRefusal),
  }
}

/** The operations of a document by their tags, in the document's order. */
export function operationsByTag(
  document: ApiDocument,
): { readonly name: string; readonly says: string; readonly operations: readonly Operation[] }[] {
  const all = Object.entries(document.paths ?? {}).flatMap(([path, methods]) =>
    Object.entries(methods).map(([method, operation]) => operationFrom(document, path, method, operation)),
  )
  return (document.tags ?? []).map(({ name, description = '' }) => ({
    name,
    says: description,
    operations: all.filter(({ tag }) => tag === name),
  }))
}

const nameOfRef = ({ $ref }: Schema): string | undefined => $ref?.slice('#/components/schemas/'.length)

/** A schema itself, where another is only referred to. */
export function resolved(document: ApiDocument, schema: Schema): Schema {
  const name = nameOfRef(schema)
  return name === undefined ? schema : (document.components?.schemas?.[name] ?? schema)
}

const alternativesOf = ({ anyOf, oneOf }: Schema): readonly Schema[] | undefined => anyOf ?? oneOf

/** A type in the words of JSON: `string`, `Asset[]`, `"walk" | "talk"`, `integer | null`. */
export function typeOf(schema: Schema): string {
  const name = nameOfRef(schema)
  if (name !== undefined) return name
  if (schema.const !== undefined) return JSON.stringify(schema.const)
  if (schema.enum) return schema.enum.map((value) => JSON.stringify(value)).join(' | ')
  const alternatives = alternativesOf(schema)
  if (alternatives) return [...new Set(alternatives.map(typeOf))].join(' | ')
  const types = [schema.type ?? []].flat().map((type) => {
    if (type !== 'array' || !schema.items) return type
    const item = typeOf(schema.items)
    return item.includes(' | ') ? `(${item})[]` : `${item}[]`
  })
  const names = Object.keys(schema.properties ?? {})
  const isSmall = names.length > 0 && names.length <= 3
  const word = isSmall ? `{ ${names.join(', ')} }` : types.join(' | ') || (schema.properties ? 'object' : 'any')
  return schema.format === undefined ? word : `${word}, ${schema.format}`
}

/** The limits of a value: `1 to 100`, `at most 500 characters`. */
export function limitsOf({ minimum, maximum, minLength, maxLength, minItems, maxItems }: Schema): {
  readonly unit: 'number' | 'characters' | 'items'
  readonly min: number | undefined
  readonly max: number | undefined
}[] {
  return [
    { unit: 'number' as const, min: minimum, max: maximum },
    { unit: 'characters' as const, min: minLength, max: maxLength },
    { unit: 'items' as const, min: minItems, max: maxItems },
  ].filter(({ min, max }) => [min, max].some((limit) => limit !== undefined && Math.abs(limit) < 2 ** 53 - 1))
}

/** One part of a schema: a property, an alternative, or the items of a list or a map. */
export interface Part {
  readonly name: string
  readonly isRequired: boolean
  readonly schema: Schema
}

/** The parts of a schema that can be opened; nothing for a plain value. */
export function partsOf(document: ApiDocument, written: Schema): readonly Part[] {
  const schema = resolved(document, written)
  const alternatives = alternativesOf(schema)
  if (alternatives) {
    const inside = alternatives.filter((one) => partsOf(document, one).length > 0)
    return inside.length === 1
      ? partsOf(document, inside[0]!)
      : inside.map((one) => ({ name: titleOf(document, one), isRequired: false, schema: one }))
  }
  if (schema.allOf) return schema.allOf.flatMap((one) => partsOf(document, one))
  if (schema.items) return partsOf(document, schema.items)
  const { properties = {}, required = [], additionalProperties: others } = schema
  return [
    ...Object.entries(properties).map(([name, property]) => ({
      name,
      isRequired: required.includes(name),
      schema: property,
    })),
    ...(typeof others === 'object' && Object.keys(others).length > 0
      ? [{ name: '…', isRequired: false, schema: others }]
      : []),
  ]
}

/** The name of an alternative: its name, its title, or the value that distinguishes it. */
function titleOf(document: ApiDocument, schema: Schema): string {
  const { title, properties = {} } = resolved(document, schema)
  const told = Object.entries(properties).find(([, { const: value }]) => value !== undefined)
  return nameOfRef(schema) ?? title ?? (told ? `${told[0]}: ${JSON.stringify(told[1].const)}` : typeOf(schema))
}
