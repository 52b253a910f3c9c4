import { randomBytes } from 'node:crypto'
import { existsSync } from 'node:fs'
import { join } from 'node:path'
import { openFolder } from '../kernel/folder.js'
import { OptionError, type ServiceOptions } from '../kernel/options.js'
import { runOperation, type OperationName, type Operations, type OperatorContext } from './operations.js'
import { askService } from './socket.js'

export type OperationResult<Name extends OperationName> = Awaited<ReturnType<Operations[Name]['run']>>

/**
 * Does an operation on a data folder: through the service that runs on it, or without one.
 * @throws OptionError where there is no database, or it cannot be opened; WisteriaError of the operation.
 */
export async function operate<Name extends OperationName>(
  options: ServiceOptions,
  name: Name,
  body: unknown,
): Promise<OperationResult<Name>> {
  if (!existsSync(join(options.data, 'wisteria.db')))
    throw new OptionError(`${options.data} holds no database of a service. Name its folder with --data.`)
  const answered = await askService(options.data, name, body)
  if (answered) return answered.result as OperationResult<Name>
  const { database, lock } = await openFolder(options.data)
  const context: OperatorContext = {
    database,
    folder: options.data,
    environment: { now: Date.now, random: (bytes) => randomBytes(bytes) },
    write: (work) => database.write(work),
    now: Date.now(),
    baseUrl: options.baseUrl.replace(/\/+$/, '') || `http://${options.host}:${options.port}`,
  }
  try {
    return (await runOperation(context, name, body)) as OperationResult<Name>
  } finally {
    await database.close()
    await lock.release()
  }
}
