import { Validator, type Schema } from '@cfworker/json-schema'
import { Service, type Editor } from '@wisteria/client'
import { join } from 'node:path'
import { fieldKinds, withLocale, withoutLocale } from '@wisteria/core'
import { Database } from '@wisteria/store'
import fc from 'fast-check'
import { strToU8, zipSync } from 'fflate'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { often } from './support/length.js'
import { mutated } from './support/mutations.js'
import { asFiles, files, refusal, settings } from './support/models.js'
import { ownerOf, startReceiver, startSmall, type SmallSite } from './support/running.js'

/** Every answer of the Edit API here is compared with its OpenAPI document, errors too. */

interface Response {
  readonly $ref?: string
  readonly content?: Record<string, { readonly schema: Schema }>
}
interface Operation {
  readonly operationId: string
  readonly parameters: readonly { readonly name: string; readonly in: string }[]
  readonly requestBody?: { readonly content: Record<string, { readonly schema: Schema }> }
  readonly responses: Record<string, Response>
}
interface OpenApi {
  readonly paths: Record<string, Record<string, Operation>>
  readonly components: { readonly schemas: Record<string, Schema>; readonly responses: Record<string, Response> }
}

let small: SmallSite
let document: OpenApi
let owner: Editor
let database: Database
/** The operations that were answered with a success. */
const answered = new Set<string>()
const misfits: string[] = []
/** Requests with a body that were answered with a success. */
const good: {
  readonly method: string
  readonly template: string
  readonly pathname: string
  readonly body: unknown
}[] = []
const validators = new Map<Schema, Validator>()
const validate = (schema: Schema, value: unknown) => {
  const callees =
    validators.get(schema) ?? new Validator({ ...schema, components: document.components }, '2020-12', false)
  validators.set(schema, callees)
  return callees.validate(value).errors.map(({ instanceLocation, error }) => `${instanceLocation} ${error}`)
}

/** The operation that a request is of, with its path. */
function operationOf(address: string, method = 'GET'): { template: string; operation: Operation } | undefined {
  const { pathname } = new URL(address)
  const name = method.toLowerCase()
  const template = Object.keys(document.paths).find(
    (path) => new RegExp(`^${path.replace(/\{\w+\}/g, '[^/]+')}$`).test(pathname) && document.paths[path]![name],
  )
  return template === undefined ? undefined : { template, operation: document.paths[template]![name]! }
}

/** The service ignores a member of that name, wherever it is. */
const withoutPrototype = (name: string, value: unknown): unknown => (name === '__proto__' ? undefined : value)

/** The stored data, without what the service records by itself: last uses, deliveries, files without an asset, and when lists turn. */
const stored = async (): Promise<string> => {
  const tables = await database.all<{ name: string }>(
    "select name from sqlite_master where type = 'table' and name not like '%_words_%' and name not in ('sessions', 'access_keys', 'deliveries', 'attempts', 'field_reads', 'files', 'grants', 'list_scans', 'list_turns')",
  )
  const rows: unknown[] = []
  for (const { name } of tables) rows.push(name, await database.all(`select * from ${name}`))
  return JSON.stringify(rows)
}
/** Operations that were tried before they were done. */
const tried: string[] = []
/** Dry runs that were none. */
const failedTries: string[] = []

/** Sends a dry run before the request itself: it stores nothing, and its answer has the status of the request. */
async function tryFirst(name: string, address: Parameters<typeof fetch>[0], init: RequestInit | undefined) {
  const before = await stored()
  const answer = await fetch(address, { ...init, headers: { ...(init?.headers as object), 'Dry-Run': 'true' } })
  if ((await stored()) !== before) failedTries.push(`${name} changed something`)
  if (answer.ok && answer.headers.get('dry-run') !== 'true') failedTries.push(`${name} does not say that it was tried`)
  tried.push(name)
  return answer.status
}

