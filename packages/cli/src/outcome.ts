/**
 * How a command ended that only looked: it has printed all, and its exit code tells a pipeline whether anything would break or
 * is blocked.
 */
export class Outcome extends Error {
  readonly exitCode: number

  private constructor(exitCode: number) {
    super(`exit ${exitCode}`)
    this.exitCode = exitCode
  }

  /** Ends the command; nothing stands against it where neither is so. */
  static of({ isBlocked, breaks }: { readonly isBlocked: boolean; readonly breaks: boolean }): void {
    if (isBlocked) throw new Outcome(blockedCode)
    if (breaks) throw new Outcome(breakingCode)
  }
}

export const breakingCode = 8
export const blockedCode = 9
