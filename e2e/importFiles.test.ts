import { existsSync } from 'node:fs'
import { createServer, type Server } from 'node:http'
import type { AddressInfo } from 'node:net'
import { join } from 'node:path'
import type { Editor, EntryImportView, WisteriaProblem } from '@wisteria/client'
import { strToU8, zipSync } from 'fflate'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { asFiles, files, refusal } from './support/models.js'
import { picture } from './support/pictures.js'
import { startSmall, type SmallSite } from './support/running.js'

const artefact = `type: artefact
namedBy: name
fields:
  name: { kind: text, required: true }
  number: { kind: text, unique: true }
  picture: { kind: asset, accepts: [image/*] }
  views: { kind: asset, many: true }
`

let small: SmallSite
let owner: Editor
let shop: Server
let address = ''
let asked: string[] = []
const pictures = new Map<string, Buffer>()

beforeAll(async () => {
  small = await startSmall({ maxUpload: 1 })
  owner = small.owner
  await owner.adoptModel((await owner.compareModel(asFiles({ ...files, artefact }))).id)
  for (const [index, name] of ['lens', 'boat', 'mill'].entries())
    pictures.set(name, Buffer.from(await (await picture(10 + 2 * index, 8, 'jpeg')).arrayBuffer()))
  shop = createServer((request, response) => {
    const path = request.url!
    asked.push(path)
    const named = pictures.get(/(\w+)\.jpg/.exec(path)?.[1] ?? '')
    if (path.startsWith('/moved/')) response.writeHead(302, { Location: path.replace('/moved', '') }).end()
    else if (path === '/circle') response.writeHead(302, { Location: '/circle' }).end()
    else if (path === '/elsewhere') response.writeHead(302, { Location: 'ftp://shop.example/a.jpg' }).end()
    else if (path === '/large.jpg') response.writeHead(200).end(Buffer.alloc(2_000_000, 1))
    else if (path === '/broken.jpg') response.writeHead(200, { 'Content-Length': '5000' }).write('x')
    else if (path === '/words.jpg') response.writeHead(200).end('Just words.')
    else if (named) response.writeHead(200, { 'Content-Type': 'text/html' }).end(named)
    else response.writeHead(404).end()
    if (path === '/broken.jpg') setTimeout(() => request.socket.destroy(), 30)
  })
  await new Promise<void>((resolve) => shop.listen(0, '127.0.0.1', resolve))
  address = `http://127.0.0.1:${(shop.address() as AddressInfo).port}`
})
afterAll(async () => {
  await small.service.end()
  shop.closeAllConnections()
  await new Promise<void>((resolve) => shop.close(() => resolve()))
})

const zip = (parts: Readonly<Record<string, Uint8Array>>): Blob => new Blob([zipSync({ ...parts })])
const read = (lines: readonly string[]) =>
  owner.imports.read(new Blob([`number,name,picture\n${lines.join('\n')}\n`]), {
    name: 'artefacts.csv',
    type: 'artefact',
  })
const withKey = async (read: EntryImportView): Promise<string> =>
  (await owner.imports.setMapping(read.id, { ...read.mapping!, key: 'number' })).id
const finish = async (id: string, work: 'check' | 'run' | 'undo'): Promise<EntryImportView> => {
  await owner.waitFor(await owner.imports[work](id))
  return owner.imports.get(id)
}
const failures = async (id: string) =>
  (await owner.imports.rows(id, { outcome: 'failed', first: 500 })).rows.map(
    ({ line, problems }) => `${line}: ${problems.map(({ column, message }) => `${column}: ${message}`).join(' ')}`,
  )
const countAssets = async () => (await owner.assets({ first: 100 })).assets.length
const pictureOf = async (number: string) => {
  const { entries } = await owner.entries({ type: 'artefact', where: `number = "${number}"` })
  const id = (await owner.entry(entries[0]!.id)).values['picture'] as string
  return owner.asset(id)
}

