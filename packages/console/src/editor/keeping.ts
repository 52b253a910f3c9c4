import { WisteriaProblem } from '@wisteria/client'
import { computed, onBeforeUnmount, onMounted, ref, watch } from 'vue'
import { session } from '../session'
import { clock } from '../times'
import { createAutosave } from './autosave'
import { browserStorage, keptWords } from './keptWords'
import type { Conflict } from './conflict'
import type { WorkingCopy } from './workingCopy'

/**
 * Sees to it that nothing written on a desk is lost: saves it by itself, keeps it in the browser until it is saved, puts it
 * back after a crash, and asks where somebody else wrote at the same place.
 * @param onCreated told when a new entry was saved for the first time, once nothing is under way any more.
 */
export function useKeeping(
  copy: WorkingCopy,
  {
    maySave,
    byItself = true,
    onTaken = () => undefined,
  }: {
    readonly maySave: boolean
    /** Whether it is saved without anybody asking: not where a save is public at once. */
    readonly byItself?: boolean
    /** Told when what the service has was put on the desk. */
    readonly onTaken?: () => void
  },
  onCreated: () => Promise<unknown>,
) {
  const { site, type } = copy
  const place = `${site.name}/${copy.entry.value?.id ?? `new ${type.name}`}`
  const words = keptWords(browserStorage(), session.value?.account.id ?? '', place)
  const isSaving = ref(false)
  const result = ref('')
  const failure = ref('')
  const conflict = ref(false)
  /** The places that both wrote at, where it is about such. */
  const conflicts = ref<readonly Conflict[]>([])
  /** When the words were written that were put back, if any were. */
  const recalled = ref<string>()
  let isLost = false
  let isKept = true
  /** What is put back waits for a word more, or for a save: it may be left out. */
  let isPuttingBack = false
  let saving: Promise<boolean> | undefined

  const state = computed(() => {
    if (isSaving.value) return 'Saving…'
    if (!copy.entry.value) return 'Not saved yet'
    if (copy.isChanged.value)
      return `Not saved: ${copy.edits.value.length} ${copy.edits.value.length === 1 ? 'change' : 'changes'}`
    return `Saved ${clock(copy.savedAt.value!)}, version ${copy.entry.value.version}`
  })

  /** Saves by itself what was written; a new entry only once somebody saves it, for its slug is made then. */
  const autosave = createAutosave(async () => {
    if (!copy.entry.value || !maySave || !byItself || conflict.value) return 'refused'
    if (await save()) return 'saved'
    return isLost ? 'lost' : 'refused'
  })
  watch(copy.edits, (edits) => {
    if (edits.length === 0) return words.drop()
    const version = copy.entry.value?.version ?? 0
    isKept = words.keep({ at: new Date().toISOString(), version, saved: copy.saved.value, values: copy.values })
    if (!isPuttingBack) autosave.touched()
    isPuttingBack = false
  })

  /** Saves everything that was written. One save at a time: what was written meanwhile is saved by the next. */
  async function save(): Promise<boolean> {
    while (saving) if ((await saving) && copy.entry.value && !copy.isChanged.value) return true
    const isNew = !copy.entry.value
    saving = send()
    const came = await saving.finally(() => (saving = undefined))
    // What was written while the entry was made is saved as the desk is left for the entry's own address.
    if (came && isNew) await onCreated()
    return came
  }

  async function send(): Promise<boolean> {
    isSaving.value = true
    result.value = failure.value = ''
    conflict.value = isLost = false
    try {
      const { merged } = await copy.save()
      recalled.value = undefined
      if (!copy.isChanged.value) words.drop()
      if (merged) {
        result.value = 'Merged with what others saved.'
        onTaken()
      }
      return true
    } catch (error) {
      tell(error)
      return false
    } finally {
      isSaving.value = false
    }
  }

  function tell(error: unknown): void {
    failure.value = error instanceof Error ? error.message : String(error)
    if (!(error instanceof WisteriaProblem)) return
    conflicts.value = (error.details['conflicts'] as Conflict[] | undefined) ?? []
    conflict.value = ['editConflict', 'stale'].includes(error.code)
    isLost = error.code === 'network'
    if (!isLost) return
    const safe = isKept ? 'Your words are kept in this browser.' : 'Your words are still here: leave this page open.'
    failure.value = `Connection lost at ${clock(new Date())}. ${safe}`
  }

  /** Saves if there is anything to save. @returns whether the service has everything. */
  const settle = async (): Promise<boolean> => (copy.entry.value && !copy.isChanged.value) || save()

  /** Puts back what had been written here and did not reach the service. */
  function recall(): void {
    const kept = words.recall()
    if (!kept || !maySave || (kept.version === 0) !== (copy.entry.value === undefined)) return
    copy.putBack(kept)
    isPuttingBack = copy.isChanged.value
    if (isPuttingBack) recalled.value = kept.at
    else words.drop()
  }

  async function leaveOut(): Promise<void> {
    recalled.value = undefined
    words.drop()
    await copy.reload()
    onTaken()
  }

  /** Takes what others saved, and gives up what was written here at the same places. */
  async function takeTheirs(): Promise<void> {
    await copy.reload()
    onTaken()
    failure.value = ''
    conflict.value = false
  }

  /** Sends what was written here again, on top of what others saved. */
  async function keepMine(): Promise<void> {
    const now = await site.editor.entry(copy.entry.value!.id)
    copy.entry.value = now
    copy.saved.value = now.values as Record<string, unknown>
    conflict.value = false
    await save()
  }

  function onUnload(event: BeforeUnloadEvent): void {
    if (copy.isChanged.value && !isKept) event.preventDefault()
  }
  onMounted(() => {
    addEventListener('beforeunload', onUnload)
    addEventListener('online', autosave.hurry)
    recall()
  })
  onBeforeUnmount(() => {
    removeEventListener('beforeunload', onUnload)
    removeEventListener('online', autosave.hurry)
    autosave.stop()
  })

  return { state, isSaving, result, failure, conflict, conflicts, recalled, save, settle, leaveOut, takeTheirs, keepMine, forget: words.drop } // prettier-ignore
}
