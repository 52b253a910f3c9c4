import { WisteriaProblem, type EditableEntry, type Present } from '@wisteria/client'
import {
  chainOf,
  decide,
  mainRegion,
  regionLimitOf,
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

/** Others changed the same places: nothing is saved before the conflicts are decided. */
export class ConflictingChanges extends Error {}

/** How often a save is rebased onto a newer version before it fails. */
const maxRebases = 5

type Values = Record<string, unknown>

/** The entry in the form: its saved values, the unsaved changes, and the service's check of publishing it. */
export function createWorkingCopy(
  site: Site,
  type: ContentType,
  loaded: EditableEntry | undefined,
  /** Defaults of a new entry: they are sent with the first save, and are no change by themselves. */
  initial: Readonly<Values> = {},
  /** The region of a new entry. */
  initialRegion = regionLimitOf(site.caller)?.[0] ?? mainRegion,
) {
  const entry = shallowRef<EditableEntry | undefined>(loaded)
  /** Where a new entry will be, of a type that is regional. */
  const region = ref(initialRegion)
  const saved = shallowRef<Values>(structuredClone(loaded?.values ?? initial) as Values)
  const values = reactive<Values>(structuredClone(loaded?.values ?? initial))
  /** The blocking problems, and where the working copy differs from the published edition. */
  const check = shallowRef<PublishCheck>()
  const saveProblems = ref<readonly Problem[]>([])
  const savedAt = ref<string | undefined>(loaded?.updatedAt)
  /** Who else has the entry open. */
  const others = ref<readonly Present[]>([])

  /** A newer version with conflicts, which is not merged before they are decided. */
  const newer = shallowRef<EditableEntry>()
  /** Ends a step of undo; set by the undo. */
  const recordStep = shallowRef<() => void>(() => undefined)
  /** The ids of new blocks that had no focus yet: their problems are not shown. */
  const untouched = reactive(new Set<string>())
  /** The pointer of a problem to show: folded parts around it open. */
  const reveal = ref('')
  const unreadable = createUnreadable(site.model, type, values)

  const edits = computed(() =>
    namedEditsBetween(site.model, type, saved.value, unreadable.without(plain(values), saved.value)),
  )
  const isChanged = computed(() => edits.value.length > 0)
  const placeOfNew = () => (type.regional && (site.settings.regions ?? []).length > 0 ? { region: region.value } : {})
  const rebased = computed(() => (newer.value ? onto(newer.value, saved.value) : undefined))
  /** The conflicts to be decided before a save. */
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
  /** Where the working copy differs from the published edition; an entry that was never public has no differences. */
  const changes = computed<readonly Change[]>(() =>
    (check.value?.changes ?? []).filter((change) => isPublic(change.locale)),
  )

  const onto = (next: EditableEntry, base: Values, choose?: (conflict: RebaseConflict) => 'ours' | 'theirs') =>
    rebase(site.model, type, base, plain(values), next.values, choose)

  /**
   * Takes the service's version. Changes made since `base` stay on top of it; with conflicts, nothing is merged yet, and
   * `conflicts` has them.
   * @returns whether it was merged.
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

  /** Merges the newer version, with a decision for each conflict. Changes of other places all stay. */
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

  /** Restores unsaved edits that were made on some version. */
  function restoreUnsaved(words: Pick<Words, 'saved' | 'values' | 'unread'>): void {
    const now = entry.value
    patch(values, words.values)
    if (now) take(now, words.saved)
    unreadable.restoreUnsaved(words.unread ?? [])
  }

  /** Discards unsaved changes, and shows the service's version. */
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
   * Saves the changes. Text typed during the save stays, and is saved by the next.
   * @returns whether changes of others were merged.
   * @throws ConflictingChanges where conflicts must be decided first.
   */
  async function save(): Promise<{ merged: boolean }> {
    try {
      if (!entry.value) {
        const sent = unreadable.without(plain(values), {})
        take(await site.editor.create({ type: type.name, values: sent, ...placeOfNew() }, attemptOf([])), sent)
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

  /** A save whose answer was lost: the service may have it. */
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
        // From the answer, except where the save published.
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

  /** Whether the service has all sent values. */
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

  /** Merges the service's version, below unsaved changes. */
  async function reload(): Promise<void> {
    if (!entry.value) return patch(values, {})
    take(await site.editor.entry(entry.value.id))
    await weigh()
  }

  /** Problems of a save point into the edits or the sent values: this moves them to the fields of the form. */
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

  /** What a reader of a locale gets instead of a missing value, and from which locale. */
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

  /** Whether the user may write a value of a locale, or, without one, a shared value. */
  function mayWrite(locale: string | undefined): boolean {
    const touch = { locales: locale === undefined ? [] : [locale], shared: locale === undefined }
    if (entry.value?.state === 'archived') return false
    const at = type.regional ? (entry.value?.region ?? region.value) : null
    return decide(site.caller, 'entry.translate', { ...touch, type: type.name, region: at }).allowed
  }

  /** Whether the user may write anything here. */
  const mayWriteAny = computed(() => [undefined, ...localeTags(site.settings)].some((tag) => mayWrite(tag)))

  return {
    site,
    type,
    entry,
    region,
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
