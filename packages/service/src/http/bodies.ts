import { WisteriaError } from '@wisteria/core'
import type { IncomingMessage, Server, ServerResponse } from 'node:http'
import type { Socket } from 'node:net'
import { PassThrough, type Readable } from 'node:stream'

/** The body of a request as a stream of its own: whoever reads it may fail without ending the request. */
export function fileIn(request: IncomingMessage): Readable {
  const file = new PassThrough()
  request.pipe(file)
  request.once(
    'close',
    () =>
      request.complete || file.destroy(new WisteriaError('badRequest', 'The upload ended early. Send the file again.')),
  )
  return file
}

/** For so long a body may bring nothing, and what is left of one may come after its answer, in milliseconds. */
const longestSilence = 60_000

interface Coming {
  readonly socket: Socket
  /** Bytes of the connection so far. */
  readonly bytes: number
  /** When that was, in milliseconds since the epoch. */
  readonly since: number
  readonly isAnswered: boolean
}

/**
 * Watches bodies as they come. One that stops coming ends its request, however long it has been coming: a large file on a slow
 * line is let through, and a connection that was left half open is not. What is left of one that was refused is passed over, so
 * that the next request on its connection is read.
 * @returns a function that stops watching.
 */
export function watchBodies(server: Server, silence = longestSilence): () => void {
  const open = new Map<IncomingMessage, Coming>()
  server.on('request', (request: IncomingMessage, response: ServerResponse) => {
    const { headers, socket } = request
    if (headers['transfer-encoding'] === undefined && !Number(headers['content-length'])) return
    const note = (isAnswered: boolean) =>
      open.set(request, { socket, bytes: socket.bytesRead, since: Date.now(), isAnswered })
    note(false)
    response.once('finish', () => {
      if (request.complete) return
      note(true)
      request.unpipe()
      request.resume()
    })
    response.once('close', () => request.complete && open.delete(request))
  })
  const timer = setInterval(
    () => {
      const now = Date.now()
      for (const [request, body] of open) {
        const { socket } = body
        if (request.complete || socket.destroyed) open.delete(request)
        // A body that nobody reads yet waits for us, and not for the sender.
        else if (!body.isAnswered && (socket.bytesRead !== body.bytes || request.readableFlowing !== true))
          open.set(request, { ...body, bytes: socket.bytesRead, since: now })
        else if (now - body.since >= silence) socket.destroy()
      }
    },
    Math.min(silence / 4, 5_000),
  )
  timer.unref()
  return () => clearInterval(timer)
}
