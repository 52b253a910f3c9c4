import { spawnSync } from 'node:child_process'
import { existsSync, mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { createServer, type Server } from 'node:http'
import type { AddressInfo } from 'node:net'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { Service, type Call, type Editor, type EditableEntry, type Reply } from '@wisteria/client'
import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest'
import { runIn, spawnIn } from './support/commands.js'
import { asFiles, files } from './support/models.js'
import { routesByCaller } from './support/routesByCaller.js'
import { ownerOf, startSmall, type SmallSite } from './support/running.js'

/** The small model, with pages that belong to regions. */
const withRegions = { ...files, page: files.page.replace('parent: inPage', 'parent: inPage\nregional: true') }

/** The console's module for actions as commands and requests, for these tests. */
interface LastActs {
  readonly unshown: RegExp
  readonly lastActs: { value: readonly Act[] }
  readonly recordAct: (sent: Call, reply: Reply<unknown>) => void
  readonly shownActs: (acts: readonly Act[]) => readonly Act[]
}
interface Act {
  readonly path: string
  readonly sent: Call
}
const consolePart = async <Part>(name: string): Promise<Part> =>
  (await import(new URL(`../packages/console/src/lastActs/${name}.ts`, import.meta.url).href)) as Part

interface Asked {
  readonly method: string
  readonly path: string
  readonly body: unknown
}

let small: SmallSite
let service: Service
let owner: Editor
let acts: LastActs
let asCommand: (act: Act, emailOf: (id: string) => string | undefined) => string | undefined
let commandFor: (request: string) => unknown
let unshown: RegExp
let asRequest: (act: Act, baseUrl: string) => string
let folder: string
let between: Server
let baseUrl: string
/** The changing requests that afterStep through the proxy. */
let asked: Asked[] = []

beforeAll(async () => {
  small = await startSmall()
  acts = await consolePart<LastActs>('lastActs')
  ;({ asCommand, commandFor } = await consolePart<{ asCommand: typeof asCommand; commandFor: typeof commandFor }>(
    'command',
  ))
  unshown = acts.unshown
  asRequest = (await consolePart<{ asRequest: typeof asRequest }>('request')).asRequest
  service = new Service({ baseUrl: small.service.baseUrl, token: small.token, onChange: acts.recordAct })
  owner = service.site('marram')
  folder = mkdtempSync(join(tmpdir(), 'wisteria-last-acts-'))
  between = createServer((request, response) => {
    const chunks: Buffer[] = []
    request.on('data', (chunk: Buffer) => chunks.push(chunk))
    request.on('end', () => void passOn(Buffer.concat(chunks)))
    async function passOn(content: Buffer): Promise<void> {
      const { method = 'GET', url = '/', headers } = request
      if (method !== 'GET') asked.push({ method, path: url, body: readBody(content) })
      const answer = await fetch(small.service.baseUrl + url, {
        method,
        headers: Object.fromEntries(
          Object.entries(headers).filter(([name]) =>
            ['authorization', 'content-type', 'if-match', 'accept'].includes(name),
          ),
        ) as Record<string, string>,
        ...(content.length > 0 ? { body: new Uint8Array(content) } : {}),
      })
      response.writeHead(answer.status, { 'Content-Type': answer.headers.get('content-type') ?? 'text/plain' })
      response.end(Buffer.from(await answer.arrayBuffer()))
    }
  })
  await new Promise<void>((resolve) => between.listen(0, '127.0.0.1', resolve))
  baseUrl = `http://127.0.0.1:${(between.address() as AddressInfo).port}`
})
afterAll(async () => {
  between.close()
  rmSync(folder, { recursive: true, force: true })
  await small.service.end()
})
beforeEach(() => void (acts.lastActs.value = []))

function readBody(content: Buffer): unknown {
  try {
    return content.length === 0 ? undefined : JSON.parse(content.toString())
  } catch {
    return content.toString()
  }
}

interface Result {
  readonly code: number | null
  readonly out: string
  readonly err: string
}

/** Records the words and the input of each command, as a shell passes them. */
const takingDown = `n=0
take() { n=$((n+1)); printf '%s\\0' "$@" > "$n.words"; cat > "$n.input"; }
wisteria() { take wisteria "$@"; }
curl() { take curl "$@"; }
`

/** Runs lines as pasted into a shell, first by the shell and then by each command. @returns the last output. */
async function paste(lines: string): Promise<Result> {
  for (const name of readdirSync(folder)) if (/^\d+\.(words|input)$/.test(name)) rmSync(join(folder, name))
  const { status, stderr } = spawnSync('/bin/sh', ['-ec', takingDown + lines], {
    cwd: folder,
    env: { ...process.env, WISTERIA_TOKEN: small.token },
    stdio: ['ignore', 'pipe', 'pipe'],
    encoding: 'utf8',
  })
  let result: Result = { code: status, out: '', err: stderr }
  for (let number = 1; result.code === 0 && existsSync(join(folder, `${number}.words`)); number++) {
    const [name, ...words] = readFileSync(join(folder, `${number}.words`), 'utf8')
      .split('\0')
      .slice(0, -1)
    const input = readFileSync(join(folder, `${number}.input`), 'utf8')
    result = await (name === 'curl' ? send(words, input) : runCommand(words, input))
  }
  return result
}

/** In this process, unless it reads its input or a file of the folder. */
function runCommand(words: readonly string[], input: string): Promise<Result> {
  const connection = { WISTERIA_URL: baseUrl, WISTERIA_SITE: 'marram', WISTERIA_TOKEN: small.token }
  const reads = input !== '' || words[0] === 'asset' || words[0] === 'model'
  return reads ? spawnIn(folder, words, connection, input, folder) : runIn(folder, words, connection)
}

/** The request that curl makes from these words. */
async function send(words: readonly string[], input: string): Promise<Result> {
  const rest = [...words]
  const headers: Record<string, string> = {}
  let [method, address] = ['GET', '']
  let body: string | undefined
  while (rest.length > 0) {
    const word = rest.shift()!
    if (word === '-X') method = rest.shift()!
    else if (word === '-H') {
      const [, name, value] = /^([^:]+): (.*)$/.exec(rest.shift()!)!
      headers[name!] = value!
    } else if (word === '--data-binary') {
      const from = rest.shift()!.slice(1)
      body = from === '-' ? input : readFileSync(join(folder, from), 'utf8')
    } else address = word
  }
  const answer = await fetch(address, { method, headers, ...(body === undefined ? {} : { body }) })
  return { code: answer.ok ? 0 : answer.status, out: await answer.text(), err: '' }
}

const emailOf = () => 'hanne@marram.example'
const last = (): Act => acts.shownActs(acts.lastActs.value)[0]!
/** Without undefined members, and with the file's bytes as text. */
async function sentBy({ sent }: Act): Promise<Asked> {
  const query = new URLSearchParams(
    Object.entries(sent.query ?? {}).flatMap(([name, value]) => (value === undefined ? [] : [[name, String(value)]])),
  )
  return {
    method: sent.method!,
    path: sent.path + (query.size > 0 ? `?${query}` : ''),
    body: sent.file ? await sent.file.text() : sent.body,
  }
}
/** An empty body equals none, and an empty member equals a missing one. */
const plain = ({ body, ...rest }: Asked): Asked => ({
  ...rest,
  body:
    typeof body === 'object' && body !== null && !Array.isArray(body)
      ? Object.fromEntries(
          Object.entries(body).filter(([, value]) =>
            Array.isArray(value) ? value.length > 0 : value !== undefined && value !== null,
          ),
        )
      : (body ?? {}),
})

let museum: EditableEntry
const created = (): Promise<EditableEntry> =>
  owner.create({ type: 'person', values: { name: `Hanne’s "friend" $HOME ${Math.random()}` } })

/** Acts whose command sends the very request that was sent. */
const same: Readonly<Record<string, () => Promise<unknown>>> = {
  'a new entry': () =>
    owner.create({ type: 'museum', values: { name: { en: "The keeper's house", nl: '-- $(id) `x`' }, town: 'END' } }),
  'a publish in one locale': () => owner.publish(museum.id, { locales: ['en'], together: [], version: museum.version }),
  'a withdrawal': () => owner.withdraw(museum.id, { locales: ['en'] }),
  'an archiving': async () => owner.archive((await created()).id),
  'a reactivation': async () => {
    const { id } = await created()
    await owner.archive(id)
    return owner.reactivate(id)
  },
  'a duplicate': () => owner.duplicate(museum.id),
  'a delete': async () => owner.delete((await created()).id),
  'a restore from the bin': async () => {
    const { id } = await created()
    await owner.delete(id)
    return owner.restoreFromBin(id)
  },
  'a permanent delete': async () => {
    const { id } = await created()
    await owner.delete(id)
    return owner.deletePermanently(id)
  },
  'a restored field': () => owner.restore(museum.id, { from: 1, places: [{ at: ['name'], locale: 'en' }] }),
  'a place in the tree': async () => {
    const root = await owner.create({
      type: 'page',
      values: { title: { en: 'About' }, slug: { en: `a${Date.now()}` } },
    })
    const below = await owner.create({ type: 'page', values: { title: { en: 'Us' }, slug: { en: `u${Date.now()}` } } })
    return owner.place(below.id, { parent: root.id, after: null })
  },
  'a schedule': () =>
    owner.schedule(museum.id, { does: 'publish', at: '2031-03-12T09:00', zone: 'Europe/Amsterdam', locales: ['en'] }),
  'a saved view': () =>
    owner.saveView({
      name: "Keepers' houses",
      shared: true,
      asks: { type: 'museum', where: 'town = "Marram"', sort: '-town', columns: ['town'] },
    }),
  'a bulk publish': () => owner.bulk({ do: 'publish', ids: [museum.id], locales: ['en'] }),
  'a bulk edit of a condition': () =>
    owner.bulk({
      do: 'edit',
      type: 'museum',
      where: 'town = "It\'s"',
      edits: [
        { do: 'set', at: ['town'], value: 'Marram' },
        { do: 'set', at: ['name'], locale: 'en', value: 'Light' },
      ],
    }),
  'the undoing of a job': async () => {
    const job = await owner.bulk({ do: 'publish', ids: [museum.id], locales: ['en'] })
    await owner.waitFor(job)
    return owner.undoJob(job.id)
  },
  'texts of an asset': async () => {
    const { id } = await owner.uploadAsset('lens.txt', new File(['one'], 'lens.txt'))
    return owner.changeAsset(id, {
      alt: { en: "The lens's light", nl: 'De lens' },
      focalPoint: { x: 0.5, y: 0.25 },
    })
  },
  'an upload': () => owner.uploadAsset('letter one.txt', new File(['one'], 'letter one.txt')),
  'a replaced file': async () => {
    const { id } = await owner.uploadAsset('letter one.txt', new File(['two'], 'letter one.txt'))
    return owner.replaceAsset(id, new File(['one'], 'letter one.txt'))
  },
  'a delete of an asset': async () =>
    owner.deleteAsset((await owner.uploadAsset('old.txt', new File(['old'], 'old.txt'))).id, { revisions: 'ignore' }),
  'settings of the locales': async () => {
    const { settings } = await owner.locales()
    return owner.setLocales({ ...settings, label: "Marram's museums" })
  },
  'an opened site': () => owner.setOpen(true),
  'a closed site': () => owner.setOpen(false),
  'a rebuild': () => owner.rebuild(),
  'an invitation': () => owner.invite({ email: 'hanne@marram.example', role: 'translator', locales: ['nl', 'ar'] }),
  'a key': () => owner.createKey({ label: '-- For “builds”', scope: 'published' }),
  'a revoked key': async () => owner.revokeKey((await owner.createKey({ label: 'Old', scope: 'draft' })).id),
  'a front end': () =>
    owner.setFrontEnd('www', {
      label: 'Site',
      origins: ['https://www.marram.example'],
      enter: { '*': 'https://www.marram.example/enter?code={code}&to={path}' },
    }),
  'a removed front end': () => owner.removeFrontEnd('www'),
  'a webhook': () =>
    owner.webhooks.create({ label: 'Build', address: 'https://www.marram.example/h', events: ['entry.published'] }),
  'a changed webhook': async () => {
    const { id } = await owner.webhooks.create({ label: 'Old', address: 'https://www.marram.example/h' })
    await owner.webhooks.change(id, { label: 'New', events: ['entry.published'] })
    await owner.webhooks.change(id, { address: 'https://www.marram.example/new', events: null, enabled: false })
    await owner.webhooks.change(id, { enabled: true })
  },
  'a webhook with a condition': () =>
    owner.webhooks.create({
      label: 'Walks',
      address: 'https://www.marram.example/h',
      where: 'entry.title = "It\'s"',
      merge: 'act',
    }),
  'a webhook without its condition': async () => {
    const where = 'before.title != after.title'
    const { id } = await owner.webhooks.create({ label: 'Old', address: 'https://www.marram.example/h', where })
    await owner.webhooks.change(id, { where: null, merge: 'entry' })
    await owner.webhooks.change(id, { paused: false })
  },
  'another secret of a webhook': async () => {
    const { id } = await owner.webhooks.create({ label: 'Old', address: 'https://www.marram.example/h' })
    await owner.webhooks.addSecret(id, 48)
  },
  'a span that is sent again': async () => {
    const { id } = await owner.webhooks.create({ label: 'Old', address: 'https://www.marram.example/h' })
    await owner.webhooks.resendSpan(id, { from: '2031-01-01T00:00:00Z', to: '2031-01-02T00:00:00Z', onlyMissed: true })
  },
  'a test of a webhook': async () => {
    const { id } = await owner.webhooks.create({ label: 'Old', address: 'http://127.0.0.1:9/h' })
    await owner.webhooks.test(id)
  },
  'automations, from their start to their end': async () => {
    const { automations } = owner
    await automations.set({
      automation: 'by-hand',
      label: 'By hand',
      starts: { by: 'hand', on: 'site' },
      steps: [{ do: 'wait', until: 'now + 2 hours' }],
    })
    await automations.enable('by-hand', false)
    await automations.enable('by-hand', true)
    const [run] = (await automations.run('by-hand')).runs
    await automations.stop(run!)
    await automations.retry(run!)
    await automations.setSecret('by-hand', 'token', 'quiet')
    await automations.removeSecret('by-hand', 'token')
    await automations.remove('by-hand')
  },
  'the undoing of an import': async () => {
    const { id } = await owner.imports.read(new Blob(['town\nHarle\n']), { type: 'museum' })
    await owner.waitFor(await owner.imports.run(id))
    await owner.imports.undo(id)
  },
  'an import that is forgotten': async () =>
    owner.imports.remove((await owner.imports.read(new Blob(['town\nHarle\n']), { type: 'museum' })).id),
  'a mapping that is forgotten': async () => {
    await owner.imports.keepMapping("Keepers' list", { type: 'museum', columns: [] })
    await owner.imports.forgetMapping("Keepers' list")
  },
  'a removed webhook': async () =>
    owner.webhooks.remove((await owner.webhooks.create({ label: 'Old', address: 'https://www.marram.example/h' })).id),
  'a changed account': () =>
    service.changeAccount({ name: "Maren d'Aldous", language: null, timeZone: 'Europe/Amsterdam' }),
  'an ended session': async () => {
    const other = new Service({ baseUrl: small.service.baseUrl })
    const { token } = await other.signIn({ email: ownerOf.email, password: ownerOf.password, as: 'token' })
    const { sessions } = await new Service({ baseUrl: small.service.baseUrl, token: token! }).sessions()
    return service.endSession(sessions.find(({ current }) => current)!.id)
  },
  regions: () =>
    owner.counterparts.setRegions([
      { name: 'north', label: "Marram's north" },
      { name: 'isles', label: 'The isles' },
    ]),
  'an entry in a region': () => owner.create({ type: 'page', values: { title: { en: 'Ferry' } }, region: 'north' }),
  'copies in a region': async () => {
    const { id } = await owner.create({ type: 'page', values: { title: { en: 'Quay' } } })
    return owner.counterparts.make({ region: 'isles', ids: [id], withChildren: true })
  },
  'changes of a source': async () => {
    const { id, version } = await owner.create({ type: 'page', values: { title: { en: 'Pier' } } })
    await owner.waitFor(await owner.counterparts.make({ region: 'isles', ids: [id] }))
    const copy = (await owner.counterparts.of(id)).regions.find(({ name }) => name === 'isles')!.entry!
    const source = await owner.patch(id, version, { title: { en: 'Long pier' } })
    return owner.counterparts.take(copy.id, { take: 'changes', conflicts: 'own', sourceVersion: source.version })
  },
  'a place in a region': async () => {
    const { id } = await owner.create({ type: 'page', values: { title: { en: 'Slip' } } })
    return owner.counterparts.place(id, 'north', null)
  },
  'a new site': () =>
    service.createSite({
      name: `site${Date.now()}`,
      label: 'Another',
      defaultLocale: 'en',
      locales: [{ tag: 'en', label: 'English', fallback: [] }],
      timeZone: 'Europe/Amsterdam',
    }),
}

describe('what was done in the console, as a command and as a request', () => {
  beforeAll(async () => {
    await owner.adoptModel((await owner.compareModel(asFiles(withRegions))).id)
    museum = await owner.create({ type: 'museum', values: { name: { en: 'Lighthouse' }, town: 'Marram' } })
    writeFileSync(join(folder, 'letter one.txt'), 'one')
    writeFileSync(join(folder, 'old.txt'), 'old')
  })

  it.each(Object.entries(same))('sends the same again: %s', async (_, act) => {
    await act()
    const done = last()
    const wanted = plain(await sentBy(done))
    for (const lines of [asCommand(done, emailOf), asRequest(done, baseUrl)]) {
      asked = []
      const { err } = await paste(lines!)
      expect(asked.map(plain), `${lines}\n${err}`).toContainEqual(wanted)
    }
  })

  it('changes the role of the member whose e-mail it names', async () => {
    const member = await owner.addMember({
      email: 'hanne@marram.example',
      name: 'Hanne',
      role: 'viewer',
      password: 'wind-from-the-west',
    })
    // Passwords are left out.
    expect(acts.lastActs.value).toEqual([])
    await owner.changeMember(member.account, { role: 'translator', locales: ['nl'] })
    const changed = last()
    await owner.removeMember(member.account)
    expect(asCommand(last(), emailOf)).toBe('wisteria member remove hanne@marram.example')
    await owner.addMember({ email: 'hanne@marram.example', role: 'viewer' })
    expect(await paste(asCommand(changed, emailOf)!)).toMatchObject({ code: 0 })
    const { members } = await owner.members()
    expect(members.find(({ email }) => email === 'hanne@marram.example')).toMatchObject({
      role: 'translator',
      locales: ['nl'],
    })
  })

  it('revokes the invitation of the e-mail that it names', async () => {
    const email = 'noor@marram.example'
    const invite = () => owner.invite({ email, role: 'viewer' })
    await owner.revokeInvitation((await invite()).id)
    const command = asCommand(last(), () => email)!
    expect(command).toBe('wisteria member revoke noor@marram.example')
    await invite()
    expect(await paste(command)).toMatchObject({ code: 0 })
    const { invitations } = await owner.invitations()
    expect(invitations.filter((invitation) => invitation.email === email)).toEqual([])
  })

  it('takes what was written in an entry as one act, and writes the same values', async () => {
    const values = { title: { en: 'Walk' }, body: [{ block: 'quote', id: 'q1', values: { text: { en: 'One' } } }] }
    const made = () =>
      owner.create({ type: 'activity', values: { ...values, slug: { en: `w${Math.random().toString(36).slice(2)}` } } })
    const [entry, other] = [await made(), await made()]
    acts.lastActs.value = []
    let version = entry.version
    for (const text of ['N', 'Night', "Night's walk"])
      ({ version } = await owner.edit(entry.id, version, [{ do: 'set', at: ['title'], locale: 'en', value: text }]))
    ;({ version } = await owner.edit(entry.id, version, [
      { do: 'set', at: ['body', 'q1', 'text'], locale: 'en', value: 'Two' },
      { do: 'set', at: ['summary'], locale: 'en', value: 'END\nIt ends.' },
      { do: 'set', at: ['tags'], value: ['a'] },
    ]))
    const edited = await owner.edit(entry.id, version, [{ do: 'clear', at: ['tags'] }])
    expect(acts.lastActs.value).toHaveLength(1)
    expect((last().sent.body as { edits: unknown[] }).edits).toHaveLength(5)
    const [command, request] = [asCommand(last(), emailOf)!, asRequest(last(), baseUrl)]
    expect(await paste(command.replace(entry.id, other.id))).toMatchObject({ code: 0 })
    const { slug: _, ...wanted } = edited.values
    expect((await owner.entry(other.id)).values).toMatchObject(wanted)
    const third = await made()
    const again = request.replace(entry.id, third.id)
    expect(await paste(again.replace(/"base": \d+/, `"base": ${third.version}`))).toMatchObject({ code: 0 })
    expect((await owner.entry(third.id)).values).toMatchObject(wanted)
  })

  it('writes the files of an adopted model, and adopts them', async () => {
    const { version } = await owner.model()
    const wider = asFiles({
      ...withRegions,
      museum: `${files.museum}  hours: { kind: text, label: "Keeper's hours" }\n`,
    })
    await owner.compareModel(asFiles(withRegions))
    await owner.adoptModel((await owner.compareModel(wider)).id)
    expect(acts.shownActs(acts.lastActs.value)).toHaveLength(1)
    const [command, request] = [asCommand(last(), emailOf)!, asRequest(last(), baseUrl)]
    const back = async () => owner.adoptModel((await owner.compareModelVersion(version)).id)
    const hours = async () =>
      (await owner.model()).types.find(({ name }) => name === 'museum')!.fields.some(({ name }) => name === 'hours')
    await back()
    expect(asCommand(last(), emailOf)).toBe(`wisteria model adopt --at ${version} --breaking`)
    expect(await hours()).toBe(false)
    expect(await paste(command)).toMatchObject({ code: 0 })
    expect(await hours()).toBe(true)
    await back()
    const [propose, adopt] = request.split('\n\ncurl ')
    const proposal = JSON.parse((await paste(propose!)).out) as { id: string }
    await paste(`curl ${adopt!.replace('PROPOSAL', proposal.id)}`)
    expect(await hours()).toBe(true)
  })

  it('has a command for each route that changes something, but for these', () => {
    const changing = routesByCaller
      .flatMap(({ routes }) => routes)
      .filter((route) => /^(POST|PUT|PATCH|DELETE) \/edit\//.test(route))
      .map((route) => route.replace(/\/edit\/v1\/sites\/\{site\}(?=\/)/, '').replace(/\{\w+\}/g, 'x'))
    const without = changing.filter((route) => !unshown.test(route) && !commandFor(route))
    expect(without.sort()).toEqual(
      [
        // The console creates previews and revokes none.
        'DELETE /grants',
        // Adds a file by its bytes in base64: the console uploads it.
        'POST /assets',
        // Seals a revision, which no client does yet.
        'POST /entries/x/revisions',
        // Adds a member with a password: the console sends a link instead.
        'POST /members',
        // The command reads a file and applies it at once.
        'POST /translations/imports/x/apply',
        // The command reads a file, says where its columns go, and imports it.
        'POST /imports',
        'PUT /imports/x/mapping',
        'PUT /imports/x/files',
        'POST /imports/x/check',
        'POST /imports/x/run',
        // The command keeps the mapping of an import.
        'PUT /import-mappings/x',
        // The commands compare and adopt a folder of files, and try a file.
        'POST /automations/compare',
        'POST /automations/adopt',
        'POST /automations/try',
        'PUT /automations/x',
        // Programs send to it.
        'POST /inbound/x',
        // Connectors call it, signed with their secret.
        'POST /translations/requests/x',
        // Routes that only show consequences.
        'POST /locales/consequences',
        'POST /model/proposals',
        'POST /copies/plan',
        'POST /counterparts/plan',
        // Saved views are saved or deleted by command, and not changed.
        'PUT /views/x',
      ].sort(),
    )
  })

  it('keeps nothing secret, nothing that changed nothing, and no more than twenty', async () => {
    await owner.presence(museum.id)
    await owner.tryBulk({ do: 'publish', ids: [museum.id] })
    await owner.compareLocales((await owner.locales()).settings)
    await owner.compareModel(asFiles(withRegions))
    expect(acts.shownActs(acts.lastActs.value)).toEqual([])
    for (let count = 0; count < 25; count++) await owner.setOpen(count % 2 === 0)
    expect(acts.lastActs.value).toHaveLength(20)
  })
})
