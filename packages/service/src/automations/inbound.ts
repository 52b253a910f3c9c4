import { timingSafeEqual } from 'node:crypto'
import type { IncomingHttpHeaders } from 'node:http'
import type { Readable } from 'node:stream'
import { holds, makeId, readAutomation, valueOfExpression, WisteriaError, type Data } from '@wisteria/core'
import { automationNamed, insertRun, runWithKey, type StoredAutomation } from '@wisteria/store'
import { requireShallow } from '../kernel/nesting.js'
import { perKernel } from '../kernel/perKernel.js'
import { route, type Route } from '../kernel/route.js'
import { RateLimiter } from '../kernel/rateLimiter.js'
import { isSigned } from '../outgoing/signing.js'

/** The most bytes of a message, and the most messages to one address in a minute. */
const mostBytes = 1_000_000
const mostAMinute = 300

const limiterOf = perKernel((kernel) => new RateLimiter(mostAMinute, () => kernel.now))

/** Reads a message whole. @throws WisteriaError `tooLarge` as soon as it is. */
async function readText(file: Readable): Promise<string> {
  const pieces: Buffer[] = []
  let size = 0
  for await (const piece of file as AsyncIterable<Buffer>) {
    size += piece.length
    if (size > mostBytes)
      throw new WisteriaError('tooLarge', `A message has at most ${mostBytes.toLocaleString('en')} bytes.`)
    pieces.push(piece)
  }
  return Buffer.concat(pieces).toString('utf8')
}

/** The data of a message: JSON, or the fields of a form, each a text or a list of texts. */
function bodyIn(text: string, headers: IncomingHttpHeaders): Data {
  const type = (headers['content-type'] ?? '').split(';')[0]!.trim().toLowerCase()
  if (type === 'application/x-www-form-urlencoded') {
    const form = new URLSearchParams(text)
    return Object.fromEntries(
      [...new Set(form.keys())].map((name) => {
        const values = form.getAll(name)
        return [name, values.length > 1 ? values : values[0]!]
      }),
    )
  }
  if (type !== 'application/json' && !type.endsWith('+json'))
    throw new WisteriaError('unsupportedMediaType', 'Send application/json or application/x-www-form-urlencoded.')
  requireShallow(Buffer.from(text))
  try {
    return JSON.parse(text) as Data
  } catch (error) {
    throw new WisteriaError('badRequest', `The body is not JSON: ${(error as Error).message}.`)
  }
}

/** Whether a message comes from somebody who has the secret: in the `Authorization` header, or as a signature. */
function isFrom({ secret }: StoredAutomation, headers: IncomingHttpHeaders, text: string, seconds: number): boolean {
  if (secret === null) return false
  const bearer = /^Bearer +(\S+)$/i.exec(headers.authorization ?? '')?.[1]
  if (bearer === undefined) return isSigned(secret, headers, seconds, text)
  const [given, expected] = [Buffer.from(bearer), Buffer.from(secret)]
  return given.length === expected.length && timingSafeEqual(given, expected)
}

export const inboundRoutes: readonly Route[] = [
  route({
    method: 'POST',
    path: '/edit/v1/sites/{site}/inbound/{automation}',
    summary: `Starts an automation by a message: JSON, or the fields of a form, at most ${mostBytes.toLocaleString('en')} bytes and ${mostAMinute} a minute. The sender proves itself by the secret of the address: \`Authorization: Bearer …\`, or a signature by Standard Webhooks, not older than five minutes. A message with the \`Idempotency-Key\` or \`webhook-id\` of an earlier one starts nothing.`,
    permission: 'anyone',
    insteadOfDryRun: 'A message starts a run, or is refused.',
    isFile: true,
    bodyTypes: ['application/json', 'application/x-www-form-urlencoded'],
    handle: async ({ kernel, site, caller, params, headers, file, address }) => {
      const name = params['automation']!
      const automation = await automationNamed(kernel.database, site.id, name)
      const text = await readText(file)
      const hasAddress = automation?.definition.starts.by === 'address'
      // Whether there is such an address is nobody's business who has not its secret.
      if (!hasAddress || !isFrom(automation, headers, text, Math.floor(kernel.now / 1000))) {
        kernel.logger.warn({ site: site.name, automation: name, address }, 'a message came without the secret')
        throw new WisteriaError(
          caller.is === 'nobody' ? 'unauthenticated' : 'forbidden',
          'Send the secret of this address as `Authorization: Bearer …`, or sign the message with it, at most five minutes ago.',
        )
      }
      const quota = limiterOf(kernel).take(automation.id)
      if (quota?.isOver)
        throw new WisteriaError('tooMany', `More than ${mostAMinute} messages in a minute. Send it again later.`, {
          extra: { retryAfter: quota.seconds },
        })
      if (!automation.isEnabled) throw new WisteriaError('conflict', 'This automation is switched off.')
      const body = bodyIn(text, headers)
      const trigger: Data = { at: kernel.at, body }
      const ready = readAutomation(automation.definition, site.model, site.settings)
      const moment = { now: kernel.now, timeZone: site.settings.timeZone }
      if (ready.where && !holds(ready.where, { trigger }, moment))
        return {
          status: 202,
          body: { run: null, message: 'Accepted: it does not meet the condition, so nothing starts.' },
        }
      const given = headers['idempotency-key'] ?? headers['webhook-id']
      const said = ready.key && valueOfExpression(ready.key, { trigger }, moment)
      const key = said === undefined || said === null ? given?.toString() : JSON.stringify(said)
      if (key !== undefined && key.length > 500)
        throw new WisteriaError('invalid', 'The key of a message has at most 500 characters.')
      return kernel.write(async (transaction) => {
        const id = makeId(kernel.environment)
        const isNew = await insertRun(transaction, {
          id,
          site: site.id,
          automation: automation.id,
          version: automation.version,
          key: key ?? null,
          scope: { trigger },
          cause: [],
          actor: 'address',
          createdAt: kernel.at,
        })
        if (isNew) return { status: 202, body: { run: id } }
        const { id: run } = (await runWithKey(transaction, automation.id, key!))!
        return { status: 202, body: { run, message: 'This message came before: nothing is started again.' } }
      })
    },
  }),
]
