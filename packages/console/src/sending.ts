import { ref } from 'vue'
import { messagesOf } from './messages'

/** The state of a form that is being sent: whether it is running, and its errors. */
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
