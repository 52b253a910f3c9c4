import { existsSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { fork, type ChildProcess } from 'node:child_process'
import { once } from 'node:events'
import { join } from 'node:path'
import type { Editor } from '@wisteria/client'
import { Service } from '@wisteria/client'
import {
  demoOwner,
  demoPassword,
  demoSite,
  fillDay,
  seedDemo,
  startFrontEnd,
  type RunningFrontEnd,
  type Seeded,
} from '@wisteria/demo'
import { startService, type RunningService } from '@wisteria/service'
import { OptionError, type ServiceOptions } from '@wisteria/service/options'
import { print, printJson, progress, say } from './output.js'
import { stopOnSignal } from './commands/serve.js'

interface Access extends Seeded {
  readonly baseUrl: string
  readonly site: string
  readonly frontEndUrl: string
  /** Of the connector to the simulated translator. */
  readonly connectorSecret: string
}

/** Marks a folder as the demo's, so that `--fresh` never deletes any other. */
const marker = 'demo-world'
const files = ['wisteria.db', 'wisteria.db-wal', 'wisteria.db-shm', 'demo-access.json', marker]

interface Flags {
  readonly fresh?: boolean | undefined
  readonly json?: boolean | undefined
}

/** Runs the service with the demo world, which is made first where it is not there yet, and its front end. */
export async function runDemo(options: ServiceOptions, { fresh, json }: Flags): Promise<void> {
  const has = (file: string): boolean => existsSync(join(options.data, file))
  if (has('wisteria.db') && !has(marker))
    throw new OptionError(
      `${options.data} holds a database that the demo did not make. Choose another folder with --data.`,
    )
  if (fresh) for (const file of files) rmSync(join(options.data, file), { force: true })
  const accessFile = join(options.data, 'demo-access.json')
  const isNew = !has('wisteria.db')
  if (!isNew && !existsSync(accessFile))
    throw new OptionError(`The demo in ${options.data} was not finished. Start it over with --fresh.`)
  if (options.port > 65533)
    throw new OptionError(
      '--port must leave room for the sample front end and the simulated translator on the next two ports.',
    )
  const service = await startService(options)
  if (isNew)
    writeFileSync(join(options.data, marker), 'Made by `wisteria demo`, which may throw it away with --fresh.\n')
  let frontEnd: RunningFrontEnd | undefined
  let translator: ChildProcess | undefined
  const stop = async () => {
    translator?.kill()
    await frontEnd?.stop()
    await service.stop()
  }
  stopOnSignal(stop)
  try {
    // Cookies ignore ports, so the two have different hosts.
    const baseUrl = service.baseUrl.replace('127.0.0.1', 'localhost')
    const seeded: Seeded & { readonly connectorSecret?: string } = isNew
      ? await seed(service)
      : (JSON.parse(readFileSync(accessFile, 'utf8')) as Access)
    let webhookSecret = ''
    frontEnd = await startFrontEnd({
      baseUrl,
      site: demoSite.name,
      key: seeded.keys.published,
      webhookSecret: () => webhookSecret,
      port: options.port === 0 ? 0 : options.port + 1,
      host: '127.0.0.1',
    }).catch((error: NodeJS.ErrnoException) => {
      throw new OptionError(
        error.code === 'EADDRINUSE'
          ? `Port ${options.port + 1}, for the sample front end, is taken. Choose another --port.`
          : error.message,
      )
    })
    const owner = await signInOwner(baseUrl)
    webhookSecret = await introduce(owner, frontEnd.address)
    if (isNew) await fillDay(owner, Date.now())
    const begun = await beginTranslator(options.port === 0 ? 0 : options.port + 2)
    translator = begun.process
    const connectorSecret = await introduceTranslator(owner, begun.address, seeded.connectorSecret ?? '')
    translator.send(connectorSecret)
    if (isNew)
      await owner.ordering.order({ connector: translatorLabel, locale: 'ar', type: 'notice' }).catch(() => undefined)
    const access: Access = {
      baseUrl,
      site: demoSite.name,
      frontEndUrl: frontEnd.address,
      keys: seeded.keys,
      users: seeded.users,
      connectorSecret,
    }
    writeFileSync(accessFile, JSON.stringify(access, null, 2) + '\n', { mode: 0o600 })
    if (json) printJson(access)
    else announce(access, accessFile)
  } catch (error) {
    await stop()
    if (isNew) for (const file of files) rmSync(join(options.data, file), { force: true })
    throw error
  }
}

async function seed(service: RunningService): Promise<Seeded> {
  say('Making the demo world…')
  return seedDemo({
    baseUrl: service.baseUrl,
    setUpCode: new URL(service.setUpAddress!).hash.slice(1),
    onProgress: progress,
  })
}

async function signInOwner(baseUrl: string): Promise<Editor> {
  const { token } = await new Service({ baseUrl }).signIn({
    email: demoOwner.email,
    password: demoPassword,
    as: 'token',
  })
  return new Service({ baseUrl, token }).site(demoSite.name)
}

/** Registers the front end at its present address, and its webhook again: a webhook's secret is shown only when it is made. */
async function introduce(editor: Editor, address: string): Promise<string> {
  await editor.setFrontEnd('site', {
    label: 'Museum site',
    origins: [address],
    enter: { '*': `${address}/preview/enter?code={code}&to={path}` },
  })
  const { webhooks } = await editor.webhooks.list()
  const old = webhooks.filter((webhook) => webhook.label === 'Museum site')
  const { secret } = await editor.webhooks.create({ label: 'Museum site', address: `${address}/hooks/wisteria` })
  for (const webhook of old) await editor.webhooks.remove(webhook.id)
  return secret
}

const translatorLabel = 'Demo machine'

/** Starts the simulated translator as a process of its own, which ends with this one. */
async function beginTranslator(port: number): Promise<{ process: ChildProcess; address: string }> {
  const begun = fork(process.argv[1]!, ['demo-translator', '--port', String(port), '--seconds', '2'])
  const [address] = (await Promise.race([
    once(begun, 'message'),
    once(begun, 'exit').then(() => {
      throw new OptionError(`Port ${port}, for the simulated translator, is taken. Choose another --port.`)
    }),
  ])) as [string]
  return { process: begun, address }
}

/**
 * Registers the simulated translator at its present address.
 * @param secret of its connector, from an earlier start: it is shown only when the connector is made.
 * @returns its secret.
 */
async function introduceTranslator({ ordering }: Editor, address: string, secret: string): Promise<string> {
  const { connectors } = await ordering.connectors()
  const known = connectors.find(({ label }) => label === translatorLabel)
  if (known && secret !== '') {
    await ordering.changeConnector(known.id, { address })
    return secret
  }
  if (known) await ordering.removeConnector(known.id)
  return (await ordering.addConnector({ label: translatorLabel, address, locales: ['nl', 'ar'] })).secret
}

function announce({ baseUrl, frontEndUrl, users }: Access, file: string): void {
  const width = Math.max(...users.map((user) => user.email.length))
  print(`
  Console         ${baseUrl}/console/
  Museum site     ${frontEndUrl}/

  Sign in as, with the password ${users[0]!.password}:
${users.map((user) => `    ${user.email.padEnd(width)}  ${user.role}`).join('\n')}

  Keys for trying out the APIs are in ${file}
  Ctrl-C stops. What you change is kept; --fresh starts over.
`)
}
