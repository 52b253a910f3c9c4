import { Client } from '@modelcontextprotocol/sdk/client/index.js'
import { StdioClientTransport } from '@modelcontextprotocol/sdk/client/stdio.js'
import { StreamableHTTPClientTransport } from '@modelcontextprotocol/sdk/client/streamableHttp.js'
import type { Transport } from '@modelcontextprotocol/sdk/shared/transport.js'
import type { Editor } from '@wisteria/client'
import type { KeyScope } from '@wisteria/core'
import { fileURLToPath } from 'node:url'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { startSmall, type SmallSite } from './support/running.js'

let small: SmallSite
let owner: Editor
let museum: string
const ends: (() => Promise<unknown>)[] = []

beforeAll(async () => {
  small = await startSmall({})
  owner = small.owner
  museum = (await owner.create({ type: 'museum', values: { name: { en: 'Lighthouse' }, town: 'Harle' } })).id
  await owner.publish(museum)
})
afterAll(async () => {
  for (const end of ends) await end()
  await small.service.end()
})

const keyOf = async (scope: KeyScope) => owner.createKey({ label: `Assistant, ${scope}`, scope })
async function connect(transport: unknown): Promise<Client> {
  const client = new Client({ name: 'tests', version: '1' })
  await client.connect(transport as Transport)
  ends.push(() => client.close())
  return client
}
const overHttp = (secret: string, site = 'marram') =>
  connect(
    new StreamableHTTPClientTransport(new URL(`/mcp/v1/${site}`, small.service.baseUrl), {
      requestInit: { headers: { Authorization: `Bearer ${secret}` } },
    }),
  )
/** What a tool answers: parsed where it is JSON. */
async function use(client: Client, name: string, input: Record<string, unknown> = {}) {
  const { content, isError } = await client.callTool({ name, arguments: input })
  const text = (content as { text: string }[]).map((part) => part.text).join('')
  return isError ? { refused: text } : (JSON.parse(text) as Record<string, unknown>)
}

describe('an assistant with a key for drafting', () => {
  let client: Client
  let key: Awaited<ReturnType<typeof keyOf>>
  beforeAll(async () => {
    key = await keyOf('write')
    client = await overHttp(key.secret)
  })

  it('learns what the site is, and what it can do', async () => {
    expect(client.getServerVersion()).toMatchObject({ name: 'wisteria' })
    expect(client.getInstructions()).toMatch(/Read the model first.*default: en/)
    const { tools } = await client.listTools()
    expect(tools.map(({ name, annotations }) => [name, annotations?.readOnlyHint])).toEqual([
      ['read_model', true],
      ['find_entries', true],
      ['read_entry', true],
      ['read_published', true],
      ['create_entry', false],
      ['change_entry', false],
      ['compare_entry', true],
      ['publish_consequences', true],
      ['publish_entry', false],
    ])
    for (const { inputSchema } of tools) expect(inputSchema.type).toBe('object')
  })

  it('reads the model, entries and what is public, also as resources', async () => {
    expect(await use(client, 'read_model')).toMatchObject({ types: expect.any(Array) as unknown[] })
    expect(await use(client, 'find_entries', { type: 'museum', where: 'town = "Harle"' })).toMatchObject({
      entries: [{ id: museum, title: 'Lighthouse' }],
      count: 1,
    })
    expect(await use(client, 'read_entry', { id: museum })).toMatchObject({ values: { town: 'Harle' }, version: 2 })
    expect(await use(client, 'read_published', { type: 'museum', pick: 'name', locale: 'nl' })).toMatchObject({
      entries: [{ values: { name: 'Lighthouse' } }],
    })
    const { resources } = await client.listResources()
    expect(resources.map(({ uri }) => uri)).toEqual(['wisteria://marram/model'])
    const { contents } = await client.readResource({ uri: `wisteria://marram/entries/${museum}` })
    expect(JSON.parse((contents[0] as { text: string }).text)).toMatchObject({ id: museum })
    await expect(client.readResource({ uri: 'wisteria://marram/entries/00000000000000000000' })).rejects.toThrow(
      /notFound/,
    )
    await expect(client.readResource({ uri: 'file:///etc/hosts' })).rejects.toThrow(/There is no resource/)
  })

  it('drafts, compares, weighs, and is refused a publish; what it did is recorded as the key’s', async () => {
    const made = await use(client, 'create_entry', {
      type: 'activity',
      values: { title: { en: 'Night walk' }, slug: { en: 'night-walk' }, format: 'walk' },
    })
    expect(made).toMatchObject({ version: 1 })
    const id = made['id'] as string
    expect(await use(client, 'change_entry', { id, version: 1, values: { price: 5 } })).toMatchObject({ version: 2 })
    expect(await use(client, 'publish_consequences', { id })).toMatchObject({ problems: [] })
    expect(await use(client, 'publish_entry', { id })).toEqual({
      refused: expect.stringMatching(/^forbidden: An access key of scope write does not include this/) as string,
    })
    expect((await owner.entry(id)).states).toMatchObject({ en: 'new' })
    await use(client, 'change_entry', { id: museum, version: 2, values: { town: 'Marram' } })
    expect(await use(client, 'compare_entry', { id: museum })).toMatchObject({ from: 'public', to: 'working' })
    const { events } = await owner.events((await owner.events(0, 1)).sequence - 3, 10)
    expect(events.map(({ type, data }) => [type, (data as { actor: string }).actor])).toEqual([
      ['entry.created', `key:${key.id}`],
      ['entry.saved', `key:${key.id}`],
      ['entry.saved', `key:${key.id}`],
    ])
  })

  it('gets every mistake told, and overwrites nobody', async () => {
    expect(await use(client, 'find_entries', { type: 'museums' })).toEqual({
      refused: expect.stringContaining('Did you mean `museum`?') as string,
    })
    expect(await use(client, 'read_entry', {})).toEqual({ refused: expect.stringMatching(/id/) as string })
    expect(await use(client, 'change_entry', { id: museum, version: 1, values: { town: 'x' } })).toEqual({
      refused: expect.stringMatching(/version|stale|newer/i) as string,
    })
    expect(await use(client, 'create_entry', { type: 'activity', values: { titel: 'x' } })).toEqual({
      refused: expect.stringContaining('/values/titel') as string,
    })
    await expect(client.callTool({ name: 'publish_entrie', arguments: {} })).rejects.toThrow(
      /Did you mean `publish_entry`\?/,
    )
  })
})

