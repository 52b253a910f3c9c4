/**
 * The result of a command that changes nothing: everything is printed, and the exit code tells a pipeline whether anything would
 * break or is blocked.
 */
export class Outcome extends Error {
  readonly exitCode: number

  private constructor(exitCode: number) {
    super(`exit ${exitCode}`)
    this.exitCode = exitCode
  }

  /** Sets the exit code of the command; 0 where neither is so. */
  static of({ isBlocked, breaks }: { readonly isBlocked: boolean; readonly breaks: boolean }): void {
    if (isBlocked) throw new Outcome(blockedCode)
    if (breaks) throw new Outcome(breakingCode)
  }

  /** Sets the exit code where somebody else's address did not accept what was sent. */
  static ofCall({ status }: { readonly status: number | null }): void {
    if (status === null || status < 200 || status >= 300) throw new Outcome(notAcceptedCode)
  }
}

export const breakingCode = 8
export const blockedCode = 9
export const notAcceptedCode = 10