/** `fetch`, whose answers are looked at. */
const checking: typeof fetch = async (address, init) => {
  const operationAsked = operationOf(String(address), init?.method)
  const isTryable = operationAsked?.operation.parameters.some((parameter) => parameter.name === 'Dry-Run')
  const triedStatus = isTryable ? await tryFirst(operationAsked!.operation.operationId, address, init) : undefined
  const answer = await fetch(address, init)
  if (triedStatus !== undefined && triedStatus !== answer.status)
    failedTries.push(`${operationAsked!.operation.operationId}: ${triedStatus} when tried, ${answer.status} when done`)
  const { pathname } = new URL(String(address))
  const method = (init?.method ?? 'GET').toLowerCase()
  const { template, operation } = operationAsked ?? {}
  const name = `${method} ${template ?? pathname} ${answer.status}`
  const described = operation?.responses[String(answer.status)] ?? (answer.ok ? operation?.responses['2XX'] : undefined)
  const response = described?.$ref ? document.components.responses[described.$ref.split('/').at(-1)!] : described
  const text = await answer.clone().text()
  const type = (answer.headers.get('content-type') ?? '').split(';')[0]!
  const isFile = response?.content?.['*/*'] !== undefined
  const schema = response?.content?.[type]?.schema
  if (!response) misfits.push(`${name} is not described: ${text.slice(0, 200)}`)
  else if (text === '' ? response.content : !schema && !isFile) misfits.push(`${name}: ${type} is not described`)
  else if (schema) misfits.push(...validate(schema, JSON.parse(text)).map((problem) => `${name}: ${problem}`))
  // The document allows every accepted body.
  const taken = operation?.requestBody?.content['application/json']?.schema
  if (answer.ok && taken && typeof init?.body === 'string')
    misfits.push(
      ...validate(taken, JSON.parse(init.body, withoutPrototype)).map((problem) => `${name}, its body: ${problem}`),
    )
  if (answer.ok && template && typeof init?.body === 'string')
    good.push({ method, template, pathname, body: JSON.parse(init.body) })
  if (answer.ok && operation) answered.add(operation.operationId)
  return answer
}

beforeAll(async () => {
  small = await startSmall()
  document = (await (await fetch(`${small.service.baseUrl}/edit/v1/openapi.json`)).json()) as OpenApi
  owner = new Service({ baseUrl: small.service.baseUrl, token: small.token, fetch: checking }).site('marram')
  database = await Database.open({ file: join(small.service.folder, 'wisteria.db') })
})
afterAll(async () => {
  await database.close()
  await small.service.end()
})

const museum = async (name: string) => (await owner.create({ type: 'museum', values: { name: { en: name } } })).id
const text = new Blob(['notes'])