it('an assistant with a key for editing publishes, by name', async () => {
  const client = await overHttp((await keyOf('edit')).secret)
  expect(await use(client, 'publish_entry', { id: museum, locales: ['en'] })).toMatchObject({
    states: { en: 'public' },
  })
})

it('a key for what is public reads that, and is refused the rest', async () => {
  const client = await overHttp((await keyOf('published')).secret)
  expect(await use(client, 'read_published', { type: 'museum' })).toMatchObject({ entries: [{ id: museum }] })
  for (const [name, input] of [
    ['read_model', {}],
    ['find_entries', { type: 'museum' }],
    ['create_entry', { type: 'museum', values: {} }],
  ] as const)
    expect(await use(client, name, input)).toEqual({ refused: expect.stringMatching(/^forbidden: /) as string })
})

it('nobody gets in without a key, nor with one of another site', async () => {
  await expect(overHttp('wk_none_x')).rejects.toThrow()
  await expect(overHttp((await keyOf('edit')).secret, 'elsewhere')).rejects.toThrow()
  const address = `${small.service.baseUrl}/mcp/v1/marram`
  expect((await fetch(address, { method: 'POST', body: '{}' })).status).toBe(401)
  const got = await fetch(address)
  expect([got.status, got.headers.get('allow')]).toEqual([405, 'POST'])
})

it('the command passes an assistant’s messages on, over standard input and output', async () => {
  const { secret } = await keyOf('write')
  const transport = new StdioClientTransport({
    command: process.execPath,
    args: [fileURLToPath(new URL('../packages/cli/dist/main.js', import.meta.url)), 'mcp'],
    env: {
      ...(process.env as Record<string, string>),
      WISTERIA_URL: small.service.baseUrl,
      WISTERIA_SITE: 'marram',
      WISTERIA_TOKEN: secret,
    },
    stderr: 'ignore',
  })
  const client = await connect(transport)
  expect((await client.listTools()).tools).toHaveLength(9)
  expect(await use(client, 'read_entry', { id: museum })).toMatchObject({ id: museum })
  expect(await use(client, 'publish_entry', { id: museum })).toMatchObject({ refused: expect.any(String) as string })
})
