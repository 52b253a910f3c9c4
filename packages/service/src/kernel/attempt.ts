import { WisteriaError } from '@wisteria/core'
import { withSavepoint, type Transaction } from '@wisteria/store'

/** Does work inside a savepoint: a failure rolls back only this part. */
export async function tryOrRefuse<Result>(
  transaction: Transaction,
  work: () => Promise<Result>,
): Promise<Result | WisteriaError> {
  try {
    return await withSavepoint(transaction, work)
  } catch (error) {
    if (error instanceof WisteriaError) return error
    throw error
  }
}

/** Why something cannot be done, with every place that blocks it. */
export const whyNot = (error: WisteriaError): string =>
  error.problems.length > 1 ? error.problems.map((problem) => problem.message).join(' ') : error.message
