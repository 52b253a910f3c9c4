import { existsSync, mkdtempSync, readdirSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join, relative } from 'node:path'
import { Reader, Service, type Editor, type WisteriaProblem } from '@wisteria/client'
import { Database } from '@wisteria/store'
import sharp from 'sharp'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { runIn } from './support/commands.js'
import { asFiles, files, refusal } from './support/models.js'
import { picture } from './support/pictures.js'
import { start, startSmall, type SmallSite } from './support/running.js'

let small: SmallSite
let owner: Editor
let folder: string

const problem = (work: () => unknown) => refusal<WisteriaProblem>(work)
const fetched = async (address: string) => {
  const response = await fetch(address)
  const bytes = Buffer.from(await response.arrayBuffer())
  return {
    response,
    bytes,
    image: response.ok
      ? await sharp(bytes)
          .metadata()
          .catch(() => undefined)
      : undefined,
  }
}
/** The colour in the middle of a picture. */
async function middle(bytes: Buffer): Promise<'red' | 'blue' | 'mixed'> {
  const { data, info } = await sharp(bytes).removeAlpha().raw().toBuffer({ resolveWithObject: true })
  const at = (Math.floor(info.height / 2) * info.width + Math.floor(info.width / 2)) * info.channels
  return data[at]! > 200 ? 'red' : data[at + 2]! > 200 ? 'blue' : 'mixed'
}
const raw = (path: string, body: BodyInit, method = 'POST') =>
  fetch(`${small.service.baseUrl}/edit/v1/sites/marram/assets${path}`, {
    method,
    body,
    headers: { Authorization: `Bearer ${small.token}`, 'Content-Type': 'application/octet-stream' },
  })

beforeAll(async () => {
  small = await startSmall({ maxUpload: 2 })
  owner = small.owner
  folder = mkdtempSync(join(tmpdir(), 'wisteria-assets-'))
  const withPicture = { ...files, museum: files.museum + "  picture: { kind: asset, accepts: ['image/*'] }\n" }
  await owner.adoptModel((await owner.compareModel(asFiles(withPicture))).id)
})
afterAll(async () => {
  rmSync(folder, { recursive: true, force: true })
  await small.service.end()
})

describe('adding files', () => {
  it('measures pictures, and goes by their content', async () => {
    const added = await owner.uploadAsset('boat.txt', await picture())
    expect(added).toMatchObject({ name: 'boat.txt', mediaType: 'image/png', width: 400, height: 200 })
    const { response, bytes } = await fetched(added.address)
    expect([response.headers.get('content-type'), bytes.length]).toEqual(['image/png', added.size])
    // Taken sideways, it is as tall as it was wide.
    const sideways = await sharp(Buffer.from(await (await picture()).arrayBuffer()))
      .withMetadata({ orientation: 6 })
      .jpeg()
      .toBuffer()
    const turned = await owner.uploadAsset('sideways.jpg', new Blob([new Uint8Array(sideways)]))
    expect([turned.width, turned.height]).toEqual([200, 400])
  })
  it.each([
    [
      'program.png',
      Buffer.from([0x7f, 0x45, 0x4c, 0x46, 2, 1, 1, 0, 0, 0, 0, 0, 0, 0, 0, 0]),
      415,
      /of a kind that is not accepted/,
    ],
    ['broken.png', Buffer.from('89504e470d0a1a0a0000000d49484452000000ff', 'hex'), 415, /or is damaged/],
    ['empty.txt', Buffer.alloc(0), 400, /is empty/],
    ['big.txt', Buffer.alloc(2_000_001, 'a'), 413, /at most 2 MB/],
    ['a/b.txt', Buffer.from('x'), 400, /without a folder/],
  ])('refuses %s', async (name, content, status, message) => {
    const response = await raw(`/upload?name=${encodeURIComponent(name)}`, new Uint8Array(content))
    const { detail } = (await response.json()) as { detail: string }
    expect([response.status, detail]).toEqual([status, expect.stringMatching(message)])
    expect(readdirSync(join(small.service.folder, 'assets', 'coming'))).toEqual([])
  })
  it('leaves nothing but the drawing in an SVG', async () => {
    const svg = `<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink" viewBox="0 0 40 20" onload="alert(1)">
      <script>alert(2)</script><style>@import url(http://evil.example/x.css)</style>
      <defs><linearGradient id="g"><stop offset="0" stop-color="#123"/></linearGradient></defs>
      <rect width="40" height="20" fill="url(#g)" onclick="alert(3)"/><image href="http://evil.example/x.png"/>
      <a href="javascript:alert(4)"><text x="1" y="9">Sanderling Head</text></a><foreignObject><p>hello</p></foreignObject>
      <use href="#g"/><use xlink:href="http://evil.example/y.svg#z"/><circle r="3" style="background:url(http://evil.example/z)"/></svg>`
    const added = await owner.uploadAsset('map.svg', new Blob([svg]))
    expect(added).toMatchObject({ mediaType: 'image/svg+xml', width: 40, height: 20 })
    const { response, bytes } = await fetched(added.address)
    const clean = bytes.toString()
    expect(clean).not.toMatch(/script|alert|evil|javascript|foreignObject|onload|onclick|@import|hello/i)
    expect(clean).toMatch(/<linearGradient id="g">/)
    expect(clean).toMatch(/viewBox="0 0 40 20"/)
    expect(clean).toMatch(/fill="url\(#g\)"/)
    expect(response.headers.get('content-security-policy')).toContain('sandbox')
    expect(response.headers.get('content-disposition')).toContain('attachment')
  })
})

