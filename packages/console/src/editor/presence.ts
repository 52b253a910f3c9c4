import type { Present } from '@wisteria/client'
import { onBeforeUnmount, onMounted, ref } from 'vue'
import type { WorkingCopy } from './workingCopy'

/** How often one says that one is there, in milliseconds. */
const beat = 12_000

/**
 * Says that one has the entry open and in which field one is, and learns who else has. What others saved is taken in by
 * itself while nothing is written here that is not saved; otherwise the next save merges it.
 * @param onOthers told when somebody else's save was taken in, with their actor.
 */
export function usePresence(copy: WorkingCopy, mayTake: () => boolean, onOthers: (actor: string) => void) {
  const others = ref<readonly Present[]>([])
  let timer: ReturnType<typeof setTimeout> | undefined
  let isGone = false

  function place(): string | null {
    const field = document.activeElement?.closest<HTMLElement>('[data-pointer]')
    return field?.dataset['pointer'] ?? null
  }

  async function tell(): Promise<void> {
    clearTimeout(timer)
    const { value: entry } = copy.entry
    if (entry && document.visibilityState === 'visible') {
      try {
        const now = await copy.site.editor.presence(entry.id, { at: place() })
        if (isGone) return
        others.value = now.others
        if (now.version > (copy.entry.value?.version ?? 0) && !copy.isChanged.value && mayTake()) {
          await copy.reload()
          onOthers(now.updatedBy)
        }
      } catch {
        // Who else is there is not worth an error: the next beat asks again.
        others.value = []
      }
    }
    if (!isGone) timer = setTimeout(() => void tell(), beat)
  }

  const onVisible = (): void => {
    if (document.visibilityState === 'visible') void tell()
  }
  onMounted(() => {
    document.addEventListener('visibilitychange', onVisible)
    void tell()
  })
  onBeforeUnmount(() => {
    isGone = true
    clearTimeout(timer)
    document.removeEventListener('visibilitychange', onVisible)
    if (copy.entry.value) void copy.site.editor.presence(copy.entry.value.id, { left: true }).catch(() => undefined)
  })
  return { others, tell }
}
