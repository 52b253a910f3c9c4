import { readdirSync } from 'node:fs'
import { Agent, request } from 'node:http'
import { join } from 'node:path'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { eventually, startSmall, type SmallSite } from './support/running.js'

/** A request that is refused before its body was read to the end leaves its connection usable for the next. */
let small: SmallSite
beforeAll(async () => {
  small = await startSmall({ maxUpload: 1 })
})
afterAll(() => small.service.end())

/** One request on that connection; `null` without an answer within five seconds. */
const ask = (agent: Agent, method: string, path: string, body?: Buffer, headers: Record<string, string> = {}) =>
  new Promise<number | null>((resolve, reject) => {
    const sent = request(
      small.service.baseUrl + path,
      { method, agent, headers: { Authorization: `Bearer ${small.token}`, ...headers } },
      (answer) => {
        answer.resume().once('end', () => resolve(answer.statusCode!))
      },
    )
    sent.setTimeout(5_000, () => (resolve(null), sent.destroy()))
    sent.once('error', reject)
    // In pieces, so that its length is not known before.
    for (let at = 0; body && at < body.length; at += 65_536) sent.write(body.subarray(at, at + 65_536))
    sent.end()
  })

const edit = '/edit/v1/sites/marram'
const json = { 'Content-Type': 'application/json' }
const file = { 'Content-Type': 'application/octet-stream' }

describe('a body that is refused', () => {
  it.each([
    ['a file that is too large', `${edit}/assets/upload?name=a.txt`, file, 413],
    ['JSON that is too large', `${edit}/entries`, json, 413],
    ['a body that a small route does not take', '/edit/v1/session', json, 413],
    ['a body from nobody', `${edit}/entries`, { ...json, Authorization: 'Bearer wk_nobody' }, 401],
    ['a body of the Read API', '/read/v1/marram/graphql', json, 413],
    ['a body where there is nothing', `${edit}/nothing`, json, 404],
  ] as const)('%s keeps the connection for the next request', async (_, path, headers, status) => {
    const agent = new Agent({ keepAlive: true, maxSockets: 1 })
    expect(await ask(agent, 'POST', path, Buffer.alloc(12_000_000, 'x'), headers)).toBe(status)
    expect(await ask(agent, 'GET', edit)).toBe(200)
    agent.destroy()
  })
  it('that is broken off leaves nothing behind, and is no error of ours', async () => {
    const coming = join(small.service.folder, 'assets', 'coming')
    const sent = request(`${small.service.baseUrl}${edit}/assets/upload?name=b.txt`, {
      method: 'POST',
      headers: { Authorization: `Bearer ${small.token}`, ...file },
    })
    sent.on('error', () => undefined)
    sent.write(Buffer.alloc(100_000, 'x'))
    await eventually(
      () => readdirSync(coming),
      (files) => files.length === 1,
    )
    sent.destroy()
    await eventually(
      () => readdirSync(coming),
      (files) => files.length === 0,
    )
    expect((await small.owner.assets()).assets).toEqual([])
  })
})