describe('renditions', () => {
  it('are as large as asked, never larger than the picture, in the format asked for', async () => {
    const { address } = await owner.uploadAsset('boat.png', await picture())
    const sizes = [
      ['?w=96', 96, 48, 'png'],
      ['?w=100', 128, 64, 'png'],
      ['?h=48&format=webp', 96, 48, 'webp'],
      ['?w=1000', 400, 200, 'png'],
      ['?format=jpeg', 400, 200, 'jpeg'],
      ['?w=96&h=96', 96, 48, 'png'],
      ['?w=96&h=96&fit=cover', 96, 96, 'png'],
    ] as const
    for (const [query, width, height, format] of sizes) {
      const { image, response } = await fetched(address + query)
      expect([query, image?.width, image?.height, image?.format]).toEqual([query, width, height, format])
      const again = await fetch(address + query, { headers: { 'If-None-Match': response.headers.get('etag')! } })
      expect(again.status).toBe(304)
    }
  })
  it('are cut around what matters in the picture', async () => {
    const { id, address } = await owner.uploadAsset('boat.png', await picture())
    const cut = async () => middle((await fetched(`${address}?w=50&h=50&fit=cover`)).bytes)
    await owner.changeAsset(id, { focalPoint: { x: 0.1, y: 0.5 } })
    expect(await cut()).toBe('red')
    await owner.changeAsset(id, { focalPoint: { x: 0.9, y: 0.5 } })
    expect(await cut()).toBe('blue')
  })
  it('lie on the disk once made, and no more than so many of each', async () => {
    const { address } = await owner.uploadAsset('boat.png', await picture(390, 200))
    for (let h = 1; h <= 70; h++) expect((await fetch(`${address}?w=240&h=${h}&fit=cover`)).status).toBe(200)
    const base = join(small.service.folder, 'renditions')
    const kept = readdirSync(base).flatMap((name) =>
      readdirSync(join(base, name)).map((hash) => readdirSync(join(base, name, hash)).length),
    )
    expect(Math.max(...kept)).toBe(60)
  })
  it.each([
    ['w=0', /at least 1/],
    ['w=9999', /at most 4000/],
    ['w=ten', /`w` must be a number/],
    ['fit=cover&w=10', /needs `w` and `h`/],
    ['format=bmp', /webp, avif, jpeg, png/],
    ['width=100', /width/],
  ])('refuse ?%s', async (query, message) => {
    const { address } = await owner.uploadAsset('boat.png', await picture())
    const response = await fetch(`${address}?${query}`)
    expect([response.status, ((await response.json()) as { detail: string }).detail]).toEqual([
      400,
      expect.stringMatching(message),
    ])
  })
  it('are of pictures only', async () => {
    const { address } = await owner.uploadAsset('notes.txt', new Blob(['notes']))
    expect((await fetch(`${address}?w=100`)).status).toBe(400)
    const ranged = await fetch(address, { headers: { Range: 'bytes=1-2' } })
    expect([ranged.status, await ranged.text()]).toEqual([206, 'ot'])
  })
})

