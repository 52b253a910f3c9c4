import { Transform } from 'node:stream'
import { WisteriaError } from '@wisteria/core'

/** Passes bytes on, and fails with `tooLarge` above a number of them. @param message in a sentence. */
export function limitBytes(most: number, message: string): Transform {
  let size = 0
  return new Transform({
    transform(chunk: Buffer, _, done) {
      size += chunk.length
      done(size > most ? new WisteriaError('tooLarge', message) : null, chunk)
    },
  })
}
