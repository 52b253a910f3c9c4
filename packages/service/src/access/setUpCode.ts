import { digest, makeSecret, sameDigest } from './secrets.js'
import { perKernel } from '../kernel/perKernel.js'

/** The one-time code for creating the first owner: made at a start without accounts, held in memory only. */
export class SetUpCode {
  #digest: string | undefined

  /** Makes a new code; an earlier one stops working. */
  make(): string {
    const code = makeSecret()
    this.#digest = digest(code)
    return code
  }

  matches(code: string): boolean {
    return this.#digest !== undefined && sameDigest(this.#digest, digest(code))
  }

  forget(): void {
    this.#digest = undefined
  }
}

export const setUpCodeOf = perKernel(() => new SetUpCode())
