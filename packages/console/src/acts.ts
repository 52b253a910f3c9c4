import { ref } from 'vue'
import { messageOf } from './messages'

/** The actions of a page: their results are shown in the strip, and the page is read again. */
export function useActs(reload: () => Promise<void>) {
  const result = ref('')
  const refused = ref('')
  async function act(work: () => Promise<unknown>, done: string): Promise<void> {
    result.value = refused.value = ''
    try {
      await work()
      result.value = done
    } catch (error) {
      refused.value = messageOf(error)
    }
    await reload()
  }
  return { result, refused, act }
}
