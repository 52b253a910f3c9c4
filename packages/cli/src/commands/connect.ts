import { Service } from '@wisteria/client'
import type { Command } from 'commander'
import { namedFetch, saveConnection, UsageError } from '../connection.js'
import { readSecret } from '../input.js'
import { print, printJson } from '../output.js'

export function addConnect(program: Command): void {
  program
    .command('connect')
    .summary('sign in to a service, for the commands that follow')
    .description(
      'Signs in and saves the connection. With --key it saves an access key instead. Secrets are asked for, or taken from the environment:\nWISTERIA_PASSWORD, or WISTERIA_TOKEN with --key.',
    )
    .argument('<url>', 'where the service is, e.g. http://localhost:4080')
    .option('--email <address>', 'your account')
    .option('--key', 'connect with an access key instead of an account')
    .option('--site <name>', 'the site to work on; may be left out if you are a member of only one')
    .option('--json', 'print JSON')
    .action(async (url: string, options: { email?: string; key?: boolean; site?: string; json?: boolean }) => {
      if (!URL.canParse(url) || !/^https?:/.test(url))
        throw new UsageError(`${url} is not an address such as http://localhost:4080.`)
      const baseUrl = url.replace(/\/+$/, '')
      const { token, site } = options.key
        ? await connectByKey(baseUrl, options.site)
        : await connectByAccount(baseUrl, options.email, options.site)
      const path = saveConnection({ url: baseUrl, site, token })
      if (options.json) printJson({ url: baseUrl, site, file: path })
      else print(`Connected to ${site} at ${baseUrl}. Saved in ${path}.`)
    })
}

async function connectByKey(baseUrl: string, site: string | undefined) {
  if (!site) throw new UsageError('Name the site that the key belongs to: --site NAME.')
  const token = await readSecret('WISTERIA_TOKEN', 'Access key')
  await new Service({ baseUrl, token, fetch: namedFetch }).site(site).settings()
  return { token, site }
}

async function connectByAccount(baseUrl: string, email: string | undefined, wanted: string | undefined) {
  if (!email) throw new UsageError('Name your account: --email you@example.org. Or connect with --key.')
  const signedIn = await new Service({ baseUrl, fetch: namedFetch }).signIn({
    email,
    password: await readSecret('WISTERIA_PASSWORD', `Password of ${email}`),
    as: 'token',
  })
  const names = signedIn.sites.map((site) => site.name)
  if (names.length === 0) throw new UsageError('This account is a member of no site.')
  if (wanted === undefined && names.length > 1) throw new UsageError(`Choose a site with --site: ${names.join(', ')}.`)
  const site = wanted ?? names[0]!
  if (!names.includes(site))
    throw new UsageError(`You are not a member of a site \`${site}\`. Your sites: ${names.join(', ')}.`)
  return { token: signedIn.token!, site }
}
