import { WisteriaProblem } from '@wisteria/client'
import { ref } from 'vue'

/** What went wrong, a sentence for each thing that is wrong with a form. */
export function messagesOf(error: unknown): string[] {
  if (error instanceof WisteriaProblem && error.problems.length > 0)
    return error.problems.map((problem) => problem.message)
  return [error instanceof Error ? error.message : String(error)]
}

/** A form that is sent: whether it is on its way, and what was wrong with it. */
export function useSending(before: readonly string[] = []) {
  const problems = ref<string[]>([...before])
  const isBusy = ref(false)
  /** @returns whether it went through. */
  async function send(work: () => Promise<unknown>): Promise<boolean> {
    problems.value = []
    isBusy.value = true
    try {
      await work()
      return true
    } catch (error) {
      problems.value = messagesOf(error)
      return false
    } finally {
      isBusy.value = false
    }
  }
  return { problems, isBusy, send }
}
