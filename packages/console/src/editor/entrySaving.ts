import { useEventListener } from '@vueuse/core'
import { WisteriaProblem } from '@wisteria/client'
import type { RebaseConflict } from '@wisteria/core'
import { computed, onMounted, ref, watch } from 'vue'
import { nameOfActor, session } from '../session'
import { clock } from '../times'
import { createAutosave } from './autosave'
import { browserStorage } from '../kept/records'
import { unsavedChanges } from './unsavedChanges'
import { openTabs, tab } from '../kept/tabs'
import { ConflictingChanges, type WorkingCopy } from './workingCopy'
import { messageOf, t } from '../messages'

/**
 * Keeps everything that is written: saves it automatically, stores it in the browser until then, restores it after a crash, and
 * asks where somebody else changed the same place.
 * @param onCreated called when a new entry was saved for the first time, once no save is running any more.
 */
export function useEntrySaving(
  copy: WorkingCopy,
  {
    maySave,
    savePublishes = false,
    onTaken = () => undefined,
    onAsked = () => undefined,
  }: {
    readonly maySave: boolean
    /** Whether a save publishes. Then only the button saves, and not while a control has an unreadable value. */
    readonly savePublishes?: boolean
    /** Called when the working copy was replaced by the service's. */
    readonly onTaken?: () => void
    /** Called when the user asked for a save, and must decide conflicts first. */
    readonly onAsked?: () => void
  },
  onCreated: () => Promise<unknown>,
) {
  const { site, type } = copy
  const place = `${site.name}/${copy.entry.value?.id ?? `new ${type.name}`}`
  const words = unsavedChanges(browserStorage(), session.value?.account.id ?? '', place, tab)
  const isSaving = ref(false)
  const result = ref('')
  const failure = ref('')
  /** Whether conflicts must be decided before a save. */
  const conflict = computed(() => copy.conflicts.value.length > 0)
  const unread = computed(() => copy.unreadable.list.value)
  /** When the unsaved changes that were restored were written, if any were. */
  const recalled = ref<string>()
  let isLost = false
  let isKept = true
  /** Restored changes wait for another change, or for a save: the editor may discard them. */
  let isPuttingBack = false
  let saving: Promise<boolean> | undefined

  const state = computed(() => {
    if (isSaving.value) return t('saving.saving')
    if (!copy.entry.value) return t('saving.notSaved')
    if (conflict.value)
      return t('saving.conflict', {
        name: nameOfActor(site, copy.newer.value!.updatedBy),
        n: copy.conflicts.value.length,
      })
    if (copy.isChanged.value) return t('saving.notSavedChanges', { n: copy.edits.value.length })
    if (unread.value.length > 0)
      return t('saving.savedExcept', { fields: unread.value.map((fault) => fault.place.labels.at(-1)!).join(', ') })
    return t('saving.saved', { time: clock(copy.savedAt.value!), version: copy.entry.value.version })
  })

  /** Saves automatically; a new entry only once the user has saved it, because its slug is made then. */
  const autosave = createAutosave(async () => {
    if (!copy.entry.value || !maySave || savePublishes || conflict.value) return 'refused'
    if (await save(true)) return 'saved'
    return isLost ? 'lost' : 'refused'
  })
  watch([copy.edits, unread], ([edits, texts]) => {
    if (edits.length === 0 && texts.length === 0) return words.drop()
    const version = copy.entry.value?.version ?? 0
    const unreadable = texts.map(({ place: _, ...unread }) => unread)
    isKept = words.keep({
      at: new Date().toISOString(),
      version,
      saved: copy.saved.value,
      values: copy.values,
      unread: unreadable,
    })
    if (edits.length === 0) return
    if (!isPuttingBack) autosave.touched()
    isPuttingBack = false
  })

  /**
   * Saves all changes. One save at a time: later changes are saved by the next.
   * @param isQuiet whether it is automatic, so that no question interrupts the user.
   */
  async function save(isQuiet = false): Promise<boolean> {
    if (savePublishes && isBlocked()) return false
    while (saving) if ((await saving) && copy.entry.value && !copy.isChanged.value) return true
    const isNew = !copy.entry.value
    saving = send()
    const came = await saving.finally(() => (saving = undefined))
    // Changes made while the entry was created are saved when the page moves on to the entry's own address.
    if (came && isNew) await onCreated()
    if (conflict.value && !isQuiet) onAsked()
    return came
  }

  async function send(): Promise<boolean> {
    isSaving.value = true
    result.value = failure.value = ''
    isLost = false
    try {
      const { merged } = await copy.save()
      recalled.value = undefined
      if (merged) {
        result.value = t('saving.merged')
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
    // The strip shows conflicts until they are decided.
    if (error instanceof ConflictingChanges) return
    failure.value = messageOf(error)
    if (!(error instanceof WisteriaProblem)) return
    isLost = error.code === 'network'
    if (!isLost) return
    const safe = isKept ? t('saving.keptInBrowser') : t('saving.leaveOpen')
    failure.value = t('saving.connectionLost', { time: clock(new Date()), safe })
  }

  /** Saves if there are changes. @returns whether the service has everything. */
  async function ensureSaved(): Promise<boolean> {
    const isSaved = (copy.entry.value && !copy.isChanged.value && !conflict.value) || (await save())
    return isSaved && !isBlocked()
  }

  /** Whether a control has an unreadable value, so that nothing can be published. Tells the user. */
  function isBlocked(): boolean {
    const first = unread.value[0]
    if (first) failure.value = t('saving.correctFirst', { field: first.place.labels.at(-1)!, message: first.message })
    return first !== undefined
  }

  /** Restores unsaved edits of a closed tab. */
  async function recall(): Promise<void> {
    const isOpen = await openTabs()
    // A user who has begun to write is not interrupted.
    if (!maySave || copy.isChanged.value) return
    for (let kept = words.recall(isOpen); kept; kept = words.recall(isOpen)) {
      if ((kept.version === 0) !== (copy.entry.value === undefined)) return
      isPuttingBack = true
      copy.restoreUnsaved(kept)
      if (copy.isChanged.value || conflict.value || unread.value.length > 0) {
        recalled.value = kept.at
        return
      }
      // It had reached the service, and only the answer was lost.
      isPuttingBack = false
      words.drop()
    }
  }

  async function discard(): Promise<void> {
    recalled.value = undefined
    words.drop()
    await copy.discard()
    failure.value = ''
    onTaken()
  }

  /** Applies the decision for each conflict, and saves. */
  async function choose(choice: (conflict: RebaseConflict) => 'ours' | 'theirs'): Promise<boolean> {
    copy.choose(choice)
    onTaken()
    failure.value = ''
    return copy.isChanged.value ? save() : true
  }

  function onUnload(event: BeforeUnloadEvent): void {
    if ((copy.isChanged.value || unread.value.length > 0) && !isKept) event.preventDefault()
  }
  useEventListener('beforeunload', onUnload)
  useEventListener('online', autosave.hurry)
  onMounted(recall)

  return {
    state,
    isSaving,
    result,
    failure,
    conflict,
    recalled,
    save,
    ensureSaved,
    discard,
    choose,
    forget: words.drop,
  }
}
