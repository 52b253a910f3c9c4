import { WisteriaError } from '@wisteria/core'
import type { Transaction } from '@wisteria/store'
import type { Kernel } from './kernel.js'
import type { Answer, Route } from './route.js'

/** The header that asks for a dry run, also set on its answer. */
export const dryRunHeader = 'Dry-Run'

/** Whether a route changes something of a site in one transaction, which can be tried and rolled back. */
export const hasDryRun = ({ method, path, insteadOfDryRun }: Route): boolean =>
  method !== 'GET' && path.startsWith('/edit/v1/sites') && insteadOfDryRun === undefined

/**
 * Whether a request asks for a dry run.
 * @throws WisteriaError where the route cannot have one: it would really do it.
 */
export function asksForDryRun(route: Route, header: string | readonly string[] | undefined): boolean {
  if (header === undefined || route.method === 'GET') return false
  if (header === 'false') return false
  if (header !== 'true') throw new WisteriaError('badRequest', `\`${dryRunHeader}\` is \`true\` or \`false\`.`)
  if (hasDryRun(route)) return true
  throw new WisteriaError(
    'badRequest',
    `This operation has no dry run, so nothing was done. ${route.insteadOfDryRun ?? `Send it without \`${dryRunHeader}\`.`}`,
  )
}

/** Thrown to roll back, with the answer. */
class Tried extends Error {
  constructor(readonly answer: Answer) {
    super('Tried, and rolled back.')
  }
}

/** Does the work and rolls all of it back. @returns the answer. */
export async function tryOut(kernel: Kernel, work: (transaction: Transaction) => Promise<Answer>): Promise<Answer> {
  try {
    await kernel.write(async (transaction) => {
      throw new Tried(await work(transaction))
    })
  } catch (error) {
    if (!(error instanceof Tried)) throw error
    const { headers, ...answer } = error.answer
    return { ...answer, headers: { ...headers, [dryRunHeader]: 'true' } }
  }
  throw new Error('A dry run was not rolled back.')
}
