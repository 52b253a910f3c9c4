import { spawn } from 'node:child_process'
import { mkdirSync, mkdtempSync, readFileSync, rmSync, statSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { modelFolder, demoPassword } from '@wisteria/demo'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { program, runIn } from './support/commands.js'
import { startDemo, type DemoWorld } from './support/running.js'

const folder = mkdtempSync(join(tmpdir(), 'wisteria-cli-'))
let demo: DemoWorld

const run = (args: string[], environment?: Record<string, string>, input?: string) =>
  runIn(folder, args, environment, input)

const as = (email: string, ...more: string[]) =>
  run(['connect', demo.service.baseUrl, '--email', email, ...more], { WISTERIA_PASSWORD: demoPassword })

beforeAll(async () => {
  demo = await startDemo()
  const connected = await as('maren@marram.example')
  expect([connected.code, connected.err]).toEqual([0, ''])
})
afterAll(async () => {
  await demo.service.end()
  rmSync(folder, { recursive: true, force: true })
})

describe('connect', () => {
  it('keeps the connection for its owner alone, and no password', () => {
    const file = join(folder, 'wisteria', 'connection.json')
    expect(statSync(file).mode & 0o777).toBe(0o600)
    expect(readFileSync(file, 'utf8')).not.toContain(demoPassword)
  })
  it('connects with a key as well', async () => {
    const result = await run(['connect', demo.service.baseUrl, '--key', '--site', 'marram', '--json'], {
      WISTERIA_TOKEN: demo.seeded.keys.edit,
      XDG_CONFIG_HOME: join(folder, 'key'),
    })
    expect(result.json()).toMatchObject({ site: 'marram' })
    expect(
      (await run(['entry', 'list', 'museum', '--json'], { XDG_CONFIG_HOME: join(folder, 'key') })).json<{
        count: number
      }>().count,
    ).toBe(3)
  })
  it.each([
    [['connect', 'nowhere', '--email', 'x'], 2, /not an address/],
    [['connect', 'http://127.0.0.1:1', '--email', 'x@y.example'], 7, /cannot be reached/],
    [['connect', 'http://127.0.0.1:1'], 2, /Name your account/],
  ])('says what is wrong: %j', async (args, code, message) => {
    const result = await run(args, { WISTERIA_PASSWORD: 'x' })
    expect([result.code, result.err]).toEqual([code, expect.stringMatching(message)])
  })
  it('says so when nothing is connected', async () => {
    const result = await run(['entry', 'list', 'museum'], { XDG_CONFIG_HOME: join(folder, 'none') })
    expect([result.code, result.err]).toEqual([2, expect.stringMatching(/Run `wisteria connect URL`/)])
  })
})

describe('model', () => {
  it('compares files that are adopted already as no change', async () => {
    const result = await run(['model', 'compare', modelFolder])
    expect([result.code, result.out]).toEqual([0, expect.stringMatching(/^No change/)])
    expect((await run(['model', 'adopt', modelFolder, '--json'])).json()).toEqual({ version: 1, consequences: [] })
  })
  it('shows consequences, and adopts what breaks something only when told to', async () => {
    const written = join(folder, 'model')
    mkdirSync(written)
    const { files } = (await run(['model', 'show', '--json'])).json<{ files: { name: string; text: string }[] }>()
    for (const { name, text } of files) writeFileSync(join(written, name.split('/').at(-1)!), text)
    const museum = join(written, 'museum.yaml')
    const before = readFileSync(museum, 'utf8')
    writeFileSync(
      museum,
      before
        .replace('town: ', 'village: ')
        .replace(/^ {2}summary:.*\n/m, '')
        .replace(
          "{ kind: text, required: true, help: 'The place",
          "{ kind: text, was: town, required: true, help: 'The place",
        ) + '\n  phone: { kind: text }\n',
    )
    const compared = await run(['model', 'compare', written])
    expect(compared.code).toBe(8)
    expect(compared.out).toMatch(/breaking +museum.summary +The field goes/)
    expect(compared.out).toMatch(/museum.village +Renamed from `town`: every value is kept/)
    expect(compared.out).toMatch(/3 entries hold a value in it/)
    expect(compared.out).toMatch(/museum.phone +New field/)
    expect((await run(['model', 'adopt', written])).code).toBe(2)
    expect((await run(['model', 'adopt', written, '--breaking', '--json'])).json()).toMatchObject({ version: 2 })
    expect(
      (await run(['query', 'museum', '--where', 'village = "Greyflats" and town = "Greyflats"', '--json'])).json<{
        entries: unknown[]
      }>().entries,
    ).toHaveLength(1)
    writeFileSync(museum, before.replace('kind: text', 'kind: txt'))
    const wrong = await run(['model', 'compare', written])
    expect([wrong.code, wrong.err]).toEqual([
      3,
      expect.stringMatching(/museum\.yaml:\d+:\d+: `fields\.name\.kind` names no field kind\. Did you mean `text`\?/),
    ])
    expect((await run(['model', 'compare', join(folder, 'nothing')])).err).toMatch(/there is no such folder/)
    expect((await run(['model', 'adopt', modelFolder, '--breaking', '--json'])).code).toBe(0)
  })
})

describe('entry', () => {
  it('creates, changes, publishes, withdraws and deletes', async () => {
    const file = join(folder, 'person.yaml')
    writeFileSync(file, 'name: Nel Zeeraket\nrole: { en: Gardener, nl: Tuinier }\n')
    const created = await run(['entry', 'create', 'person', '--file', file, '--json'])
    const { id } = created.json<{ id: string }>()
    expect((await run(['entry', 'show', id])).out).toMatch(/Nel Zeeraket\nperson .*version 1/)
    const changed = await run(['entry', 'change', id, '--file', '-'], {}, 'role: { en: Head gardener }')
    expect(changed.out).toMatch(/^Changed: Nel Zeeraket .* version 2: en new/)
    const dry = await run(['entry', 'publish', id, '--dry-run'])
    expect(dry.code).toBe(0)
    expect(dry.out).toMatch(
      /Publishing en, nl of version 2:[^]*Role +en +\(empty\) +Head gardener[^]*path in en: \(none\) -> \/people\/nel-zeeraket/,
    )
    expect((await run(['entry', 'publish', id, '--locales', 'en'])).out).toMatch(/^Published: .*en public, nl new/)
    expect((await run(['entry', 'publish', id, '--at-version', '1'])).code).toBe(6)
    // A pipeline learns by the exit code whether there are blocking problems.
    const nameless = await run(['entry', 'create', 'person', '--file', '-', '--json'], {}, 'role: { en: Guide }')
    const other = nameless.json<{ id: string }>().id
    const blocked = await run(['entry', 'publish', other, '--dry-run'])
    await run(['entry', 'delete', other])
    expect([blocked.code, blocked.out]).toEqual([9, expect.stringMatching(/blocking: Name is empty/) as string])
    expect((await run(['query', '--path', '/people/nel-zeeraket'])).json()).toMatchObject({ entry: { id } })
    expect((await run(['entry', 'delete', id])).code).toBe(6)
    expect((await run(['entry', 'withdraw', id])).out).toMatch(/^Withdrawn: .*en withdrawn/)
    expect((await run(['entry', 'delete', id, '--json'])).json()).toEqual({ deleted: id })
    expect((await run(['entry', 'show', id])).code).toBe(5)
  })
  it('lists with states, by condition', async () => {
    const result = await run(['entry', 'list', 'activity', '--where', 'entry.state = "withdrawn"'])
    expect(result.out).toMatch(
      /TITLE +EN +NL +NL-BE +AR +ID +CHANGED\nThe Night of the Four Wrecks +withdrawn +withdrawn +new +new/,
    )
  })
  it('names every place that is wrong', async () => {
    const id = (await run(['entry', 'list', 'page', '--where', 'entry.state = "new"', '--json'])).json<{
      entries: { id: string }[]
    }>().entries[0]!.id
    const patch = await run(['entry', 'change', id, '--file', '-'], {}, 'titel: x\nbody: [{ block: nope }]')
    expect(patch.code).toBe(3)
    expect(patch.err).toMatch(
      /2 values are missing or wrong\.\n {2}\/values\/body\/0\/block: .*\n {2}\/values\/titel: .*Did you mean `title`/,
    )
    const refused = await run(['entry', 'publish', id, '--locales', 'ar', '--json'])
    expect([
      refused.code,
      refused.json<{ error: { problems: { pointer: string }[] } }>().error.problems[0]?.pointer,
    ]).toEqual([3, '/values/title/ar'])
  })
})

describe('query', () => {
  it('has a column for what is picked of a reference or a group', async () => {
    const { out } = await run([
      'query',
      'activity',
      '--pick',
      'title, museum(name), meetingPoint(latitude)',
      '--where',
      'meetingPoint has value',
    ])
    expect(out.split('\n')[0]).toMatch(/^TITLE +MUSEUM\.NAME +MEETINGPOINT\.LATITUDE +PATH$/)
    expect(out).toContain('The Lighthouse at Sanderling Head')
    expect(out).not.toContain('{')
  })
  it('prints tables, and JSON when asked', async () => {
    const result = await run(['query', 'activity', '--where', 'format = "concert"', '--sort', 'starts', '--count'])
    expect(result.out).toMatch(/^TITLE[^]*Driftwood Strings[^]*Songs on the Stair[^]*\n2 entries\.\n/)
    expect((await run(['query', '--graphql', '{ museums { count } }'])).json()).toEqual({ museums: { count: 3 } })
    expect(
      (await run(['query', 'person', '--edition', 'draft', '--count', '--json'])).json<{ count: number }>().count,
    ).toBe(10)
  })
  it('picks, finds words, follows references, and lists paths and changes', async () => {
    const picked = await run(['query', 'activity', '--search', 'night', '--pick', 'title, museum(name)', '--json'])
    expect(picked.json<{ entries: { values: unknown }[] }>().entries.map(({ values }) => values)).toEqual([
      {
        title: 'Night Walk',
        museum: expect.objectContaining({ values: { name: expect.any(String) as string } }) as object,
      },
    ])
    const deep = await run(['query', 'activity', '--follow', '1', '--first', '1', '--json'])
    expect(deep.out).toContain('"town"')
    const everywhere = await run(['query', 'museum', '--every-locale', '--first', '1', '--pick', 'name'])
    expect(Object.keys(everywhere.json<{ entries: { locales: object }[] }>().entries[0]!.locales)).toContain('nl')
    expect((await run(['query', 'museum', '--paths', '--locale', 'en'])).out).toMatch(/^PATH[^]*\/museums\/boatyard/)
    const { position } = (await run(['query', '--changes'])).json<{ position: number }>()
    const since = (await run(['query', '--changes', '0'])).json<{ changes: unknown[]; position: number }>()
    expect([since.changes.length > 10, since.position]).toEqual([true, position])
    const asked = [
      'query',
      '--graphql',
      'query ($n: Int) { museums(first: $n) { nodes { name } } }',
      '--variables',
      '{"n":1}',
    ]
    expect((await run(asked)).json<{ museums: { nodes: unknown[] } }>().museums.nodes).toHaveLength(1)
  })
  it.each([
    [['query', 'activity', '--where', 'startz > now'], /Did you mean `starts`\? \(column 1\)\n$/],
    [['query', 'activity', '--edition', 'all'], /--edition is published or draft/],
    [['query'], /Name a type/],
    [['query', '--graphql', '{ musea { count } }'], /Cannot query field "musea"/],
    [['query', 'activity', '--first', 'many'], /--first is a whole number, not “many”/],
    [['query', 'activity', '--pick', 'titel'], /`titel` is not a field of activity. Did you mean `title`\?/],
    [['query', '--graphql', '{ x }', '--variables', '[]'], /--variables is a JSON object/],
  ])('says what is wrong: %j', async (args, message) => {
    const result = await run(args)
    expect([result.code, result.err]).toEqual([2, expect.stringMatching(message)])
  })
})

describe('keys, members, webhooks, front ends, locales and sites', () => {
  it('are listed and changed', async () => {
    const key = (await run(['key', 'create', '--label', 'Mine', '--scope', 'draft'])).out.trim()
    expect(key).toMatch(/^wk_/)
    const { keys } = (await run(['key', 'list', '--json'])).json<{
      keys: { id: string; label: string; revokedAt: string | null }[]
    }>()
    await run(['key', 'revoke', keys.find((candidate) => candidate.label === 'Mine')!.id])
    expect((await run(['key', 'list'])).out).toMatch(/Mine \(revoked\)/)
    expect(
      (
        await run(['member', 'add', 'new@marram.example', '--role', 'viewer', '--name', 'Nieuw'], {
          WISTERIA_NEW_PASSWORD: 'a long password',
        })
      ).out,
    ).toBe('Nieuw is viewer now.\n')
    const email = 'new@marram.example'
    expect((await run(['member', 'change', email, '--role', 'editor', '--locales', 'nl'])).out).toBe(
      'Nieuw is editor now.\n',
    )
    expect((await run(['member', 'list'])).out).toMatch(/Nieuw +new@marram.example +editor +nl/)
    expect((await run(['member', 'remove', email])).out).toBe('Nieuw is no longer a member.\n')
    expect((await run(['member', 'remove', email])).err).toMatch(/No member has the e-mail new@marram.example/)
    expect((await run(['member', 'invite', 'soon@marram.example', '--role', 'viewer'])).out).toMatch(
      /console\/invitation#[\w-]{43}\nGive it to soon@marram.example alone. It works once, until /,
    )
    expect((await run(['member', 'invitations'])).out).toMatch(/soon@marram.example +viewer +valid until /)
    expect((await run(['member', 'revoke', 'soon@marram.example'])).out).toBe(
      'The invitation of soon@marram.example is revoked.\n',
    )
    expect((await run(['member', 'invitations'])).out).toBe('Nobody is invited.\n')
    expect((await run(['account', 'change', '--time-zone', 'Europe/Amsterdam'])).out).toMatch(
      /language of the browser, time zone Europe\/Amsterdam/,
    )
    expect((await run(['account', 'change'])).err).toMatch(/Say what to change/)
    expect((await run(['account', 'sessions'])).out).toMatch(/SINCE[^]*wisteria \(this one\)/)
    expect((await run(['webhook', 'create', '--label', 'Mine', '--address', 'http://127.0.0.1:9/x'])).out).toMatch(
      /^whsec_/,
    )
    const webhook = (await run(['webhook', 'list', '--json'])).json<{ webhooks: { id: string }[] }>().webhooks[0]!.id
    expect((await run(['webhook', 'deliveries', webhook])).out).toBe('Nothing was sent yet.\n')
    expect((await run(['webhook', 'change', webhook, '--off'])).out).toMatch(/^Changed: Mine .*, off,/)
    expect((await run(['webhook', 'list'])).out).toMatch(/Mine +off +http/)
    expect((await run(['webhook', 'change', webhook, '--on', '--off'])).code).toBe(2)
    expect((await run(['webhook', 'change', webhook])).code).toBe(2)
    expect((await run(['webhook', 'remove', webhook])).code).toBe(0)
    expect((await run(['webhook', 'events', '--after', '3'])).out).toMatch(/NUMBER[^]*entry.created/)
    expect(
      (
        await run(
          ['front-end', 'set', 'mine', '--file', '-'],
          {},
          'label: Mine\norigins: [http://127.0.0.1:9]\nenter: { "*": "http://127.0.0.1:9/in?c={code}" }',
        )
      ).out,
    ).toBe('Mine is registered.\n')
    expect((await run(['front-end', 'list'])).out).toMatch(/mine +Mine/)
    expect(
      (
        await run(
          ['front-end', 'set', 'bad', '--file', '-'],
          {},
          'label: Bad\norigins: [http://127.0.0.1:9]\nenter: { "*": "http://127.0.0.1:9/in" }',
        )
      ).err,
    ).toMatch(/must hold \{code\}/)
    expect((await run(['front-end', 'remove', 'mine'])).code).toBe(0)
    expect((await run(['locale', 'list'])).out).toMatch(/nl-BE +Nederlands \(België\) +nl, en/)
    const settings = (await run(['locale', 'list', '--json'])).out
    expect((await run(['locale', 'set', '--file', '-'], {}, settings)).out).toBe('Locales: en, nl, nl-BE, ar\n')
    expect((await run(['site', 'list'])).out).toMatch(/marram +Marram Coast Museums +owner +connected/)
    expect((await run(['site', 'rebuild'])).out).toMatch(/^Rebuilt: \d+ rows\./)
  })
  it('are refused to those who may not', async () => {
    await as('gast@marram.example')
    const result = await run(['key', 'list'])
    expect([result.code, result.err]).toEqual([4, expect.stringMatching(/The role viewer does not include this/)])
    await as('maren@marram.example')
  })
})

describe('every command', () => {
  it('has help that says what it does, and --json', async () => {
    const help = await run(['--help'])
    expect(help.out).toMatch(/Exit codes:\n {2}0 {2}Done\./)
    for (const name of ['serve', 'demo', 'connect', 'query']) {
      const help = await run([name, '--help'])
      expect([help.code, help.out]).toEqual([0, expect.stringMatching(/--json/)])
    }
    for (const [noun, verbs] of Object.entries({
      model: ['show', 'compare', 'adopt'],
      entry: ['list', 'show', 'create', 'change', 'publish', 'withdraw', 'delete'],
    }))
      for (const verb of verbs) expect((await run([noun, verb, '--help'])).out, `${noun} ${verb}`).toMatch(/--json/)
  })
  it('is suggested when it was nearly written', async () => {
    const result = await run(['entry', 'lst'])
    expect([result.code, result.err]).toEqual([2, expect.stringMatching(/Did you mean list\?/)])
  })
})

describe('demo', () => {
  it('throws away nothing that it did not make', async () => {
    const folderOfMine = join(folder, 'mine')
    mkdirSync(folderOfMine)
    writeFileSync(join(folderOfMine, 'wisteria.db'), 'mine')
    const result = await run(['demo', '--data', folderOfMine, '--fresh', '--port', '0'])
    expect([result.code, result.err]).toEqual([2, expect.stringMatching(/holds a database that the demo did not make/)])
    expect(readFileSync(join(folderOfMine, 'wisteria.db'), 'utf8')).toBe('mine')
  })
})

describe('serve', () => {
  it.each([
    [['--port', 'abc'], {}, /^--port must be a number, not “abc”\.$/m],
    [['--port', '70000'], {}, /--port must be at most 65535/],
    [['--log-level', 'loud'], {}, /--log-level must be one of trace/],
    [[], { WISTERIA_PORT: 'x' }, /WISTERIA_PORT must be a number/],
    [
      ['--data', join(program, 'data')],
      {},
      /The data folder .*main\.js\/data cannot be used: a part of it is a file\./,
    ],
    [['--nonsense'], {}, /unknown option '--nonsense'/],
  ])('refuses %j in one sentence', async (args, environment, message) => {
    const result = await run(['serve', '--data', join(folder, 'serve'), ...args], environment)
    expect([result.code, result.err]).toEqual([2, expect.stringMatching(message)])
    expect(result.err.trim().split('\n')).toHaveLength(1)
  })
  it('refuses a port that is taken, and a file that is no database', async () => {
    const taken = await run(['serve', '--data', join(folder, 'taken'), '--port', new URL(demo.service.baseUrl).port])
    expect([taken.code, taken.err]).toEqual([
      2,
      expect.stringMatching(/^Port \d+ on 127\.0\.0\.1 is taken\. .*--port\.\n$/),
    ])
    mkdirSync(join(folder, 'broken'))
    writeFileSync(join(folder, 'broken', 'wisteria.db'), 'this is no database at all, is it? '.repeat(40))
    expect((await run(['serve', '--data', join(folder, 'broken'), '--port', '0'])).err).toMatch(
      /its wisteria\.db is not a database/,
    )
  })
  it('tells the first owner where to begin, and stops when asked to', async () => {
    for (const signal of ['SIGINT', 'SIGTERM'] as const) {
      const child = spawn(process.execPath, [
        program,
        'serve',
        '--data',
        join(folder, signal),
        '--port',
        '0',
        '--log-level',
        'silent',
      ])
      const out = await new Promise<string>((resolve) => {
        let text = ''
        child.stdout
          .setEncoding('utf8')
          .on('data', (more: string) => (text += more).includes('set-up#') && resolve(text))
      })
      expect(out).toMatch(
        /It has no owner yet\. Create the first one here, once:\n {2}http:\/\/127\.0\.0\.1:\d+\/console\/set-up#[\w-]{43}/,
      )
      const code = new Promise((resolve) => child.once('exit', resolve))
      child.kill(signal)
      expect(await code).toBe(0)
    }
  })
})
