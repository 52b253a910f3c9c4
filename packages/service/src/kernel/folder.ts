import { join } from 'node:path'
import {
  Database,
  lockFolder,
  privateFile,
  queueDeliveries,
  startAutomations,
  type DatabaseOptions,
  type FolderLock,
  type Subscriber,
} from '@wisteria/store'
import { OptionError } from './options.js'

/** The subscribers of every event, called in its transaction. */
const subscribers: readonly Subscriber[] = [queueDeliveries, startAutomations]

/**
 * Locks a data folder for this process and opens its database.
 * @throws OptionError, in a sentence, where it cannot be used.
 */
export async function openFolder(
  folder: string,
  watching: Pick<DatabaseOptions, 'onTransaction' | 'onWork'> = {},
): Promise<{ database: Database; lock: FolderLock }> {
  try {
    const lock = await lockFolder(folder)
    try {
      const file = privateFile(join(folder, 'wisteria.db'))
      const database = await Database.open({ file, subscribers, ...watching })
      return { database, lock }
    } catch (error) {
      await lock.release()
      throw error
    }
  } catch (error) {
    throw new OptionError(`The data folder ${folder} cannot be used: ${reason(error)}.`)
  }
}

const reasons: Record<string, string> = {
  EACCES: 'it may not be written',
  EPERM: 'it may not be written',
  EROFS: 'it is on a read-only file system',
  ENOSPC: 'the disk is full',
  ENOTDIR: 'a part of it is a file',
  EEXIST: 'it is a file',
  SQLITE_CANTOPEN: 'its database cannot be opened',
  SQLITE_NOTADB: 'its wisteria.db is not a database',
}

function reason(error: unknown): string {
  const { code, parent, message } = error as { code?: string; parent?: { code?: string }; message: string }
  return reasons[code ?? parent?.code ?? ''] ?? message.replace(/\.$/, '')
}
