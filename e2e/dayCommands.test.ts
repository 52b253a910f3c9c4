import { mkdtempSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import type { Editor } from '@wisteria/client'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { runIn } from './support/commands.js'
import { startSmall, type SmallSite } from './support/running.js'

let small: SmallSite
let owner: Editor
let folder: string

const run = (...args: string[]) => runWith({}, ...args)
const runWith = (more: Record<string, string>, ...args: string[]) =>
  runIn(folder, args, {
    WISTERIA_URL: small.service.baseUrl,
    WISTERIA_SITE: 'marram',
    WISTERIA_TOKEN: small.token,
    ...more,
  })
let people = 0
const person = async (values: Record<string, unknown> = {}) =>
  (await owner.create({ type: 'person', values: { name: `Person ${++people}`, ...values } })).id
/** An editor that changes the file by a `sed` command. */
const editorThat = (command: string) => ({ VISUAL: '', EDITOR: `sed -i -e '${command}'` })

beforeAll(async () => {
  small = await startSmall()
  owner = small.owner
  folder = mkdtempSync(join(tmpdir(), 'wisteria-commands-'))
})
afterAll(async () => {
  rmSync(folder, { recursive: true, force: true })
  await small.service.end()
})

describe('entry edit', () => {
  it('saves only what was changed in the editor', async () => {
    const id = await person({ born: '1901-02-03' })
    const result = await runWith(editorThat('s/1901/1902/'), 'entry', 'edit', id)
    expect([result.code, result.out]).toEqual([0, expect.stringMatching(/^Saved born: Person/)])
    expect((await owner.entry(id)).values).toMatchObject({ born: '1902-02-03' })
    const { events } = await owner.events(0, 500)
    expect((events.at(-1)!['data'] as { fields: string[] }).fields).toEqual(['born'])
  })
  it('makes a value missing whose line is removed', async () => {
    const id = await person({ born: '1901-02-03' })
    await runWith(editorThat('/born/d'), 'entry', 'edit', id)
    expect(Object.keys((await owner.entry(id)).values)).toEqual(['name'])
  })
  it('changes nothing when nothing was changed, or the editor gives up', async () => {
    const id = await person()
    expect((await runWith(editorThat(''), 'entry', 'edit', id)).out).toBe('Nothing was changed.\n')
    const failed = await runWith({ VISUAL: '', EDITOR: 'false' }, 'entry', 'edit', id)
    expect([failed.code, failed.err]).toEqual([2, expect.stringMatching(/Nothing was saved/)])
    expect((await runWith({ VISUAL: '', EDITOR: '' }, 'entry', 'edit', id)).err).toMatch(/Set EDITOR/)
    expect((await owner.entry(id)).version).toBe(1)
  })
  it('keeps what was written where it cannot be saved, and says where', async () => {
    const id = await person({ born: '1901-02-03' })
    const bad = await runWith(editorThat('s/1901-02-03/soon/'), 'entry', 'edit', id)
    expect([bad.code, bad.err]).toEqual([3, expect.stringMatching(/What you wrote is kept in (\S+)\./)])
    const unread = await runWith(editorThat('s/name:/name: [/'), 'entry', 'edit', id)
    expect([unread.code, unread.err]).toEqual([2, expect.stringMatching(/kept in/)])
    for (const { err } of [bad, unread]) rmSync(join(/kept in (\S+)\./.exec(err)![1]!, '..'), { recursive: true })
  })
  it('does not write over what somebody changed meanwhile at the same place', async () => {
    const id = await person({ born: '1901-02-03' })
    const other = join(folder, 'meanwhile.sh')
    const body = JSON.stringify({ base: 1, edits: [{ do: 'set', at: ['born'], value: '1800-01-01' }] })
    const post = `fetch('${small.service.baseUrl}/edit/v1/sites/marram/entries/${id}/edits', { method: 'POST', body: '${body}', headers: { Authorization: 'Bearer ${small.token}', 'Content-Type': 'application/json' } })`
    writeFileSync(
      other,
      `${JSON.stringify(process.execPath)} -e ${JSON.stringify(post)}\nsed -i -e 's/1901/1902/' "$1"\n`,
    )
    const result = await runWith({ VISUAL: '', EDITOR: `sh ${other}` }, 'entry', 'edit', id)
    expect([result.code, result.err]).toEqual([2, expect.stringMatching(/Somebody changed born meanwhile/)])
    expect((await owner.entry(id)).values['born']).toBe('1800-01-01')
    rmSync(join(/kept in (\S+)\./.exec(result.err)![1]!, '..'), { recursive: true })
  })
})

describe('schedules', () => {
  it('are made, listed, changed and cancelled', async () => {
    const id = await person()
    const result = await run('entry', 'publish', id, '--at', '2036-03-12T09:00', '--zone', 'Asia/Tokyo')
    expect(result.out).toMatch(/^Scheduled: publish “Person \d+” at 12 Mar 2036, 09:00 \(Asia\/Tokyo\)\. Schedule/)
    const schedule = /Schedule (\w{20})/.exec(result.out)![1]!
    expect((await run('schedule', 'list', id)).out).toContain(schedule)
    const moved = await run('schedule', 'change', schedule, '--at', '2036-04-01T09:00Z', '--json')
    expect(moved.json()['at']).toBe('2036-04-01T09:00:00.000Z')
    expect((await run('schedule', 'cancel', schedule)).out).toBe(`Cancelled: ${schedule}\n`)
    expect((await run('schedule', 'list')).out).toBe('Nothing is scheduled.\n')
    expect((await run('schedule', 'list', '--ended')).out).toContain('cancelled')
    const past = await run('entry', 'publish', id, '--at', '2001-01-01T09:00Z')
    expect([past.code, past.err]).toEqual([3, expect.stringMatching(/has passed/)])
  })
})

describe('bulk actions', () => {
  it('are tried, done and undone', async () => {
    for (const name of ['Quill', 'Quinn', 'Quist']) await owner.create({ type: 'person', values: { name } })
    const where = ['--type', 'person', '--where', 'name starts with "Qui"']
    const tried = await run('entry', 'bulk', 'publish', ...where, '--dry-run')
    expect(tried.out).toMatch(/3 entries, ([1-3]) checked: \1 would change, 0 would be refused\. Nothing was changed\./)
    const done = await run('entry', 'bulk', 'publish', ...where)
    expect(done.out).toMatch(/^3 done\. To undo it: wisteria job undo/m)
    const job = /undo (\w{20})/.exec(done.out)![1]!
    expect((await run('job', 'show', job)).out).toMatch(/^done, 3 of 3: publish: 3 done\./)
    expect((await run('job', 'undo', job)).err).toMatch(/3 done\./)
    const born = join(folder, 'born.yaml')
    writeFileSync(born, 'born: 1950-05-05\n')
    const edited = await run('entry', 'bulk', 'edit', ...where, '--file', born, '--json')
    expect([edited.code, edited.json()['message']]).toEqual([0, '3 done.'])
    const list = await run('entry', 'list', 'person', '--where', 'born = 1950-05-05', '--json')
    expect(list.json<{ entries: unknown[] }>().entries.length).toBe(3)
    expect((await run('entry', 'bulk', 'edit', ...where)).err).toMatch(/needs --file/)
    expect((await run('entry', 'bulk', 'publish')).err).toMatch(/Say which entries/)
  })
  it('are done on a saved view', async () => {
    await run('view', 'save', 'Qs', '--type', 'person', '--where', 'name starts with "Qui"', '--shared')
    expect((await run('view', 'list')).out).toMatch(/Qs +person +name starts with "Qui" +yes/)
    expect((await run('entry', 'list', '--view', 'Qs')).out).toMatch(/\n3 entries\./)
    expect((await run('entry', 'bulk', 'duplicate', '--view', 'Qs', '--dry-run')).out).toMatch(
      /3 entries, [1-3] checked/,
    )
    expect((await run('entry', 'list', '--view', 'Zs')).err).toMatch(/There is no saved view “Zs”/)
    expect((await run('view', 'delete', 'Qs')).out).toBe('Deleted: Qs\n')
  })
})

describe('archiving and deleting', () => {
  it('archives, reactivates, deletes and restores', async () => {
    const id = await person()
    expect((await run('entry', 'archive', id)).out).toMatch(/^Archived: .*en archived/)
    expect((await run('entry', 'reactivate', id)).out).toMatch(/^Reactivated: /)
    expect((await run('entry', 'delete', id)).out).toMatch(/^In the bin: \w+\. To restore it/)
    expect((await run('entry', 'bin')).out).toContain(id)
    expect((await run('entry', 'restore', id)).out).toMatch(/^Restored/)
    await run('entry', 'delete', id)
    expect((await run('entry', 'delete', id, '--permanently')).out).toBe(`Deleted permanently: ${id}\n`)
    expect((await run('entry', 'bin')).out).toBe('The bin is empty.\n')
  })
})