describe('what is said of a file', () => {
  it('reaches readers in their locale, and tells caches which pages changed', async () => {
    const { id } = await owner.uploadAsset('boat.png', await picture())
    const museum = await owner.create({
      type: 'museum',
      values: { name: { en: 'The Boatyard', nl: 'De werf' }, picture: id },
    })
    await owner.publish(museum.id)
    await owner.changeAsset(id, {
      alt: { en: 'A boat', nl: 'Een boot' },
      caption: { en: 'On the slip' },
      title: { en: 'Boat' },
    })
    const reader = new Reader({ baseUrl: small.service.baseUrl, site: 'marram', token: small.token })
    const shown = async (locale: string) =>
      ((await reader.entry('museum', museum.id, { locale }))!.values as { picture: Record<string, unknown> }).picture
    expect(await shown('nl')).toMatchObject({ alt: 'Een boot', caption: 'On the slip', title: 'Boat' })
    // The address that readers get always means the same bytes; without its version it means those of today.
    const printed = (await shown('nl'))['address'] as string
    expect((await fetch(printed)).headers.get('cache-control')).toBe('public, max-age=31536000, immutable')
    expect((await fetch(printed + 'x')).headers.get('cache-control')).toBe('public, no-cache')
    expect((await fetch(printed.split('?')[0]!)).headers.get('cache-control')).toBe('public, no-cache')
    const { events } = await owner.events(0, 500)
    const told = events.at(-1) as {
      type: string
      subject: string
      data: { affected: { groups: string[]; paths: string[] } }
    }
    expect([told.type, told.subject]).toEqual(['asset.changed', `assets/${id}`])
    expect(told.data.affected.groups).toContain(`a.${id}`)
    expect(told.data.affected.paths).toContain('/museums/the-boatyard')
    await owner.changeAsset(id, { caption: { en: null } })
    expect((await shown('en'))['caption']).toBeNull()
    expect((await owner.assetUsage(id)).usedBy).toMatchObject([{ id: museum.id, inWorkingCopy: true, inPublic: true }])
    expect((await problem(() => owner.deleteAsset(id))).message).toMatch(/Entries use it: “The Boatyard”/)
    expect((await problem(() => owner.changeAsset(id, { alt: { xx: 'no' } }))).message).toMatch(/`xx` is not a locale/)
  })
  it('is found by, and the newest comes first', async () => {
    const { id } = await owner.uploadAsset('unsaid.png', await picture(20, 20))
    await owner.changeAsset(id, { title: { en: 'Samphire at low tide' } })
    expect((await owner.assets({ search: 'tide samphire' })).assets.map((asset) => asset.id)).toEqual([id])
    expect((await owner.assets({ search: 'samphire high' })).assets).toEqual([])
    const { assets, next } = await owner.assets({ first: 1 })
    expect(assets[0]!.id).toBe(id)
    expect((await owner.assets({ first: 1, after: next! })).assets[0]!.id).not.toBe(id)
    expect((await owner.assets({ accepts: 'text/*' })).assets.every((asset) => asset.mediaType === 'text/plain')).toBe(
      true,
    )
  })
  it('is found where a picture has no alternative text in a locale', async () => {
    const { id } = await owner.uploadAsset('unsaid-too.png', await picture(20, 20))
    const notes = await owner.uploadAsset('unsaid.txt', new Blob(['notes']))
    const without = async (locale: string) =>
      (await owner.assets({ withoutAlt: locale })).assets.map((asset) => asset.id)
    expect(await without('nl-BE')).toContain(id)
    expect(await without('nl-BE')).not.toContain(notes.id)
    await owner.changeAsset(id, { alt: { 'nl-BE': 'Een plaatje', nl: 'Een plaatje' } })
    expect(await without('nl-BE')).not.toContain(id)
    expect(await without('en')).toContain(id)
    await owner.changeAsset(id, { alt: { nl: null } })
    expect(await without('nl')).toContain(id)
    expect((await problem(() => owner.assets({ withoutAlt: 'xx' }))).message).toMatch(/`xx` is not a locale/)
  })
})