describe('pictures by their addresses', () => {
  const lines = () => [
    `A-1,Lens,${address}/lens.jpg`,
    `A-2,Boat,${address}/moved/boat.jpg`,
    `A-3,Lens again,${address}/lens.jpg`,
    'A-4,Without,',
  ]

  it('are fetched once each and become files; importing again changes nothing', async () => {
    asked = []
    const before = await countAssets()
    const id = await withKey(await read(lines()))
    const { rows } = await owner.imports.preview(id)
    expect(rows.map(({ outcome }) => outcome)).toEqual(['created', 'created', 'created', 'created'])
    expect(asked).toEqual([])

    expect((await finish(id, 'check')).outcomes).toEqual({ created: 4 })
    expect(await countAssets()).toBe(before)
    expect((await finish(id, 'run')).outcomes).toEqual({ created: 4 })
    expect(asked.filter((path) => path === '/lens.jpg')).toHaveLength(1)
    expect(await countAssets()).toBe(before + 2)
    expect(await pictureOf('A-1')).toMatchObject({ name: 'lens.jpg', mediaType: 'image/jpeg', width: 10, height: 8 })
    expect((await pictureOf('A-3')).id).toBe((await pictureOf('A-1')).id)
    expect((await pictureOf('A-2')).name).toBe('boat.jpg')

    const again = await withKey(await read(lines()))
    expect((await finish(again, 'check')).outcomes).toEqual({ unchanged: 4 })
    expect((await finish(again, 'run')).outcomes).toEqual({ unchanged: 4 })
    expect(await countAssets()).toBe(before + 2)
  })

  it('that cannot be had are told at the check, with row and column, and tried again the next time', async () => {
    const before = await countAssets()
    const { id } = await read([
      `B-1,Gone,${address}/gone.jpg`,
      `B-2,Circle,${address}/circle`,
      `B-3,Elsewhere,${address}/elsewhere`,
      `B-4,Large,${address}/large.jpg`,
      `B-5,Words,${address}/words.jpg`,
      `B-6,Broken,${address}/broken.jpg`,
      'B-7,Nobody,http://127.0.0.1:1/x.jpg',
      `B-8,Good,${address}/mill.jpg`,
    ])
    expect((await finish(id, 'check')).outcomes).toEqual({ created: 1, failed: 7 })
    const told = await failures(id)
    for (const [index, message] of [
      'It answered with status 404.',
      'It redirects more than 4 times.',
      'must begin with https:// or http://',
      'is too large: a file has at most 1 MB',
      'is text/plain; the field takes image/*',
      'It broke off',
      'It cannot be reached',
    ].entries())
      expect(told[index]).toMatch(new RegExp(`^${index + 2}: picture: .*${message.replace(/[.*/]/g, '\\$&')}`))

    pictures.set('gone', pictures.get('lens')!)
    expect((await finish(id, 'run')).outcomes).toEqual({ created: 2, failed: 6 })
    expect(await countAssets()).toBe(before + 1)
  })

  it('on private networks are refused, unless the operator allows them', async () => {
    const strict = await startSmall({ allowPrivateAddresses: false })
    await strict.owner.adoptModel((await strict.owner.compareModel(asFiles({ ...files, artefact }))).id)
    const { id } = await strict.owner.imports.read(
      new Blob([`number,name,picture\nC-1,Lens,${address}/lens.jpg\nC-2,Name,http://localhost:1/lens.jpg\n`]),
      { type: 'artefact' },
    )
    asked = []
    await strict.owner.waitFor(await strict.owner.imports.check(id))
    const { rows } = await strict.owner.imports.rows(id, { outcome: 'failed' })
    expect(rows.map(({ problems }) => problems[0]!.message)).toEqual([
      expect.stringContaining('is on a private network') as string,
      expect.stringContaining('is on a private network') as string,
    ])
    expect(asked).toEqual([])
    await strict.service.end()
  })
})

