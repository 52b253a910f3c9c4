import { WisteriaError } from '@wisteria/core'
import type { IncomingMessage, Server, ServerResponse } from 'node:http'
import type { Socket } from 'node:net'
import { PassThrough, type Readable } from 'node:stream'

/** The body of a request as a separate stream: reading it may fail without ending the request. */
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

/** How long a body may send nothing, and how long the rest of one may take after its answer, in milliseconds. */
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
 * Watches bodies while they arrive. One that stops for too long ends its request, however long it took until then: a large file on
 * a slow line passes, and a connection left half open does not. The rest of a refused body is dropped, so that the next request on
 * its connection is read.
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
        // While nothing reads a body, the pause is ours and not the sender's.
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
