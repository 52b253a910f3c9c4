import { WisteriaError } from '@wisteria/core'
import { hasAccounts } from '@wisteria/store'
import { z } from 'zod'
import { createAccount, email, password, personName } from '../access/accounts.js'
import { route, type Route } from '../kernel/route.js'
import { setUpCodeOf } from '../access/setUpCode.js'
import { openSession } from '../access/sessionRoutes.js'
import { hashPassword } from '../access/secrets.js'
import { createSite, newSite } from './siteRoutes.js'

/** The set-up of a service: its first owner and its first site. */
export const setUpRoutes: readonly Route[] = [
  route({
    method: 'GET',
    path: '/edit/v1/service',
    summary: 'Whether the service still needs its set-up.',
    permission: 'anyone',
    handle: async ({ kernel }) => ({ body: { waitsForOwner: !(await hasAccounts(kernel.database)) } }),
  }),
  route({
    method: 'POST',
    path: '/edit/v1/service/set-up',
    summary:
      'Creates the first owner and the first site, with the one-time code that the service printed at its start.',
    permission: 'anyone',
    guarded: () => 'set-up code',
    body: z.strictObject({
      code: z.string().max(200),
      email,
      name: personName,
      password,
      site: newSite,
      as: z.enum(['cookie', 'token']).default('cookie'),
    }),
    handle: async (request) => {
      const { code, name, site, as } = request.body
      const passwordHash = await hashPassword(request.body.password)
      let account = ''
      await request.kernel.write(async (transaction) => {
        if (await hasAccounts(transaction))
          throw new WisteriaError('conflict', 'The service has an owner already. Sign in.')
        if (!setUpCodeOf(request.kernel).matches(code))
          throw new WisteriaError('forbidden', 'This code is not the one that the service printed at its last start.')
        account = await createAccount(request.kernel, transaction, {
          email: request.body.email,
          name,
          passwordHash,
          operator: true,
        })
        await createSite(request.kernel, transaction, site, account)
      })
      setUpCodeOf(request.kernel).forget()
      return openSession(request, account, as)
    },
  }),
]
