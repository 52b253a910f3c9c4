import type { Present } from '@wisteria/client'
import { useDocumentVisibility, useTimeoutFn } from '@vueuse/core'
import { onBeforeUnmount, onMounted, ref, watch } from 'vue'
import type { WorkingCopy } from './workingCopy'

/** How often presence is reported, in milliseconds. */
const beat = 12_000

/**
 * Reports that the user has the entry open and the field with the focus, and learns who else has it open. Saves of others are
 * merged automatically, below unsaved changes; conflicts wait for a decision.
 * @param mayTake whether it may merge now: not during a save.
 * @param onOthers called when a save of somebody else was merged, with their actor.
 */
export function usePresence(copy: WorkingCopy, mayTake: () => boolean, onOthers: (actor: string) => void) {
  const others = ref<readonly Present[]>([])
  const { start: tellLater, stop: stopWaiting } = useTimeoutFn(() => void tell(), beat, { immediate: false })
  let isGone = false
  const visibility = useDocumentVisibility()

  function place(): string | null {
    const field = document.activeElement?.closest<HTMLElement>('[data-pointer]')
    return field?.dataset['pointer'] ?? null
  }

  async function tell(): Promise<void> {
    stopWaiting()
    const { value: entry } = copy.entry
    if (entry && visibility.value === 'visible') {
      try {
        const now = await copy.site.editor.presence(entry.id, { at: place() })
        if (isGone) return
        others.value = now.others
        const newest = copy.newer.value ?? copy.entry.value
        if (now.version > (newest?.version ?? 0) && mayTake()) await takeIn(entry.id, now.updatedBy)
      } catch {
        // A failed report is no error: the next one asks again.
        others.value = []
      }
    }
    if (!isGone) tellLater()
  }

  /** Changes made meanwhile stay on top of it: see `WorkingCopy.take`. */
  async function takeIn(id: string, by: string): Promise<void> {
    const newest = await copy.site.editor.entry(id)
    // A save that came in between brought at least as much.
    if (isGone || !mayTake() || newest.version <= (copy.entry.value?.version ?? 0)) return
    if (copy.take(newest)) onOthers(by)
    await copy.weigh()
  }

  watch(visibility, (now) => now === 'visible' && tell())
  onMounted(tell)
  onBeforeUnmount(() => {
    isGone = true
    if (copy.entry.value) void copy.site.editor.presence(copy.entry.value.id, { left: true }).catch(() => undefined)
  })
  return { others, tell }
}
