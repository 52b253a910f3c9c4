import { WisteriaProblem, type EditableEntry, type Present } from '@wisteria/client'
import {
  chainOf,
  decide,
  namedEditsBetween,
  placeIn,
  rebase,
  sameContent,
  localeTags,
  type Change,
  type ContentType,
  type NamedEdit,
  type Problem,
  type PublishCheck,
  type RebaseConflict,
  type State,
} from '@wisteria/core'
import { computed, inject, provide, reactive, ref, shallowRef, type InjectionKey } from 'vue'
import type { Site } from '../session'
import type { Words } from './unsavedChanges'
import { patch } from './patching'
import { createUnreadable } from './unreadable'

/** Others changed what is being written here too: nothing is saved before somebody chose. */
export class ConflictingChanges extends Error {}

/** How often a save is taken to a newer version that came in between before it is given up. */
const maxRebases = 5

type Values = Record<string, unknown>

/** The entry on the desk: what is saved, what was written since, and what the service says of publishing it. */
export function createWorkingCopy(
  site: Site,
  type: ContentType,
  loaded: EditableEntry | undefined,
  /** What a new entry begins with: it goes along with the first save, and is none by itself. */
  initial: Readonly<Values> = {},
) {
  const entry = shallowRef<EditableEntry | undefined>(loaded)
  const saved = shallowRef<Values>(structuredClone(loaded?.values ?? initial) as Values)
  const values = reactive<Values>(structuredClone(loaded?.values ?? initial))
  /** The blocking problems, and where the working copy differs from the published edition. */
  const check = shallowRef<PublishCheck>()
  const saveProblems = ref<readonly Problem[]>([])
  const savedAt = ref<string | undefined>(loaded?.updatedAt)
  /** Who else has the entry open. */
  const others = ref<readonly Present[]>([])

  /** A newer state that changed what is being written here too, and is not taken in before somebody chose. */
  const newer = shallowRef<EditableEntry>()
  /** Ends a step of undo; whoever undoes puts it here. */
  const recordStep = shallowRef<() => void>(() => undefined)
  /** The ids of blocks that were just added, and in which nobody has been yet: nothing in them is told to be wrong. */
  const untouched = reactive(new Set<string>())
  /** The pointer that somebody asked to be shown: what is folded around it opens. */
  const reveal = ref('')
  const unreadable = createUnreadable(site.model, type, values)

  const edits = computed(() =>
    namedEditsBetween(site.model, type, saved.value, unreadable.without(plain(values), saved.value)),
  )
  const isChanged = computed(() => edits.value.length > 0)
  const rebased = computed(() => (newer.value ? onto(newer.value, saved.value) : undefined))
  /** The places where one must be chosen before anything is saved. */
  const conflicts = computed<readonly RebaseConflict[]>(() => rebased.value?.conflicts ?? [])
  const problems = computed<readonly Problem[]>(() =>
    unreadable.problems.value
      .concat(saveProblems.value.length > 0 ? saveProblems.value : (check.value?.problems ?? []))
      .filter(({ pointer }) => untouched.size === 0 || !isInside(values, pointer ?? '', untouched)),
  )
  const states = computed<Readonly<Record<string, State>>>(() => entry.value?.states ?? {})
  const isPublic = (tag: string | null): boolean => {
    const all = Object.entries(states.value)
    return tag === null
      ? all.some(([, state]) => state === 'public' || state === 'edited')
      : ['public', 'edited'].includes(states.value[tag] ?? '')
  }
  /** Where the working copy differs from what is public; what was never public differs from nothing. */
  const changes = computed<readonly Change[]>(() =>
    (check.value?.changes ?? []).filter((change) => isPublic(change.locale)),
  )

  const onto = (next: EditableEntry, base: Values, choose?: (conflict: RebaseConflict) => 'ours' | 'theirs') =>
    rebase(site.model, type, base, plain(values), next.values, choose)

  /**
   * Takes in what the service has. What was written here since `base` stays on top of it; where that changed too, nothing is
   * taken in yet, and `conflicts` says what is to be chosen.
   * @returns whether it was taken in.
   */
  function take(next: EditableEntry, base: Values = saved.value): boolean {
    const { values: merged, conflicts: met } = onto(next, base)
    if (met.length > 0) {
      saved.value = base
      newer.value = next
      return false
    }
    showState(next, merged)
    return true
  }

  /** Takes in the newer state, with a choice for each conflict. What both changed elsewhere stays, whatever is chosen. */
  function choose(choice: (conflict: RebaseConflict) => 'ours' | 'theirs'): void {
    if (newer.value) showState(newer.value, onto(newer.value, saved.value, choice).values)
  }

  function showState(next: EditableEntry, shown: Values): void {
    newer.value = undefined
    entry.value = next
    saved.value = structuredClone(next.values)
    patch(values, shown)
    savedAt.value = next.updatedAt
    saveProblems.value = []
  }

  /** Puts words back that had been written on some version and not been saved. */
  function restoreUnsaved(words: Pick<Words, 'saved' | 'values' | 'unread'>): void {
    const now = entry.value
    patch(values, words.values)
    if (now) take(now, words.saved)
    unreadable.restoreUnsaved(words.unread ?? [])
  }

  /** Forgets what was written here, and puts on the desk what the service has. */
  async function discard(): Promise<void> {
    unreadable.clear()
    newer.value = undefined
    patch(values, saved.value)
    await reload()
  }

  async function weigh(): Promise<void> {
    if (entry.value) check.value = await site.editor.consequences(entry.value.id)
  }

  /**
   * Saves what was written. Words that were typed while it was under way stay, and are saved by the next.
   * @returns whether changes of others came in with it.
   * @throws ConflictingChanges where somebody must choose first.
   */
  async function save(): Promise<{ merged: boolean }> {
    try {
      if (!entry.value) {
        const sent = unreadable.without(plain(values), {})
        take(await site.editor.create({ type: type.name, values: sent }, attemptOf([])), sent)
        await weigh()
        return { merged: false }
      }
      return { merged: await send() }
    } catch (error) {
      if (error instanceof WisteriaProblem && error.code === 'invalid')
        saveProblems.value = relocated(error.problems, edits.value)
      throw error
    }
  }

  /** What was sent when an answer was lost: it may have got there all the same. */
  let lost: Values | undefined

  /** @returns whether changes of others came in. */
  async function send(): Promise<boolean> {
    let merged = false
    for (let rebases = 0; ; rebases++) {
      if (newer.value && !take(newer.value)) throw new ConflictingChanges()
      if (!isChanged.value) {
        if (merged) await weigh()
        return merged
      }
      const sent = unreadable.without(plain(values), saved.value)
      try {
        const answer = await site.editor.edit(
          entry.value!.id,
          entry.value!.version,
          edits.value,
          attemptOf(edits.value),
        )
        lost = undefined
        if (!take(answer, sent)) throw new ConflictingChanges()
        // The answer says it, except where saving was publishing.
        if (answer.check) check.value = answer.check
        else await weigh()
        return merged || answer.merged
      } catch (error) {
        if (!(error instanceof WisteriaProblem)) throw error
        if (error.code === 'network') lost = sent
        if (!['editConflict', 'stale'].includes(error.code) || rebases >= maxRebases) throw error
        const newest = await site.editor.entry(entry.value!.id)
        const base = lost && isPartOf(lost, newest) ? lost : saved.value
        if (!take(newest, base)) throw new ConflictingChanges()
        merged = true
      }
    }
  }

  /** Whether everything that was sent stands in what the service has. */
  function isPartOf(sent: Values, newest: EditableEntry): boolean {
    const rebased = rebase(site.model, type, saved.value, sent, newest.values)
    return sameContent(rebased.values, newest.values)
  }

  let attempt = { text: '', key: '' }
  /** The same for the same edits: where only the answer was lost, sending them again does nothing more. */
  function attemptOf(sent: readonly NamedEdit[]): string {
    const text = JSON.stringify(entry.value ? [entry.value.version, sent] : values)
    if (attempt.text !== text)
      attempt = {
        text,
        key: Array.from(crypto.getRandomValues(new Uint32Array(4)), (part) => part.toString(36)).join('-'),
      }
    return attempt.key
  }

  /** Takes in what the service has now, under what is written here. */
  async function reload(): Promise<void> {
    if (!entry.value) return patch(values, {})
    take(await site.editor.entry(entry.value.id))
    await weigh()
  }

  /** Problems of a save point into the edits or the sent values: put them where the form shows them. */
  const relocated = (problems: readonly Problem[], sent: readonly NamedEdit[]): Problem[] =>
    problems.map((problem) => {
      const index = /^\/edits\/(\d+)/.exec(problem.pointer ?? '')?.[1]
      const edit = index === undefined ? undefined : sent[Number(index)]
      const place = edit && placeIn(site.model, type, plain(values), edit)
      if (!place) return problem
      return {
        ...problem,
        pointer: place.pointer,
        ...(edit.locale === undefined ? {} : { locale: edit.locale }),
      }
    })

  /** The value in a container of fields: the entry's own, or a block's. Of a localized field, the one of a locale. */
  function read(container: Values, name: string, locale: string | undefined): unknown {
    return locale === undefined ? container[name] : (container[name] as Values | undefined)?.[locale]
  }

  /** Writes a value; undefined makes it missing, null empty on purpose. */
  function write(container: Values, name: string, locale: string | undefined, value: unknown): void {
    if (locale === undefined) {
      if (value === undefined) delete container[name]
      else container[name] = value
      return
    }
    const map = { ...(container[name] as Values | undefined) }
    if (value === undefined) delete map[locale]
    else map[locale] = value
    if (Object.keys(map).length > 0) container[name] = map
    else delete container[name]
  }

  /** What a reader of a locale would get instead of a missing value, and from which locale. */
  function inherited(
    container: Values,
    name: string,
    locale: string,
  ): { readonly value: unknown; readonly from: string } | undefined {
    const map = container[name] as Values | undefined
    const from = chainOf(site.settings, locale)
      .slice(1)
      .find((tag) => map?.[tag] !== undefined)
    return from === undefined ? undefined : { value: map![from], from }
  }

  /** Whether whoever is signed in may write a value of a locale, or without one a value that all share. */
  function mayWrite(locale: string | undefined): boolean {
    const touch = { locales: locale === undefined ? [] : [locale], shared: locale === undefined }
    if (entry.value?.state === 'archived') return false
    return decide(site.caller, 'entry.translate', { ...touch, type: type.name }).allowed
  }

  /** Whether there is anything here that one may write. */
  const mayWriteAny = computed(() => [undefined, ...localeTags(site.settings)].some((tag) => mayWrite(tag)))

  return {
    site,
    type,
    entry,
    values,
    saved,
    states,
    edits,
    isChanged,
    problems,
    saveProblems,
    changes,
    check,
    savedAt,
    others,
    newer,
    rebased,
    conflicts,
    unreadable,
    reveal,
    recordStep,
    untouched,
    take,
    choose,
    restoreUnsaved,
    discard,
    weigh,
    save,
    reload,
    read,
    write,
    inherited,
    isPublic,
    mayWrite,
    mayWriteAny,
  }
}

export type WorkingCopy = ReturnType<typeof createWorkingCopy>

/** Whether a pointer leads into an item with one of some ids. */
function isInside(values: Values, pointer: string, ids: ReadonlySet<string>): boolean {
  let at: unknown = { values }
  for (const step of pointer.split('/').slice(1)) {
    at = typeof at === 'object' && at !== null ? (at as Record<string, unknown>)[step] : undefined
    const { id } = (at ?? {}) as { id?: unknown }
    if (typeof id === 'string' && ids.has(id)) return true
  }
  return false
}

const plain = (values: Values): Values => JSON.parse(JSON.stringify(values)) as Values

const key: InjectionKey<WorkingCopy> = Symbol('working copy')
export const provideWorkingCopy = (copy: WorkingCopy): void => provide(key, copy)
export const useWorkingCopy = (): WorkingCopy => inject(key)!
