import type { Automation } from '@wisteria/core'
import { startOutside, type RunningOutside } from '@wisteria/demo'
import { spawn, spawnSync } from 'node:child_process'
import { fileURLToPath } from 'node:url'
import { createTransport } from 'nodemailer'
import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest'
import { eventually, startSmall, type SmallSite } from './support/running.js'

/* The simulated world outside, which ships with the project, and what automations and webhooks send to it. */

let outside: RunningOutside
let small: SmallSite
let shift = 0
let number = 0
beforeAll(async () => {
  outside = await startOutside({ port: 0, mailPort: 0 })
  small = await startSmall({ mailServer: outside.mail, mailFrom: 'wisteria@marram.example' }, () => Date.now() + shift)
})
beforeEach(() => outside.behave({ status: 200, seconds: 0, vanishes: false }))
afterAll(async () => {
  await small.service.end()
  await outside.stop()
})

const run = async (steps: Automation['steps']) => {
  const { automations } = small.owner
  const name = `tells-${++number}`
  await automations.set({ automation: name, label: 'Tells', starts: { by: 'hand', on: 'site' }, steps })
  const { runs } = await automations.run(name)
  return () => automations.getRun(runs[0]!)
}
const ended = async (steps: Automation['steps']) => {
  const look = await run(steps)
  return eventually(look, ({ state }) => state !== 'running')
}
const mail = (more: object = {}) =>
  ({
    do: 'mail',
    name: 'mail',
    to: '"teun@marram.example"',
    subject: '"Sold out"',
    text: '"Night Walk"',
    ...more,
  }) as const

describe('a mail', () => {
  it('goes to one address or to several, with text of any language', async () => {
    const done = await ended([
      mail({
        to: '["teun@marram.example", "ilse@marram.example"]',
        subject: '"مشي \\n ليلي"',
        text: '"Één regel\\nنص"',
      }),
    ])
    expect(done).toMatchObject({
      state: 'done',
      results: { mail: { status: 250 } },
      log: [{ do: 'mail', status: 250 }],
    })
    const got = outside.sent.at(-1)!
    expect(got).toMatchObject({
      to: 'mail',
      headers: {
        from: 'wisteria@marram.example',
        to: 'teun@marram.example, ilse@marram.example',
        'auto-submitted': 'auto-generated',
        'message-id': `<${done.id}.run.0@marram.example>`,
      },
    })
    expect(got.headers['subject']).toBe('مشي ليلي')
    expect(got.body.trim().split(/\r?\n/)).toEqual(['Één regel', 'نص'])
  })
  it('is handed over again where the server has no time, with the same id, and given up where it refuses', async () => {
    outside.behave({ status: 451 })
    const before = outside.sent.length
    const look = await run([mail()])
    const waits = await eventually(look, ({ message }) => message !== '')
    expect(waits).toMatchObject({ state: 'running', message: expect.stringContaining('did not take it') as string })
    outside.behave({ status: 200 })
    shift += 60_000
    expect((await eventually(look, ({ state }) => state !== 'running')).state).toBe('done')
    const ids = outside.sent.slice(before).map(({ headers }) => headers['message-id'])
    expect([ids.length > 1, new Set(ids).size]).toEqual([true, 1])
    outside.behave({ status: 550 })
    expect((await ended([mail()])).state).toBe('failed')
  })
  it.each([
    ['"not an address"', /`to`: “not an address” is not an e-mail address/],
    ['"a@marram.example\\nBcc: b@marram.example"', /is not an e-mail address/],
    ['[]', /`to` has no address/],
  ])('to %s is refused', async (to, message) => {
    const before = outside.sent.length
    const failed = await ended([mail({ to })])
    expect([failed.state, failed.message]).toEqual(['failed', expect.stringMatching(message)])
    expect(outside.sent).toHaveLength(before)
  })
  it('is shown by a try, and not sent', async () => {
    const before = outside.sent.length
    const tried = await small.owner.automations.try({
      automation: 'tells',
      label: 'Tells',
      starts: { by: 'hand', on: 'site' },
      steps: [mail()],
    })
    expect(tried.calls).toMatchObject([
      { method: 'MAIL', address: 'teun@marram.example', body: 'Sold out\n\nNight Walk' },
    ])
    expect(outside.sent).toHaveLength(before)
  })
  it('says what is missing where the service has no mail server', async () => {
    const bare = await startSmall()
    try {
      const { automations } = bare.owner
      await automations.set({
        automation: 'tells',
        label: 'Tells',
        starts: { by: 'hand', on: 'site' },
        steps: [mail()],
      })
      const { runs } = await automations.run('tells')
      const failed = await eventually(
        () => automations.getRun(runs[0]!),
        ({ state }) => state !== 'running',
      )
      expect(failed.message).toContain('--mail-server')
    } finally {
      await bare.service.end()
    }
  })
})

