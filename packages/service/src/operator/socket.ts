import { chmodSync, rmSync } from 'node:fs'
import { createServer, request, type Server } from 'node:http'
import { join } from 'node:path'
import { errorCodes, WisteriaError, type ErrorCodeName } from '@wisteria/core'
import type { Logger } from 'pino'
import { runOperation, type OperatorContext } from './operations.js'

/** The socket in a data folder. Everybody who may open the folder's files may use it: there is no other check. */
export const socketOf = (folder: string): string => join(folder, 'operator.sock')

/** The longest path that a socket can have on every system, in bytes. */
const maxPath = 103
const maxBody = 16_384

/** A socket that is served. */
export interface OperatorSocket {
  /** Finishes running operations. */
  stop(): Promise<void>
}

/**
 * Serves an operator's commands on a socket in the data folder: `POST /<operation>` with a JSON body. The caller has the folder's
 * lock, so an existing socket is left over from a crash.
 * @returns undefined where there can be no socket, which is logged: the service runs without it.
 */
export async function serveOperator(
  context: OperatorContext,
  folder: string,
  logger: Logger,
): Promise<OperatorSocket | undefined> {
  const path = socketOf(folder)
  if (Buffer.byteLength(path) > maxPath) {
    logger.warn(`Operator commands need this service to be stopped: the path ${path} is too long for a socket.`)
    return undefined
  }
  rmSync(path, { force: true })
  const server = createServer((incoming, response) => {
    const answer = (status: number, body: unknown): void => {
      response.writeHead(status, { 'Content-Type': 'application/json' }).end(JSON.stringify(body))
    }
    const chunks: Buffer[] = []
    let size = 0
    incoming.on('data', (chunk: Buffer) => {
      size += chunk.length
      if (size <= maxBody) chunks.push(chunk)
    })
    incoming.on('end', () => {
      const run = async (): Promise<unknown> => {
        if (size > maxBody) throw new WisteriaError('tooLarge', 'The body is too large.')
        let body: unknown
        try {
          body = JSON.parse(Buffer.concat(chunks).toString('utf8'))
        } catch {
          throw new WisteriaError('badRequest', 'The body is not JSON.')
        }
        return runOperation(context, (incoming.url ?? '/').slice(1), body)
      }
      run().then(
        (result) => {
          logger.info({ operation: incoming.url }, 'operator command')
          answer(200, result)
        },
        (error: unknown) => {
          if (!(error instanceof WisteriaError)) logger.error({ err: error }, 'an operator command failed')
          const { code, message } =
            error instanceof WisteriaError ? error : { code: 'internal' as const, message: 'The command failed.' }
          answer(errorCodes[code].status, { code, message })
        },
      )
    })
  })
  try {
    await listen(server, path)
  } catch (error) {
    logger.warn({ err: error }, 'Operator commands need this service to be stopped: its folder takes no sockets.')
    return undefined
  }
  return {
    stop: () =>
      new Promise((resolve) => {
        server.close(() => resolve())
        server.closeIdleConnections()
      }),
  }
}

async function listen(server: Server, path: string): Promise<void> {
  await new Promise<void>((resolve, reject) => {
    server.once('error', reject)
    server.listen(path, resolve)
  })
  chmodSync(path, 0o600)
}

/** Milliseconds that a service has for an answer: two passwords may be hashed before ours. */
const longestWait = 30_000

/**
 * Sends an operation to the service that runs on a data folder.
 * @returns undefined where none answers.
 * @throws WisteriaError of the operation.
 */
export function askService(folder: string, name: string, body: unknown): Promise<{ result: unknown } | undefined> {
  return new Promise((resolve, reject) => {
    const asked = request({ socketPath: socketOf(folder), path: `/${name}`, method: 'POST' }, (response) => {
      const chunks: Buffer[] = []
      response.on('data', (chunk: Buffer) => chunks.push(chunk))
      response.on('error', reject)
      response.on('end', () => {
        try {
          const answer = JSON.parse(Buffer.concat(chunks).toString('utf8')) as { code: ErrorCodeName; message: string }
          if (response.statusCode === 200) resolve({ result: answer })
          else reject(new WisteriaError(answer.code, answer.message))
        } catch (error) {
          reject(error)
        }
      })
    })
    asked.on('error', (error: NodeJS.ErrnoException) => {
      if (['ENOENT', 'ECONNREFUSED', 'ENOTSOCK', 'EINVAL'].includes(error.code ?? '')) resolve(undefined)
      else reject(error)
    })
    asked.setTimeout(longestWait, () =>
      asked.destroy(new WisteriaError('unavailable', 'The service on this folder does not answer. Look at its log.')),
    )
    asked.end(JSON.stringify(body))
  })
}
