import { chmodSync, closeSync, existsSync, mkdirSync, openSync } from 'node:fs'
import { join } from 'node:path'
import sqlite3 from 'sqlite3'

/** Another process works on the folder. */
export class FolderInUse extends Error {}

/** A folder that is this process's alone. */
export interface FolderLock {
  release(): Promise<void>
}

/**
 * Makes a data folder if there is none, readable by its owner only, and locks it for this process: an exclusive transaction held
 * open on a tiny database, which the system releases when the process ends, however it ends.
 * @throws FolderInUse when another process has locked it.
 */
export async function lockFolder(folder: string): Promise<FolderLock> {
  if (!existsSync(folder)) mkdirSync(folder, { recursive: true, mode: 0o700 })
  const driver = await new Promise<sqlite3.Database>((resolve, reject) => {
    const file = privateFile(join(folder, 'wisteria.lock'))
    const opened = new sqlite3.Database(file, (error) => (error ? reject(error) : resolve(opened)))
  })
  const close = () => new Promise<void>((resolve) => driver.close(() => resolve()))
  try {
    await new Promise<void>((resolve, reject) => {
      driver.exec('pragma locking_mode = exclusive; pragma journal_mode = delete; begin exclusive', (error) =>
        error ? reject(error) : resolve(),
      )
    })
  } catch (error) {
    await close()
    if ((error as { code?: string }).code === 'SQLITE_BUSY') throw new FolderInUse('another service is running on it')
    throw error
  }
  return { release: close }
}

/** Makes sure that a file exists and that nobody else on the machine can read it: it contains secrets. */
export function privateFile(file: string): string {
  if (existsSync(file)) chmodSync(file, 0o600)
  else closeSync(openSync(file, 'a', 0o600))
  return file
}