describe('the simulated world', () => {
  it('gets what chats, calls and webhooks are sent, and tells it', async () => {
    await small.owner.webhooks.create({ label: 'Outside', address: outside.receiver, events: ['entry.created'] })
    const done = await ended([
      { do: 'chat', address: `"${outside.chat}"`, text: '"Sold out"' },
      { do: 'create', type: 'museum', values: { name: { en: '"Outside"' } } },
    ])
    expect(done.state).toBe('done')
    await eventually(
      () => outside.sent,
      (sent) => sent.some(({ to }) => to === 'receiver'),
    )
    const told = (await (await fetch(new URL('/', outside.receiver))).json()) as {
      sent: { to: string; body: string }[]
    }
    expect(told.sent.filter(({ to }) => to === 'chat').map(({ body }) => body)).toEqual(['{"text":"Sold out"}'])
  })
  it('is told how to answer, also by HTTP, and refuses what it does not know', async () => {
    const tell = (body: string) => fetch(new URL('/', outside.receiver), { method: 'PUT', body })
    expect((await tell('{ "status": 503 }')).status).toBe(200)
    expect((await fetch(outside.chat, { method: 'POST', body: '{}' })).status).toBe(503)
    expect((await tell('{ "vanishes": true }')).status).toBe(200)
    await expect(fetch(outside.chat, { method: 'POST', body: '{}' })).rejects.toThrow('fetch failed')
    for (const wrong of ['', '[1', '{ "status": "fine" }', '{ "speed": 1 }', '{ "vanishes": 1 }'])
      expect((await tell(wrong)).status, wrong).toBe(400)
    expect((await fetch(new URL('/elsewhere', outside.receiver))).status).toBe(404)
  })
  it('ends where one of its ports is taken', async () => {
    const taken = Number(new URL(outside.mail).port)
    await expect(startOutside({ port: 0, mailPort: taken })).rejects.toThrow('EADDRINUSE')
    const main = fileURLToPath(new URL('../packages/cli/dist/main.js', import.meta.url))
    const ended = spawnSync(process.execPath, [main, 'demo-outside', '--port', '0', '--mail-port', String(taken)], {
      timeout: 30_000,
      encoding: 'utf8',
    })
    expect([ended.status, ended.stderr.trim()]).toEqual([2, expect.stringContaining('A port is taken.')])
  })
  it('is started by one command, which prints what comes', async () => {
    const main = fileURLToPath(new URL('../packages/cli/dist/main.js', import.meta.url))
    const child = spawn(process.execPath, [main, 'demo-outside', '--port', '0', '--mail-port', '0'], { stdio: 'pipe' })
    let printed = ''
    child.stdout.on('data', (chunk: Buffer) => (printed += chunk.toString()))
    try {
      await eventually(
        () => printed,
        (text) => text.includes('What came'),
      )
      const [chat] = /http:\S+\/chat/.exec(printed)!
      await fetch(chat, { method: 'POST', body: '{"text":"Here"}' })
      const transport = createTransport(/smtp:\S+/.exec(printed)![0])
      await transport.sendMail({ from: 'a@marram.example', to: 'b@marram.example', subject: 'Hello', text: 'There' })
      transport.close()
      const lines = await eventually(
        () => printed.split('\n').filter((line) => /^(chat|mail) /.test(line)),
        (all) => all.length === 2,
      )
      expect(lines).toEqual(['chat     200  {"text":"Here"}', 'mail     250  to b@marram.example: Hello'])
    } finally {
      child.kill('SIGTERM')
    }
  })
})