describe('replacing a file', () => {
  it('keeps its address and its texts', async () => {
    const { id, address } = await owner.uploadAsset('boat.png', await picture())
    await owner.changeAsset(id, { alt: { en: 'A boat' } })
    const before = await fetched(address)
    const replaced = await owner.replaceAsset(id, await picture(100, 100, 'webp'))
    expect(replaced).toMatchObject({ address, alt: { en: 'A boat' }, mediaType: 'image/webp', width: 100 })
    const after = await fetched(address)
    expect([after.image?.width, after.response.headers.get('etag') === before.response.headers.get('etag')]).toEqual([
      100,
      false,
    ])
    expect((await problem(() => owner.replaceAsset(id, new Blob(['words'])))).message).toMatch(
      /replace it with a file of the same kind/,
    )
  })
})

it('files are sent from a data folder that is named from where the service was started', async () => {
  const place = mkdtempSync(join(tmpdir(), 'wisteria-relative-'))
  const small = await startSmall({ data: relative(process.cwd(), place) })
  const { address } = await small.owner.uploadAsset('boat.png', await picture())
  expect((await fetch(address)).status).toBe(200)
  expect((await fetch(`${address}?w=20`)).status).toBe(200)
  await small.service.stop()
  rmSync(place, { recursive: true, force: true })
})

describe('bytes that nothing speaks of', () => {
  it('are deleted once they are a day old, and others stay', async () => {
    const [gone, kept] = [
      await owner.uploadAsset('gone.png', await picture(30, 30)),
      await owner.uploadAsset('kept.png', await picture(32, 32)),
    ]
    await fetch(`${gone.address}?w=10`)
    await owner.deleteAsset(gone.id)
    const base = join(small.service.folder, 'assets')
    const all = () =>
      readdirSync(base)
        .filter((part) => part.length === 2)
        .flatMap((part) => readdirSync(join(base, part)).map((name) => join(base, part, name)))
    const before = all()
    await small.service.stop()
    const database = await Database.open({ file: join(small.service.folder, 'wisteria.db') })
    const old = new Date(Date.now() - 2 * 86_400_000).toISOString()
    await database.write(({ run }) => run('update files set stored_at = ?', [old]))
    await database.close()
    const service = await start({ maxUpload: 2 }, small.service.folder)
    owner = new Service({ baseUrl: service.baseUrl, token: small.token }).site('marram')
    small = { ...small, service, owner }
    // And those of a file that was refused in place of another.
    expect(before.length - all().length).toBe(2)
    expect((await fetched((await owner.asset(kept.id)).address)).image?.width).toBe(32)
  })
})

describe('the command line', () => {
  it('adds, describes, replaces and deletes', async () => {
    const file = join(folder, 'boat.png')
    writeFileSync(file, Buffer.from(await (await picture()).arrayBuffer()))
    const run = (...args: string[]) =>
      runIn(folder, ['asset', ...args], {
        WISTERIA_URL: small.service.baseUrl,
        WISTERIA_SITE: 'marram',
        WISTERIA_TOKEN: small.token,
      })
    const added = await run('add', file, '--alt', 'en=A boat')
    const id = /\((\w{20})\)/.exec(added.out)![1]!
    expect((await run('change', id, '--caption', 'en=On the slip', '--focal', '0.2,0.4')).out).toBe(
      `Changed: boat.png (${id})\n`,
    )
    expect(await owner.asset(id)).toMatchObject({
      alt: { en: 'A boat' },
      caption: { en: 'On the slip' },
      focalPoint: { x: 0.2, y: 0.4 },
    })
    expect((await run('change', id, '--focal', '2,0')).err).toMatch(/two numbers from 0 to 1/)
    expect((await run('change', id)).err).toMatch(/Say what to change/)
    expect((await run('replace', id, file)).out).toMatch(/^Replaced: boat\.png/)
    const listed = (await run('revisions', id)).out
    expect(listed).toMatch(/^REVISION +BY +AT +CHANGED +NAME +SIZE\n3 /)
    expect(listed).toMatch(/caption, focal point/)
    expect((await run('restore', id, '--from', '1')).out).toBe(
      `Restored from revision 1: boat.png (${id}), now revision 4\n`,
    )
    expect((await run('restore', id, '--from', '0')).err).toMatch(/number of a revision, not “0”/)
    expect((await run('restore', id, '--from', '1', '--only', 'alt')).err).toMatch(/--only is file or texts/)
    expect((await run('usage', id)).out).toBe('Nothing holds it.\n')
    expect((await run('add', join(folder, 'none.png'))).err).toMatch(/there is no such file/)
    expect((await run('delete', id)).out).toBe('Deleted.\n')
    expect(existsSync(file)).toBe(true)
  })
})
