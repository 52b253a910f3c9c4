import type { Transaction } from './reader.js'

/** Does a part of a transaction: when it rejects, only this part is rolled back. */
export async function withSavepoint<Result>(transaction: Transaction, work: () => Promise<Result>): Promise<Result> {
  await transaction.run('savepoint part')
  try {
    const result = await work()
    await transaction.run('release part')
    return result
  } catch (error) {
    await transaction.run('rollback to part')
    await transaction.run('release part')
    throw error
  }
}
