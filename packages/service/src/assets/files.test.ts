import { mkdirSync, mkdtempSync, readdirSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { Readable } from 'node:stream'
import { changeAsset, Database, deleteAsset, insertAsset, insertSite, type Asset } from '@wisteria/store'
import { afterEach, beforeEach, describe, expect, it } from 'vitest'
import type { Kernel } from '../kernel/kernel.js'
import { blobsOf } from './blobs.js'
import { forgetFiles, keepFile, tidyFolder } from './files.js'

const day = 86_400_000
let folder: string
let database: Database
let kernel: Kernel
beforeEach(async () => {
  folder = mkdtempSync(join(tmpdir(), 'wisteria-files-'))
  database = await Database.open({ file: join(folder, 'wisteria.db') })
  const settings = { label: 'Test', defaultLocale: 'en', locales: [], timeZone: 'UTC' }
  await database.write((transaction) =>
    insertSite(transaction, { id: 's', name: 'test', epoch: 'e', settings }, '2031-01-01', 'a'),
  )
  kernel = {
    database,
    options: { data: folder, maxUpload: 1 },
    now: Date.now(),
    get at(): string {
      return new Date((this as unknown as Kernel).now).toISOString()
    },
    environment: { now: Date.now, random: (bytes: number) => new Uint8Array(bytes) },
    write: (work: Parameters<Database['write']>[0]) => database.write(work),
  } as unknown as Kernel
})
afterEach(async () => {
  await database.close()
  rmSync(folder, { recursive: true })
})

const later = (milliseconds: number): Kernel =>
  Object.assign(Object.create(kernel) as Kernel, { now: Date.now() + milliseconds })
const keep = (text: string) => keepFile(kernel, 'notes.txt', Readable.from([Buffer.from(text)]))
async function hold(hash: string): Promise<Asset> {
  const asset: Asset = {
    id: hash.slice(0, 20),
    site: 's',
    name: 'notes.txt',
    mediaType: 'text/plain',
    size: 1,
    hash,
    width: null,
    height: null,
    alt: {},
    title: {},
    caption: {},
    focalPoint: null,
    origins: null,
    createdAt: '2031',
    createdBy: 'a',
    updatedAt: '2031',
    revision: 1,
  }
  await database.write((transaction) => insertAsset(transaction, asset))
  return asset
}

describe('files that no asset holds', () => {
  it('are deleted a day after they were stored, and not before', async () => {
    const { hash } = await keep('alone')
    const stored = await keep('held')
    await hold(stored.hash)
    expect(await forgetFiles(later(day / 2))).toBe(0)
    expect(await forgetFiles(later(2 * day))).toBe(1)
    expect(await blobsOf(kernel).stat(hash)).toBeUndefined()
    expect(await blobsOf(kernel).stat(stored.hash)).toMatchObject({ size: 4 })
    expect(await forgetFiles(later(2 * day))).toBe(0)
  })

  it('are not those that an asset was in an earlier revision', async () => {
    const [first, second] = [await keep('first'), await keep('second')]
    const asset = await hold(first.hash)
    await database.write((transaction) => changeAsset(transaction, asset, { hash: second.hash }, '2031', 'a'))
    expect(await forgetFiles(later(2 * day))).toBe(0)
    await database.write((transaction) => deleteAsset(transaction, asset.id))
    expect(await forgetFiles(later(2 * day))).toBe(2)
  })

  it('are kept when they are stored again: the day begins anew', async () => {
    const { hash } = await keep('again')
    await keepFile(later(2 * day), 'notes.txt', Readable.from([Buffer.from('again')]))
    expect(await forgetFiles(later(2.5 * day))).toBe(0)
    expect(await blobsOf(kernel).stat(hash)).toBeDefined()
  })
})

it('a start deletes what uploads left half done, and notes files of an earlier version once', async () => {
  mkdirSync(join(folder, 'assets', 'coming'), { recursive: true })
  writeFileSync(join(folder, 'assets', 'coming', 'x'), 'half')
  mkdirSync(join(folder, 'assets', 'ab'))
  writeFileSync(join(folder, 'assets', 'ab', 'abcd'), 'left by an earlier version')
  await tidyFolder(kernel, false)
  expect(readdirSync(join(folder, 'assets'))).not.toContain('coming')
  expect(await forgetFiles(later(2 * day))).toBe(1)
  expect(await blobsOf(kernel).stat('abcd')).toBeUndefined()
})

it('a start after a restore notes files that were uploaded since the copy was made', async () => {
  await tidyFolder(kernel, false)
  mkdirSync(join(folder, 'assets', 'cd'), { recursive: true })
  writeFileSync(join(folder, 'assets', 'cd', 'cdef'), 'uploaded since')
  await tidyFolder(kernel, false)
  expect(await forgetFiles(later(2 * day))).toBe(0)
  await tidyFolder(kernel, true)
  expect(await forgetFiles(later(2 * day))).toBe(1)
})

it('a part of a file can be read', async () => {
  const { hash } = await keep('lighthouse')
  const parts: Buffer[] = []
  for await (const part of blobsOf(kernel).read(hash, { start: 5, end: 9 })) parts.push(part as Buffer)
  expect(Buffer.concat(parts).toString()).toBe('house')
})
