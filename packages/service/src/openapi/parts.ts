import { errorCodes, type ErrorCodeName } from '@wisteria/core'
import { z } from 'zod'
import { version } from '../kernel/version.js'

export type Schema = Record<string, unknown>

/** The beginning of both documents. */
export const document = (title: string, description: string, server: string, more: Schema): Schema => ({
  openapi: '3.1.0',
  info: { title, version, description, license: { name: 'Unlicensed', identifier: 'LicenseRef-Unlicensed' } },
  servers: [{ url: server }],
  security: [{ accessKey: [] }],
  ...more,
})

export const accessKey: Schema = {
  type: 'http',
  scheme: 'bearer',
  description: 'An access key, a session token or a preview grant (RFC 6750).',
}

/** Problem details (RFC 9457), as both APIs answer errors. */
export const problemSchema: Schema = {
  title: 'Problem',
  description: 'The problem (RFC 9457).',
  type: 'object',
  properties: {
    type: { type: 'string' },
    title: { type: 'string' },
    status: { type: 'integer' },
    detail: { type: 'string', description: 'A sentence for people.' },
    code: { type: 'string', enum: Object.keys(errorCodes), description: 'Stable, for programs.' },
    requestId: { type: 'string', description: 'Quote it when you report the problem.' },
    problems: {
      type: 'array',
      description: 'Every place that is wrong.',
      items: {
        type: 'object',
        properties: {
          code: { type: 'string' },
          message: { type: 'string' },
          parameters: {
            type: 'object',
            description: 'The values in the message, by name, for its text in another language.',
            additionalProperties: { type: ['string', 'number'] },
          },
          pointer: { type: 'string', description: 'JSON Pointer into the request.' },
          line: { type: 'integer' },
          column: { type: 'integer' },
          locale: { type: 'string' },
        },
        required: ['code', 'message'],
      },
    },
  },
  required: ['type', 'title', 'status', 'detail', 'code', 'requestId'],
}

/** The answers of errors, each once for a document, by the name of their status. */
export const errorResponses: Record<string, Schema> = Object.fromEntries(
  [...new Set(Object.values(errorCodes).map(({ status }) => status))].map((status) => {
    const codes = Object.entries(errorCodes).filter(([, code]) => code.status === status)
    const [first] = codes as unknown as [[string, { title: string }]]
    return [
      `Error${status}`,
      {
        description: codes.map(([code, { title }]) => `${title} (\`${code}\`).`).join(' '),
        content: {
          'application/problem+json': {
            schema: { $ref: '#/components/schemas/Problem' },
            example: {
              type: `urn:wisteria:error:${first[0]}`,
              title: first[1].title,
              status,
              detail: `${first[1].title}.`,
              code: first[0],
              requestId: '01jv9k2m4n6p8q0r2s4t',
            },
          },
        },
      },
    ]
  }),
)

/** The errors of some codes, as an operation's responses. */
export const errors = (...codes: ErrorCodeName[]): Schema =>
  Object.fromEntries(
    codes.map((code) => {
      const { status } = errorCodes[code]
      return [String(status), { $ref: `#/components/responses/Error${status}` }]
    }),
  )

/** A Zod schema as JSON Schema, as it is sent. */
export function schemaOf(schema: z.ZodType): Schema {
  const { $schema: _, ...plain } = z.toJSONSchema(schema, { io: 'input', unrepresentable: 'any' }) as Schema
  return plain
}

/** A Zod schema of an answer. Schemas with an id go into `definitions`, once for the whole document. */
export function answerSchemaOf(schema: z.ZodType, definitions: Record<string, Schema>): Schema {
  const {
    $schema: _,
    $defs,
    ...plain
  } = z.toJSONSchema(schema, { unrepresentable: 'any' }) as Schema & {
    $defs?: Record<string, Schema>
  }
  const moved = (answer: Schema): Schema => {
    const { id, ...rest } = answer
    const content = typeof id === 'string' ? rest : answer
    return JSON.parse(JSON.stringify(content).replaceAll('#/$defs/', '#/components/schemas/')) as Schema
  }
  for (const [name, definition] of Object.entries($defs ?? {})) definitions[name] ??= moved(definition)
  const id = schema.meta()?.id
  if (id === undefined) return moved(plain)
  definitions[id] ??= moved(plain)
  return { $ref: `#/components/schemas/${id}` }
}

/** The parameters of a route: those in its address, and its query as its schema has it. */
export function parametersOf(
  path: string,
  query: z.ZodObject | undefined,
  says: Readonly<Record<string, Schema>> = {},
) {
  const inPath = [...path.matchAll(/\{(\w+)\}/g)].map(([, name]) => ({
    name,
    in: 'path',
    required: true,
    schema: { type: 'string' },
    ...says[name!],
  }))
  const inQuery = Object.entries(query?.shape ?? {}).map(([name, member]) => {
    const { default: otherwise, ...inner } = schemaOf(member as z.ZodType)
    return {
      name,
      in: 'query',
      required: !(member as z.ZodType).safeParse(undefined).success,
      schema: { ...inner, ...(otherwise === undefined ? {} : { default: otherwise }) },
      ...says[name],
    }
  })
  return [...inPath, ...inQuery]
}