describe('files in a ZIP file', () => {
  it('are found by path, or by name where only one has it', async () => {
    const before = await countAssets()
    const id = await withKey(
      await read([
        'D-1,Lens,pictures/lens.jpg',
        'D-2,Boat,boat.jpg',
        'D-3,Mill,mill.jpg',
        'D-4,None,pictures/none.jpg',
        'D-5,Folder,pictures/',
      ]),
    )
    const archive = zip({
      'pictures/lens.jpg': pictures.get('lens')!,
      'pictures/boat.jpg': pictures.get('boat')!,
      'old/mill.jpg': pictures.get('mill')!,
      'new/mill.jpg': pictures.get('mill')!,
      'unused.txt': strToU8('Nobody names it.'),
    })
    expect(await owner.imports.setFiles(id, archive)).toMatchObject({ files: 5, state: 'read' })
    const { rows } = await owner.imports.preview(id)
    expect(rows.map(({ outcome }) => outcome)).toEqual(['created', 'created', 'created', 'failed', 'failed'])
    expect((await finish(id, 'run')).outcomes).toEqual({ created: 2, failed: 3 })
    expect(await failures(id)).toEqual([
      expect.stringContaining('The ZIP file has several files of this name. Say the path.') as string,
      expect.stringContaining('There is no file `pictures/none.jpg` on this site.') as string,
      expect.stringContaining('There is no file `pictures/` on this site.') as string,
    ])
    expect((await pictureOf('D-1')).name).toBe('lens.jpg')
    // They were here already, from their addresses.
    expect(await countAssets()).toBe(before)
    const zipped = join(small.service.folder, 'imports', `${id}.zip`)
    expect(existsSync(zipped)).toBe(true)
    await owner.imports.remove(id)
    expect(existsSync(zipped)).toBe(false)
  })

  it('that are several in a cell', async () => {
    const { id } = await owner.imports.read(
      new Blob([JSON.stringify([{ number: 'E-1', name: 'Both', views: ['lens.jpg', `${address}/boat.jpg`] }])]),
      { name: 'artefacts.json', type: 'artefact' },
    )
    await owner.imports.setFiles(id, zip({ 'lens.jpg': pictures.get('lens')! }))
    expect((await finish(id, 'run')).outcomes).toEqual({ created: 1 })
    const { entries } = await owner.entries({ type: 'artefact', where: 'number = "E-1"' })
    expect((await owner.entry(entries[0]!.id)).values['views']).toHaveLength(2)
  })

  it('are refused where it is none, and replaced by another', async () => {
    const { id } = await read(['F-1,Lens,keeper.jpg'])
    for (const [file, message] of [
      [new Blob(['no zip']), 'no ZIP file'],
      [new Blob([]), 'no ZIP file'],
      [zip({}), 'has no files'],
    ] as const) {
      const refused = await refusal<WisteriaProblem>(() => owner.imports.setFiles(id, file))
      expect([refused.status < 500, refused.message]).toEqual([true, expect.stringContaining(message)])
    }
    expect((await owner.imports.get(id)).files).toBe(null)
    await owner.imports.setFiles(id, zip({ 'other.jpg': pictures.get('boat')! }))
    expect((await finish(id, 'check')).outcomes).toEqual({ failed: 1 })
    await owner.imports.setFiles(id, zip({ 'keeper.jpg': pictures.get('boat')! }))
    expect((await finish(id, 'check')).outcomes).toEqual({ created: 1 })
    await owner.imports.setFiles(id, zip({ 'keeper.jpg': pictures.get('mill')! }))
    expect((await finish(id, 'run')).outcomes).toEqual({ created: 1 })
    expect(await pictureOf('F-1')).toMatchObject({ width: 14 })
    const late = await refusal<WisteriaProblem>(() => owner.imports.setFiles(id, zip({ 'a.txt': strToU8('a') })))
    expect(late.status).toBe(409)
  })
})
