import { readFileSync } from 'node:fs'
import { fileURLToPath } from 'node:url'
import type { Reader } from '@wisteria/client'
import { type Editor } from '@wisteria/client'
import { fieldKinds } from '@wisteria/core'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { parse } from 'yaml'
import { asFiles } from './support/models.js'
import { publishedReader, startSmall, type SmallSite } from './support/running.js'

const text = readFileSync(fileURLToPath(new URL('../docs/guides/how-values-are-written.md', import.meta.url)), 'utf8')
const blocks = (language: string): string[] =>
  [...text.matchAll(new RegExp('```' + language + '\\n([^]*?)```', 'g'))].map(([, block]) => block!)
const [sheet, remark, values] = blocks('yaml') as [string, string, string]
const [rest, graphql] = blocks('json') as [string, string]
const [query] = blocks('graphql') as [string]

/** A picture of one pixel. */
const pixel = 'iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mNkYPhfDwAChwGA60e6kgAAAABJRU5ErkJggg=='

let small: SmallSite
let owner: Editor
let reader: Reader
let id: string
let first: string
let asset: string
beforeAll(async () => {
  small = await startSmall()
  owner = small.owner
  await owner.adoptModel((await owner.compareModel(asFiles({ sheet, remark }))).id)
  reader = await publishedReader(small)
  first = (await owner.create({ type: 'sheet', values: { title: { en: 'First sheet' }, level: 'easy' } })).id
  await owner.publish(first)
  asset = (await owner.addAsset({ name: 'lens.png', content: pixel, alt: { en: 'The lens' } })).id
  const written = values.replaceAll('ENTRY', first).replaceAll('ASSET', asset)
  id = (await owner.create({ type: 'sheet', values: parse(written) as Record<string, unknown> })).id
  await owner.publish(id)
})
afterAll(() => small.service.end())

/** An answer with the names of the guide in place of ids and other values that differ between runs. */
const asTold = (answer: unknown): unknown =>
  JSON.parse(
    JSON.stringify(answer, (key, value: unknown) =>
      key === 'address'
        ? '/assets/…'
        : key === 'size'
          ? 100
          : key === 'id' && value !== first && value !== asset
            ? 'ITEM'
            : value,
    )
      .replaceAll(first, 'ENTRY')
      .replaceAll(asset, 'ASSET'),
  )

describe('the guide to values', () => {
  it('has every field kind', () => {
    for (const { name } of fieldKinds) expect(sheet, name).toContain(`kind: ${name}`)
  })
  it('says what readers get over REST', async () => {
    expect(asTold((await reader.entry('sheet', id))!.values)).toEqual(JSON.parse(rest))
  })
  it('says what readers get in GraphQL', async () => {
    expect(asTold(await reader.graphql(query.replace('"ID"', JSON.stringify(id))))).toEqual(JSON.parse(graphql))
  })
})
