import { WisteriaError, type ManagedAccount, type Environment } from '@wisteria/core'
import { siteIds, type Database } from '@wisteria/store'
import { z } from 'zod'
import {
  accountsOf,
  linkAddress,
  makePasswordLink,
  password,
  requireAccount,
  setDisabled,
  setPassword,
  signOutEverywhere,
} from '../access/accounts.js'
import { readBody } from '../kernel/problems.js'
import { beginNotedHistory } from './positions.js'
import { hashPassword } from '../access/secrets.js'

/** The context of an operation: the running service, or a data folder that no service has open. */
export interface OperatorContext {
  readonly database: Database
  readonly environment: Environment
  /** The data folder. */
  readonly folder: string
  readonly write: Database['write']
  /** Milliseconds since the epoch. */
  readonly now: number
  /** Where the service is reached, without a slash at the end. */
  readonly baseUrl: string
}

const whose = z.strictObject({ email: z.string().trim().toLowerCase() })

const operation = <Body extends z.ZodType, Result>(
  body: Body,
  run: (context: OperatorContext, body: z.infer<Body>) => Promise<Result>,
) => ({ body, run })

const at = (context: OperatorContext): string => new Date(context.now).toISOString()

const viewOf = async (context: OperatorContext, email: string): Promise<ManagedAccount> => {
  const { id } = await requireAccount(context.database, 'email', email)
  return (await accountsOf(context.database)).find((account) => account.id === id)!
}

/** The operations of an operator on the service's own machine, without an account. */
export const operations = {
  accounts: operation(z.strictObject({}), (context) => accountsOf(context.database)),
  passwordLink: operation(whose, async (context, { email }) => {
    const link = await context.write(async (transaction) =>
      makePasswordLink(transaction, await requireAccount(transaction, 'email', email), 'operator', context.now),
    )
    return { address: linkAddress(context.baseUrl, link.code), expiresAt: link.expiresAt }
  }),
  setPassword: operation(whose.extend({ password }), async (context, body) => {
    const hash = await hashPassword(body.password)
    await context.write(async (transaction) =>
      setPassword(transaction, (await requireAccount(transaction, 'email', body.email)).id, hash, at(context)),
    )
    return viewOf(context, body.email)
  }),
  signOut: operation(whose, async (context, { email }) => ({
    sessions: await context.write(async (transaction) =>
      signOutEverywhere(transaction, (await requireAccount(transaction, 'email', email)).id, at(context)),
    ),
  })),
  setDisabled: operation(whose.extend({ disabled: z.boolean() }), async (context, { email, disabled }) => {
    await context.write(async (transaction) =>
      setDisabled(transaction, (await requireAccount(transaction, 'email', email)).id, disabled, at(context)),
    )
    return viewOf(context, email)
  }),
  restored: operation(z.strictObject({}), async ({ database, write, environment, folder }) => {
    await beginNotedHistory(database, write, environment, folder)
    return { sites: (await siteIds(database)).length }
  }),
} as const
export type Operations = typeof operations
export type OperationName = keyof Operations

/** Runs an operation by its name, with a body that may be anything. @throws WisteriaError `notFound`, `badRequest`. */
export async function runOperation(context: OperatorContext, name: string, sent: unknown): Promise<unknown> {
  if (!Object.hasOwn(operations, name)) throw new WisteriaError('notFound', `There is no operation \`${name}\`.`)
  const { body, run } = operations[name as OperationName] as ReturnType<typeof operation>
  return run(context, readBody(body, sent))
}