describe('the OpenAPI document of the Edit API', () => {
  it('says how values of every kind are written', () => {
    for (const { name } of fieldKinds) {
      const schema = document.components.schemas[`Written${name[0]!.toUpperCase()}${name.slice(1)}`] as {
        title?: string
      } & Record<string, unknown>
      expect(schema?.title).toBe(name)
      expect(Object.keys(schema).length, name).toBeGreaterThan(2)
    }
  })

  it('describes every answer: all operations, on a site where everything happens', async () => {
    const service = new Service({ baseUrl: small.service.baseUrl, token: small.token, fetch: checking })
    const plain = new Service({ baseUrl: small.service.baseUrl, fetch: checking })
    await plain.state()
    await service.session()
    const receiver = await startReceiver()
    await owner.webhooks.create({ label: 'Site', address: receiver.address })
    const { token } = await plain.signIn({ email: ownerOf.email, password: ownerOf.password, as: 'token' })
    await new Service({ baseUrl: small.service.baseUrl, token: token!, fetch: checking }).signOut()
    // Sites, settings, models.
    await service.createSite({ name: 'second', ...settings })
    await service.sites()
    await owner.settings()
    await owner.setOpen(true)
    await owner.rebuild()
    const { locales } = settings
    const changed = { ...settings, label: 'Marram Coast', locales }
    await owner.compareLocales({ ...changed, locales: locales.filter(({ tag }) => tag !== 'ar') })
    await owner.setLocales(changed)
    const raw = (path: string, init: RequestInit = {}) =>
      checking(`${small.service.baseUrl}/edit/v1${path}`, {
        ...init,
        headers: {
          Authorization: `Bearer ${small.token}`,
          'Content-Type': 'application/json',
          ...(init.headers as object),
        },
      })
    await raw('/sites/marram/locales')
    const frisian = withLocale((await owner.locales()).settings, 'fy')
    await owner.setLocales(frisian)
    await owner.create({ type: 'museum', values: { name: { en: 'Mill', fy: 'Mûne' } } })
    await owner.setLocales(withoutLocale(frisian, 'fy'))
    await owner.removedLocales()
    await owner.waitFor(await owner.forgetLocale('fy'))
    await raw('/openapi.json')
    const longer = files.museum.replace('max: 40', 'max: 60')
    await owner.adoptModel((await owner.compareModel(asFiles({ ...files, museum: longer }))).id)
    await owner.compareModelVersion(1)
    await owner.model()
    await owner.modelHistory()
    await owner.modelAt(1)
    // Entries.
    const lighthouse = await museum('Lighthouse')
    const other = await museum('Boatyard')
    const person = (await owner.create({ type: 'person', values: { name: 'Ada Reed', home: lighthouse } })).id
    await owner.edit(lighthouse, 1, [{ do: 'set', at: ['town'], value: 'Ebbing' }])
    await owner.patch(lighthouse, 2, { town: 'Marram' })
    await owner.entry(lighthouse)
    await owner.publish(lighthouse)
    await owner.edit(lighthouse, 4, [{ do: 'set', at: ['name'], locale: 'nl', value: 'Vuurtoren' }])
    await raw(`/sites/marram/entries/${lighthouse}/revisions`, { method: 'POST' })
    await owner.edit(lighthouse, (await owner.entry(lighthouse)).version, [
      { do: 'set', at: ['town'], value: 'Ebbing' },
    ])
    await owner.consequences(lighthouse)
    await owner.withdrawalConsequences(lighthouse)
    await owner.usage(lighthouse)
    await owner.revisions(lighthouse)
    await owner.revision(lighthouse, 1)
    await owner.compare(lighthouse, { from: 'public', to: 'working' })
    await raw(`/sites/marram/entries/${lighthouse}/restore`, { method: 'POST', body: JSON.stringify({ from: 1 }) })
    await owner.presence(lighthouse)
    await owner.duplicate(lighthouse)
    await owner.withdraw(lighthouse)
    await owner.archive(other)
    await owner.reactivate(other)
    const plan = await owner.schedule(other, { does: 'publish', at: new Date(Date.now() + 86_400_000).toISOString() })
    await owner.reschedule(plan.id, { at: new Date(Date.now() + 90_000_000).toISOString() })
    await owner.schedules()
    await owner.cancelSchedule(plan.id)
    await owner.entries({ type: 'museum', count: true, first: 5 })
    await owner.search('boat')
    const page = (await owner.create({ type: 'page', values: { title: { en: 'Visit' } } })).id
    const below = (await owner.create({ type: 'page', values: { title: { en: 'Tickets' } } })).id
    await owner.place(below, { parent: page, after: null })
    await owner.tree()
    await owner.tryBulk({ do: 'publish', ids: [lighthouse, other] })
    const job = await owner.bulk({ do: 'publish', ids: [lighthouse, other] })
    await owner.waitFor(job)
    await owner.bulkItems(job.id)
    await owner.waitFor(await owner.undoJob(job.id))
    // All at once, and so not tried first.
    const many = await Promise.all(
      Array.from({ length: 60 }, (_, index) =>
        small.owner.create({ type: 'museum', values: { name: { en: `Museum ${index}` } } }).then(({ id }) => id),
      ),
    )
    await owner.stopJob((await owner.bulk({ do: 'duplicate', ids: many })).id)
    await owner.jobs()
    await owner.delete(person)
    await owner.bin()
    await owner.restoreFromBin(person)
    await owner.delete(person)
    await owner.deletePermanently(person)
    const kept = await owner.saveView({ name: 'Museums', asks: { type: 'museum', where: 'town = "Ebbing"' } })
    await owner.changeView(kept.id, { name: 'All museums', asks: { type: 'museum' }, shared: true })
    await owner.views()
    await owner.deleteView(kept.id)
    // Assets.
    const asset = await owner.addAsset({ name: 'notes.txt', content: Buffer.from('Notes').toString('base64') })
    const uploaded = await owner.uploadAsset('more.txt', text)
    await owner.assets()
    await owner.asset(asset.id)
    await owner.changeAsset(asset.id, { alt: { en: 'Notes' } })
    await owner.replaceAsset(uploaded.id, text)
    await owner.assetRevisions(asset.id)
    await raw(`/sites/marram/assets/${asset.id}/revisions/1/file`)
    await owner.restoreAsset(asset.id, 1)
    await owner.assetUsage(asset.id)
    await owner.deleteAsset(uploaded.id)
    // People and programs.
    const { account } = await owner.addMember({
      email: 'ilse@marram.example',
      name: 'Ilse',
      role: 'editor',
      password: 'a long password',
    })
    await owner.changeMember(account, { role: 'translator', locales: ['nl'] })
    await owner.translations.assign([lighthouse], 'nl', account, '2031-03-12')
    const { units } = (await owner.translations.of(lighthouse, 'nl')).entries[0]!
    await owner.translations.save(lighthouse, { locale: 'nl', texts: [{ unit: units[0]!.unit, text: 'De Vuurtoren' }] })
    const { id: told } = await owner.uploadAsset('told.txt', new File(['told'], 'told.txt'))
    await owner.changeAsset(told, { alt: { en: 'A tale' } })
    await owner.translations.ofAsset(told, 'nl')
    await owner.translations.saveAsset(told, { locale: 'nl', texts: [{ unit: 'alt#', text: 'Een verhaal' }] })
    await owner.translations.ready(lighthouse, 'nl')
    await owner.translations.work({ assignee: account })
    await owner.translations.board()
    const file = await owner.translations.export({ locale: 'nl', ids: [lighthouse], units: 'all' })
    const imported = await owner.translations.readImport('nl', 'xliff', 'dutch', await file.response.blob())
    await owner.translations.imports()
    await owner.translations.setGlossary([{ term: 'Lighthouse', translations: { nl: { use: 'Vuurtoren' } } }])
    await owner.translations.glossary()
    await owner.translations.memory('nl', 'The Lighthouse')
    await owner.translations.importTexts(imported.id)
    await owner.waitFor(await owner.translations.applyImport(imported.id))
    await owner.translations.import(imported.id)
    const table = await owner.imports.read(new Blob(['town,bad\nHarle,x\n']), { type: 'museum', name: 'museums.csv' })
    await owner.imports.setMapping(table.id, table.mapping!)
    await owner.imports.setFiles(table.id, new Blob([new Uint8Array(zipSync({ 'notes.txt': strToU8('Notes.') }))]))
    await owner.imports.preview(table.id)
    for (const work of ['check', 'run', 'undo'] as const) {
      await owner.waitFor(await owner.imports[work](table.id))
      await owner.imports.rows(table.id)
    }
    await (await owner.imports.failed(table.id)).text()
    await (await owner.imports.export({ type: 'museum' })).response.text()
    await owner.imports.keepMapping('Museums', table.mapping!)
    await owner.imports.mappings()
    await owner.imports.forgetMapping('Museums')
    await owner.imports.list()
    await owner.imports.get(table.id)
    await owner.imports.remove(table.id)
    const archive = await (await owner.archives.export('public')).blob()
    const empty = new Service({ baseUrl: small.service.baseUrl, token: small.token, fetch: checking })
    await empty.createSite({ name: 'copied', ...settings })
    const copied = empty.site('copied')
    await copied.waitFor((await copied.archives.import(archive, 'new')).job)
    const { counterparts } = owner
    await counterparts.setRegions([{ name: 'north', label: 'The north' }])
    await counterparts.regions()
    const regionalFiles = { ...files, person: files.person.replace('fields:', 'regional: true\nfields:') }
    await owner.adoptModel((await owner.compareModel(asFiles(regionalFiles))).id)
    const keeper = await owner.create({ type: 'person', values: { name: 'Ada Bree' } })
    await counterparts.plan({ region: 'north', ids: [keeper.id] })
    await owner.waitFor(await counterparts.make({ region: 'north', ids: [keeper.id] }))
    const there = (await counterparts.of(keeper.id)).regions.find(({ name }) => name === 'north')!.entry!
    await counterparts.list()
    await owner.patch(keeper.id, keeper.version, { name: 'Ada Marsh' })
    await counterparts.changes(there.id)
    await counterparts.take(there.id)
    await counterparts.place(there.id, 'north')
    const second = new Service({ baseUrl: small.service.baseUrl, token: small.token, fetch: checking }).site('second')
    await second.adoptModel((await second.compareModelFrom('marram')).id)
    await second.planCopy({ from: 'marram' })
    await second.waitFor(await second.copy({ from: 'marram', types: ['museum'] }, true))
    const { ordering } = owner
    const machine = await ordering.addConnector({ label: 'Machine', address: 'http://127.0.0.1:1/' })
    await ordering.changeConnector(machine.id, { locales: ['nl'] })
    await ordering.connectors()
    const rule = { label: 'Museums', connector: machine.id, event: 'entry.published', type: 'museum' } as const
    const { id: ruled } = await ordering.addRule(rule)
    await ordering.enableRule(ruled, false)
    await ordering.rules()
    const { id: untranslated } = await owner.create({ type: 'museum', values: { name: { en: 'The Boatyard' } } })
    const order = await ordering.order({ connector: machine.id, locale: 'nl', ids: [untranslated] })
    await ordering.orders()
    await ordering.orderWith(order.id)
    await ordering.orderEntries(order.id)
    await ordering.stopOrder(order.id)
    // The service itself translates nothing: what is sent to it has failed at once.
    await ordering.changeConnector(machine.id, { address: `${small.service.baseUrl}/translate` })
    const failing = await ordering.order({ connector: machine.id, locale: 'nl', ids: [untranslated] })
    const untilFailed = async () => {
      while ((await ordering.orderWith(failing.id)).state === 'running') await new Promise((go) => setTimeout(go, 50))
    }
    await untilFailed()
    await ordering.retryOrder(failing.id)
    // Nothing runs beside what is tried next.
    await untilFailed()
    await ordering.removeRule(ruled)
    await ordering.removeConnector(machine.id)
    await owner.members()
    await service.accounts()
    const link = await service.makePasswordLink(account)
    const signed = await plain.usePasswordLink({
      code: new URL(link.address).hash.slice(1),
      password: 'another password',
      as: 'token',
    })
    const ilse = new Service({ baseUrl: small.service.baseUrl, token: signed.token!, fetch: checking })
    await ilse.changePassword({ current: 'another password', password: 'a third password' })
    await ilse.signOutEverywhere()
    await service.setAccountDisabled(account, true)
    await owner.removeMember(account)
    const { id: revoked } = await owner.invite({ email: 'nobody@marram.example', role: 'viewer' })
    await owner.revokeInvitation(revoked)
    const { address } = await owner.invite({ email: 'tomas@marram.example', role: 'translator', locales: ['nl'] })
    await owner.invitations()
    const code = new URL(address).hash.slice(1)
    await plain.invitation(code)
    const invited = await plain.acceptInvitation({ code, name: 'Tomas', password: 'a long password', as: 'token' })
    const tomas = new Service({ baseUrl: small.service.baseUrl, token: invited.token!, fetch: checking })
    await tomas.changeAccount({ name: 'Tomas', language: 'nl', timeZone: 'Europe/Amsterdam' })
    await tomas.endSession((await tomas.sessions()).sessions[0]!.id)
    const key = await owner.createKey({ label: 'Site', scope: 'published' })
    await owner.keys()
    await owner.revokeKey(key.id)
    await owner.setFrontEnd('site', {
      label: 'Site',
      origins: ['http://127.0.0.1:9'],
      enter: { '*': 'http://127.0.0.1:9/{path}?code={code}' },
    })
    await owner.frontEnds()
    await owner.preview(lighthouse, 'site')
    await raw('/sites/marram/grants', { method: 'DELETE' })
    await owner.removeFrontEnd('site')
    const messages = {
      automation: 'messages',
      label: 'Messages',
      starts: { by: 'address' },
      steps: [
        {
          do: 'each',
          in: 'trigger.body.names',
          steps: [{ do: 'create', type: 'museum', values: { name: { en: 'item' } } }],
        },
        { do: 'call', address: '"http://127.0.0.1:9/"', if: 'false' },
      ],
    } as const
    const { versions } = await owner.automations.compare([messages])
    await owner.automations.adopt([messages], versions)
    await owner.automations.try(messages, { body: { names: ['Mill'] } })
    await owner.automations.set({ ...messages, label: 'All messages' }, 1)
    await owner.automations.enable('messages', true)
    const { secret: messageSecret } = await owner.automations.makeSecret('messages')
    await owner.automations.setSecret('messages', 'token', 'quiet')
    await owner.automations.removeSecret('messages', 'token')
    const { run: messageRun } = (await (
      await raw('/sites/marram/inbound/messages', {
        method: 'POST',
        headers: { Authorization: `Bearer ${messageSecret}` },
        body: JSON.stringify({ names: ['Mill', 'Quay'] }),
      })
    ).json()) as { run: string }
    await expect.poll(async () => (await owner.automations.getRun(messageRun)).state, { timeout: 20_000 }).toBe('done')
    await owner.automations.list()
    await owner.automations.get('messages')
    await owner.automations.runs('messages')
    await owner.automations.items(messageRun)
    const waits = {
      automation: 'waits',
      label: 'Waits',
      starts: { by: 'hand', on: 'site' },
      steps: [{ do: 'wait', until: 'now + 1 hour' }],
    } as const
    await owner.automations.set(waits)
    const [waiting] = (await owner.automations.run('waits')).runs
    await owner.automations.stop(waiting!)
    await owner.automations.retry(waiting!)
    await owner.automations.remove('waits')
    const [webhook] = (await owner.webhooks.list()).webhooks
    await expect
      .poll(
        async () =>
          (await owner.webhooks.deliveries(webhook!.id)).deliveries.some(({ attempts }) => attempts.length > 0),
        {
          timeout: 20_000,
        },
      )
      .toBe(true)
    const [delivery] = (await owner.webhooks.deliveries(webhook!.id)).deliveries
    await owner.webhooks.resend(webhook!.id, delivery!.id)
    await owner.webhooks.delivery(webhook!.id, delivery!.id)
    await owner.webhooks.resendSpan(webhook!.id, { from: '2026-01-01T00:00:00Z' })
    await owner.webhooks.preview({ events: ['entry.published'], merge: 'act' })
    await owner.webhooks.test(webhook!.id)
    const { secrets } = await owner.webhooks.addSecret(webhook!.id)
    await owner.webhooks.endSecret(webhook!.id, secrets[1]!.id)
    await owner.webhooks.change(webhook!.id, { label: 'The site', events: ['entry.published'], enabled: false })
    await owner.webhooks.remove(webhook!.id)
    await owner.events(0, 500)
    await receiver.stop()
    expect(misfits.splice(0)).toEqual([])
    expect(failedTries).toEqual([])
    const tryable = Object.values(document.paths)
      .flatMap((methods) => Object.values(methods))
      .filter(({ parameters }) => parameters.some(({ name }) => name === 'Dry-Run'))
    expect([...new Set(tried)].sort()).toEqual(tryable.map(({ operationId }) => operationId).sort())
    const all = Object.values(document.paths).flatMap((methods) =>
      Object.values(methods).map(({ operationId }) => operationId),
    )
    // Setting up happens once, before the document can be read; connectors call the other, signed.
    expect(all.filter((name) => !answered.has(name))).toEqual([
      'postServiceSetUp',
      'postSitesSiteTranslationsRequestsRequest',
    ])
  })

  it('describes what is refused: versions that are not met, and whatever is sent', { timeout: 120_000 }, async () => {
    const id = await museum('Refused')
    const path = `${small.service.baseUrl}/edit/v1/sites/marram/entries/${id}`
    const send = (method: string, headers: Record<string, string>, body: unknown, at = path) =>
      checking(at, {
        method,
        headers: { Authorization: `Bearer ${small.token}`, 'Content-Type': 'application/merge-patch+json', ...headers },
        body: JSON.stringify(body),
      })
    expect((await send('PATCH', {}, { values: {} })).status).toBe(428)
    expect((await send('PATCH', { 'If-Match': '"v9"' }, { values: {} })).status).toBe(412)
    expect((await send('PATCH', { 'If-Match': 'v1' }, { values: {} })).status).toBe(400)
    const { parameters } = document.paths['/edit/v1/sites/{site}/entries/{id}']!['patch']!
    expect(parameters.map(({ name }) => name)).toContain('If-Match')
    const operations = Object.entries(document.paths).flatMap(([template, methods]) =>
      Object.keys(methods).map((method) => ({ template, method })),
    )
    const harmful = /session|sign-out|\/open$|rebuild|password/
    const asked = fc.record({
      operation: fc.constantFrom(...operations.filter(({ template }) => !harmful.test(template))),
      id: fc.constantFrom(id, 'museum', 'nothing', '%00', '00000000000000000000'),
      body: fc.oneof(fc.jsonValue(), fc.record({ values: fc.jsonValue() }), fc.constant(undefined)),
      token: fc.constantFrom(small.token, small.token, 'wk_nothing', ''),
      match: fc.constantFrom(undefined, '"v1"', '*', 'v'),
      query: fc.constantFrom('', '', '?first=0', '?nonsense=1', '?after=x', '?locales=xx'),
    })
    await fc.assert(
      fc.asyncProperty(asked, async ({ operation, id: value, body, token, match, query }) => {
        const { template, method } = operation
        const filled = template.replace('{site}', 'marram').replace(/\{\w+\}/g, value)
        await checking(small.service.baseUrl + filled + query, {
          method: method.toUpperCase(),
          headers: {
            'Content-Type': 'application/json',
            ...(token ? { Authorization: `Bearer ${token}` } : {}),
            ...(match ? { 'If-Match': match } : {}),
          },
          ...(method === 'get' || body === undefined ? {} : { body: JSON.stringify(body) }),
        })
        expect(misfits.splice(0)).toEqual([])
      }),
      { numRuns: often(400, 4000), endOnFailure: true },
    )
    expect((await refusal(() => owner.entry('nothing'))).message).toContain('There is no entry')
  })

  it('describes what comes of good requests that were made bad', { timeout: 120_000 }, async () => {
    const id = await museum('Mutated')
    // Each copy of a site would be long work beside the next request; its plan takes the same body.
    const calls = good.filter(({ template }) => !/session|sign-out|password|disabled|copies$/.test(template))
    expect(new Set(calls.map(({ method, template }) => `${method} ${template}`)).size).toBeGreaterThan(30)
    const asked = fc.constantFrom(...calls).chain((call) => fc.tuple(fc.constant(call), mutated(call.body)))
    await fc.assert(
      fc.asyncProperty(asked, async ([{ method, template, pathname }, body]) => {
        // On an existing entry: the one of an earlier request may be gone.
        const at = template.includes('/entries/{id}')
          ? template.replace('{site}', 'marram').replace('{id}', id)
          : pathname
        const type = template.endsWith('/entries/{id}') ? 'application/merge-patch+json' : 'application/json'
        const answer = await checking(small.service.baseUrl + at, {
          method: method.toUpperCase(),
          headers: { 'Content-Type': type, Authorization: `Bearer ${small.token}`, 'If-Match': '*' },
          ...(body === undefined ? {} : { body: JSON.stringify(body) }),
        })
        expect(answer.status, await answer.text()).toBeLessThan(500)
        expect(misfits.splice(0)).toEqual([])
      }),
      { numRuns: often(200, 10_000), endOnFailure: true },
    )
    // A bulk action may have deleted that entry; the service still answers.
    expect((await owner.settings()).name).toBe('marram')
  })
})
