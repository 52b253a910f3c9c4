import type { IncomingMessage } from 'node:http'
import { WisteriaError } from '@wisteria/core'

/** A question longer than this is none, in bytes. */
const longest = 1_000_000

/** The body of a request as text. @throws WisteriaError `tooLarge`, `unsupportedMediaType`. */
export function readText(request: IncomingMessage): Promise<string> {
  const encoding = request.headers['content-encoding']
  if (encoding !== undefined && encoding !== 'identity')
    return Promise.reject(new WisteriaError('unsupportedMediaType', 'Send the body as it is, in UTF-8.'))
  return new Promise((resolve, reject) => {
    const pieces: Buffer[] = []
    let size = 0
    request.on('data', (piece: Buffer) => {
      size += piece.length
      if (size <= longest) pieces.push(piece)
      else if (pieces.length > 0) {
        pieces.length = 0
        reject(new WisteriaError('tooLarge', `A question has at most ${longest / 1_000_000} MB.`))
      }
    })
    request.on('end', () => resolve(Buffer.concat(pieces).toString('utf8')))
    request.on('error', reject)
  })
}
