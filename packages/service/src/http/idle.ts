import type { IncomingMessage, Server, ServerResponse } from 'node:http'

/** For so long a body may bring nothing, in milliseconds. */
const longestSilence = 60_000

/**
 * Ends requests whose bodies stop coming, however long they have been coming: a large file on a slow line is let through,
 * and a connection that was left half open is not.
 * @returns a function that stops watching.
 */
export function endIdleBodies(server: Server, silence = longestSilence): () => void {
  const open = new Map<IncomingMessage, { bytes: number; since: number }>()
  server.on('request', (request: IncomingMessage, response: ServerResponse) => {
    const { headers } = request
    if (headers['transfer-encoding'] === undefined && !Number(headers['content-length'])) return
    open.set(request, { bytes: request.socket.bytesRead, since: Date.now() })
    response.once('close', () => open.delete(request))
  })
  const timer = setInterval(
    () => {
      const now = Date.now()
      for (const [request, known] of open) {
        const { bytesRead } = request.socket
        if (request.complete) open.delete(request)
        // A body that nobody reads yet waits for us, and not for the sender.
        else if (bytesRead !== known.bytes || request.readableFlowing !== true)
          open.set(request, { bytes: bytesRead, since: now })
        else if (now - known.since >= silence) request.destroy()
      }
    },
    Math.min(silence / 4, 5_000),
  )
  timer.unref()
  return () => clearInterval(timer)
}
