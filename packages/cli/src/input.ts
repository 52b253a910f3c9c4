import { existsSync, openAsBlob, readdirSync, readFileSync, statSync } from 'node:fs'
import { join } from 'node:path'
import password from '@inquirer/password'
import { parse } from 'yaml'
import { UsageError } from './connection.js'

/** The text of a file, or of standard input for `-`. */
export function readText(path: string): string {
  try {
    return readFileSync(path === '-' ? 0 : path, 'utf8')
  } catch (error) {
    throw new UsageError(
      `${path} cannot be read: ${(error as NodeJS.ErrnoException).code === 'ENOENT' ? 'there is no such file' : (error as Error).message}.`,
    )
  }
}

/** A YAML or JSON file with a map. */
export function readMap(path: string): Record<string, unknown> {
  let content: unknown
  try {
    content = parse(readText(path))
  } catch (error) {
    if (error instanceof UsageError) throw error
    throw new UsageError(`${path}: ${(error as Error).message.split('\n')[0]}`)
  }
  if (typeof content !== 'object' || content === null || Array.isArray(content))
    throw new UsageError(`${path} must hold a map of field names to values.`)
  return content as Record<string, unknown>
}

/** The model files of a folder, by their names in it. */
export function readModelFolder(folder: string): { name: string; text: string }[] {
  let names: string[]
  try {
    if (!statSync(folder).isDirectory())
      throw new UsageError(`${folder} is not a folder. Name the folder that holds the model's files.`)
    names = readdirSync(folder)
      .filter((name) => /\.ya?ml$/.test(name))
      .sort()
  } catch (error) {
    if (error instanceof UsageError) throw error
    throw new UsageError(
      `${folder} cannot be read: ${(error as NodeJS.ErrnoException).code === 'ENOENT' ? 'there is no such folder' : (error as Error).message}.`,
    )
  }
  if (names.length === 0) throw new UsageError(`${folder} holds no .yaml files.`)
  return names.map((name) => ({ name, text: readFileSync(join(folder, name), 'utf8') }))
}

/** A secret: from the environment, or else from a prompt. Never an argument, where others could read it. */
export async function readSecret(variable: string, question: string): Promise<string> {
  const given = process.env[variable]
  if (given) return given
  if (!process.stdin.isTTY) throw new UsageError(`Set ${variable}; there is no terminal to ask on.`)
  return password({ message: question, mask: true })
}

/** A list of words, separated by commas. */
export const readList = (text: string): string[] =>
  text
    .split(',')
    .map((part) => part.trim())
    .filter(Boolean)

/** A file to upload. It is read while it is sent. */
export async function readFileAsBlob(file: string): Promise<Blob> {
  try {
    if (statSync(file).isFile()) return await openAsBlob(file)
    throw new Error('a folder')
  } catch {
    throw new UsageError(
      `${file} cannot be read: ${existsSync(file) ? 'it may not be read, or is a folder' : 'there is no such file'}.`,
    )
  }
}
