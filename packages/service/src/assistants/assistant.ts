import { Server } from '@modelcontextprotocol/sdk/server/index.js'
import {
  CallToolRequestSchema,
  ErrorCode,
  ListResourcesRequestSchema,
  ListResourceTemplatesRequestSchema,
  ListToolsRequestSchema,
  McpError,
  ReadResourceRequestSchema,
} from '@modelcontextprotocol/sdk/types.js'
import { didYouMean, WisteriaError } from '@wisteria/core'
import type { Site } from '@wisteria/store'
import { z } from 'zod'
import type { Answer } from '../kernel/route.js'
import { readBody } from '../kernel/problems.js'
import { version } from '../kernel/version.js'
import { tools, type ToolCall } from './tools.js'

/** Executes a request as the caller of the assistant: with that caller’s permissions, and recorded as theirs. */
export type Execute = (call: ToolCall) => Promise<Answer>

/** The most characters of an answer: an assistant has to read it all. */
const mostText = 400_000

const textOf = ({ body, text }: Answer): string =>
  text === undefined ? JSON.stringify(body) : typeof text === 'string' ? text : text.toString('utf8')

/** What went wrong, for a program that reads sentences: every problem, with its place. */
const refusalText = ({ code, message, problems }: WisteriaError): string =>
  [`${code}: ${message}`, ...problems.map(({ pointer, message }) => `${pointer ?? ''} ${message}`.trim())]
    .filter((line, index, all) => all.indexOf(line) === index)
    .join('\n')

/** A server of the Model Context Protocol for one caller on one site. */
export function assistantServer(site: Site, execute: Execute): Server {
  const server = new Server(
    { name: 'wisteria', title: `${site.settings.label} on Wisteria`, version },
    {
      capabilities: { tools: {}, resources: {} },
      instructions: `Content of ${site.settings.label}. Read the model first. Entries are changed as drafts; visitors see what is published. Locales: ${site.settings.locales.map(({ tag }) => tag).join(', ')}; default: ${site.settings.defaultLocale}.`,
    },
  )
  server.setRequestHandler(ListToolsRequestSchema, () => ({
    tools: tools.map(({ name, description, reads, input }) => ({
      name,
      description,
      inputSchema: z.toJSONSchema(input) as { type: 'object' },
      annotations: { readOnlyHint: reads, destructiveHint: false, openWorldHint: false },
    })),
  }))
  server.setRequestHandler(CallToolRequestSchema, async ({ params: { name, arguments: given = {} } }) => {
    const tool = tools.find((one) => one.name === name)
    if (!tool) {
      const names = tools.map((one) => one.name)
      throw new McpError(
        ErrorCode.InvalidParams,
        `There is no tool \`${name.slice(0, 60)}\`.${didYouMean(name, names)}`,
      )
    }
    try {
      const text = textOf(await execute(tool.call(readBody(tool.input, given) as never)))
      if (text.length <= mostText) return { content: [{ type: 'text' as const, text }] }
      throw new WisteriaError(
        'tooLarge',
        `The answer has ${text.length} characters, and at most ${mostText} are given. Ask for less: with \`first\`, \`pick\` or \`where\`.`,
      )
    } catch (error) {
      if (!(error instanceof WisteriaError)) throw error
      return { isError: true, content: [{ type: 'text' as const, text: refusalText(error) }] }
    }
  })
  const model = `wisteria://${site.name}/model`
  const entries = `wisteria://${site.name}/entries/`
  server.setRequestHandler(ListResourcesRequestSchema, () => ({
    resources: [
      { uri: model, name: 'model', description: 'The types and fields of the site.', mimeType: 'application/json' },
    ],
  }))
  server.setRequestHandler(ListResourceTemplatesRequestSchema, () => ({
    resourceTemplates: [
      {
        uriTemplate: `${entries}{id}`,
        name: 'entry',
        description: 'The working copy of an entry.',
        mimeType: 'application/json',
      },
    ],
  }))
  server.setRequestHandler(ReadResourceRequestSchema, async ({ params: { uri } }) => {
    const name = uri === model ? 'read_model' : uri.startsWith(entries) ? 'read_entry' : undefined
    const tool = tools.find((one) => one.name === name)
    if (!tool) throw new McpError(ErrorCode.InvalidParams, `There is no resource ${uri.slice(0, 200)}.`)
    const input = name === 'read_entry' ? { id: decodeURIComponent(uri.slice(entries.length)) } : {}
    try {
      const text = textOf(await execute(tool.call(readBody(tool.input, input) as never)))
      return { contents: [{ uri, mimeType: 'application/json', text }] }
    } catch (error) {
      if (!(error instanceof WisteriaError)) throw error
      throw new McpError(ErrorCode.InvalidParams, refusalText(error))
    }
  })
  return server
}
