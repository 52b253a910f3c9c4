import { describe, expect, it } from 'vitest'
import { limitsOf, operationsByTag, partsOf, typeOf, type ApiDocument } from './apiDocument'

const ref = (name: string) => ({ $ref: `#/components/schemas/${name}` })
const document: ApiDocument = {
  tags: [{ name: 'Museum', description: 'Museums.' }, { name: 'Others' }],
  paths: {
    '/entries/museum': {
      get: {
        summary: 'A page of museum',
        description: 'A page of museum. By `where`.',
        tags: ['Museum'],
        responses: {
          200: {
            description: 'A page.',
            content: { 'application/json': { schema: ref('Museum'), example: { id: 'x' } } },
          },
          404: { $ref: '#/components/responses/Error404' },
        },
      },
    },
    '/hooks': { post: { summary: 'Adds one', tags: ['Others'], requestBody: { required: true, content: {} } } },
  },
  components: {
    responses: { Error404: { description: 'There is none.' } },
    schemas: {
      Museum: {
        type: 'object',
        required: ['id'],
        properties: { id: { type: 'string' }, home: { anyOf: [ref('Museum'), { type: 'null' }] } },
      },
    },
  },
}

describe('the operations of a document', () => {
  it('are told by tag, with answers and refusals apart', () => {
    const [museum, others] = operationsByTag(document)
    expect(museum).toMatchObject({ name: 'Museum', says: 'Museums.' })
    expect(museum!.operations).toMatchObject([
      {
        id: 'get /entries/museum',
        method: 'GET',
        summary: 'A page of museum',
        description: 'By `where`.',
        answers: [
          { status: '200', says: 'A page.', contents: [{ mediaType: 'application/json', example: { id: 'x' } }] },
        ],
        refusals: [{ status: '404', says: 'There is none.' }],
        body: undefined,
      },
    ])
    expect(others!.operations).toMatchObject([{ id: 'post /hooks', body: { isRequired: true, contents: [] } }])
    expect(operationsByTag({})).toEqual([])
  })
})

describe('a schema', () => {
  it.each([
    [ref('Museum'), 'Museum'],
    [{ type: 'string', format: 'date-time' }, 'string, date-time'],
    [{ type: ['string', 'null'] }, 'string | null'],
    [{ enum: ['walk', 'talk'] }, '"walk" | "talk"'],
    [{ const: 'museum' }, '"museum"'],
    [{ anyOf: [ref('Museum'), { type: 'null' }] }, 'Museum | null'],
    [{ type: 'array', items: ref('Museum') }, 'Museum[]'],
    [{ type: 'array', items: { enum: ['a', 'b'] } }, '("a" | "b")[]'],
    [{ properties: {} }, 'object'],
    [{ type: 'object', properties: { id: {}, type: {} } }, '{ id, type }'],
    [{}, 'any'],
  ])('has a type in the words of JSON: %j', (schema, type) => expect(typeOf(schema)).toBe(type))

  it('has its parts inside, also through lists, references and what may be null', () => {
    const names = (schema: Parameters<typeof partsOf>[1]) =>
      partsOf(document, schema).map(({ name, isRequired }) => `${name}${isRequired ? '*' : ''}`)
    expect(names(ref('Museum'))).toEqual(['id*', 'home'])
    expect(names({ type: 'array', items: ref('Museum') })).toEqual(['id*', 'home'])
    expect(names({ anyOf: [ref('Museum'), { type: 'null' }] })).toEqual(['id*', 'home'])
    expect(names({ additionalProperties: ref('Museum') })).toEqual(['…'])
    expect(names({ type: 'string' })).toEqual([])
    const block = (name: string) => ({ properties: { block: { const: name }, text: { type: 'string' } } })
    expect(names({ oneOf: [block('quote'), block('heading')] })).toEqual(['block: "quote"', 'block: "heading"'])
  })

  it('says its limits, and none that everything has', () => {
    expect(limitsOf({ type: 'integer', minimum: 1, maximum: 100 })).toEqual([{ unit: 'number', min: 1, max: 100 }])
    expect(limitsOf({ type: 'string', maxLength: 500 })).toEqual([{ unit: 'characters', min: undefined, max: 500 }])
    expect(limitsOf({ minimum: -(2 ** 53) + 1, maximum: 2 ** 53 - 1 })).toEqual([])
  })
})
