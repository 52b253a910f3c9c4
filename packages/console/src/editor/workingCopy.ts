import { WisteriaProblem, type EditableEntry, type Present, type PublishConsequences } from '@wisteria/client'
import {
  chainOf,
  decide,
  decideTouch,
  namedEditsBetween,
  sameContent,
  type Change,
  type ContentType,
  type NamedEdit,
  type Problem,
  type State,
} from '@wisteria/core'
import { computed, inject, provide, reactive, ref, shallowRef, type InjectionKey } from 'vue'
import type { Site } from '../session'
import type { Words } from './keptWords'

type Values = Record<string, unknown>

/** The entry on the desk: what is saved, what was written since, and what the service says of publishing it. */
export function createWorkingCopy(site: Site, type: ContentType, loaded: EditableEntry | undefined) {
  const entry = shallowRef<EditableEntry | undefined>(loaded)
  const saved = shallowRef<Values>(structuredClone(loaded?.values ?? {}) as Values)
  const values = reactive<Values>(structuredClone(loaded?.values ?? {}) as Values)
  const consequences = shallowRef<PublishConsequences>()
  const saveProblems = ref<readonly Problem[]>([])
  const savedAt = ref<string | undefined>(loaded?.updatedAt)
  const locale = ref(site.settings.defaultLocale)
  /** Who else has the entry open. */
  const others = ref<readonly Present[]>([])

  const edits = computed(() => namedEditsBetween(site.model, type, saved.value, plain(values)))
  const isChanged = computed(() => edits.value.length > 0)
  const problems = computed<readonly Problem[]>(() =>
    saveProblems.value.length > 0 ? saveProblems.value : (consequences.value?.problems ?? []),
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
    (consequences.value?.changes ?? []).filter((change) => isPublic(change.locale)),
  )

  function take(next: EditableEntry): void {
    entry.value = next
    saved.value = structuredClone(next.values) as Values
    show(next.values as Values)
    savedAt.value = next.updatedAt
    saveProblems.value = []
  }

  /** Puts other values on the desk. What is the same stays as it is, and with it the place where somebody is writing. */
  function show(next: Values): void {
    const now = plain(values)
    for (const name of Object.keys(now)) if (!(name in next)) delete values[name]
    for (const [name, value] of Object.entries(next))
      if (!sameContent(now[name], value)) values[name] = structuredClone(value)
  }

  /** Puts words back that had been written on some version and not been saved: the next save merges them. */
  function putBack(words: Pick<Words, 'version' | 'saved' | 'values'>): void {
    const mine = namedEditsBetween(site.model, type, words.saved, words.values)
    const missing = namedEditsBetween(site.model, type, saved.value, words.values)
    // They had reached the service, and only its answer was lost.
    if (!mine.some((edit) => missing.some((other) => isNear(edit, other)))) return
    if (entry.value) entry.value = { ...entry.value, version: words.version }
    saved.value = words.saved
    show(words.values)
  }

  async function weigh(): Promise<void> {
    if (entry.value) consequences.value = await site.editor.consequences(entry.value.id)
  }

  /** Saves what was written. Words that were typed while it was under way stay, and are saved by the next. */
  async function save(): Promise<{ merged: boolean }> {
    try {
      if (!entry.value) {
        const sent = plain(values)
        settleOn(await site.editor.create({ type: type.name, values: sent }, attemptOf([])), sent)
        await weigh()
        return { merged: false }
      }
      if (!isChanged.value) return { merged: false }
      const sent = plain(values)
      const answer = await site.editor.edit(entry.value.id, entry.value.version, edits.value, attemptOf(edits.value))
      settleOn(answer, sent)
      await weigh()
      return { merged: answer.merged }
    } catch (error) {
      if (error instanceof WisteriaProblem && error.code === 'invalid')
        saveProblems.value = relocated(error.problems, edits.value, plain(values))
      throw error
    }
  }

  /** Takes the answer to a save. Fields that were written on since they were sent stay as they are, and are not saved yet. */
  function settleOn(answer: EditableEntry, sent: Values): void {
    const now = plain(values)
    const names = new Set([...Object.keys(sent), ...Object.keys(now)])
    const since = [...names].filter((name) => !sameContent(sent[name], now[name]))
    take(answer)
    for (const name of since) {
      saved.value = withValue(saved.value, name, sent[name])
      if (now[name] === undefined) delete values[name]
      else values[name] = now[name]
    }
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

  /** Puts on the desk what the service has. */
  async function reload(): Promise<void> {
    if (!entry.value) return show({})
    take(await site.editor.entry(entry.value.id))
    await weigh()
  }

  /** The value in a container of fields: the entry's own, or a block's. */
  function read(container: Values, name: string, localized: boolean): unknown {
    return localized ? (container[name] as Values | undefined)?.[locale.value] : container[name]
  }

  /** Writes a value; undefined makes it missing, null empty on purpose. */
  function write(container: Values, name: string, localized: boolean, value: unknown): void {
    if (!localized) {
      if (value === undefined) delete container[name]
      else container[name] = value
      return
    }
    const map = { ...(container[name] as Values | undefined) }
    if (value === undefined) delete map[locale.value]
    else map[locale.value] = value
    if (Object.keys(map).length > 0) container[name] = map
    else delete container[name]
  }

  /** What a reader would get instead of a missing value, and from which locale. */
  function inherited(container: Values, name: string): { readonly value: unknown; readonly from: string } | undefined {
    const map = container[name] as Values | undefined
    const from = chainOf(site.settings, locale.value).slice(1).find((tag) => map?.[tag] !== undefined) // prettier-ignore
    return from === undefined ? undefined : { value: map![from], from }
  }

  /** Whether whoever is signed in may write a value here: one of the locale in the strip, or one that all share. */
  function mayWrite(inLocale: boolean): boolean {
    const touch = { locales: inLocale ? [locale.value] : [], shared: !inLocale }
    if (entry.value?.state === 'archived') return false
    return decide(site.caller, 'entry.translate').allowed && decideTouch(site.caller, touch, 'change').allowed
  }

  return {
    site, type, entry, values, saved, locale, states, edits, isChanged, problems, saveProblems, changes, consequences, savedAt, others,
    take, putBack, weigh, save, reload, read, write, inherited, isPublic, mayWrite,
  } // prettier-ignore
}

export type WorkingCopy = ReturnType<typeof createWorkingCopy>

/** Problems of a save point into the edits or the sent values: put them where the form shows them. */
function relocated(
  problems: readonly Problem[],
  edits: readonly { readonly at: readonly string[]; readonly locale?: string | undefined }[],
  values: Values,
): Problem[] {
  return problems.map((problem) => {
    const index = /^\/edits\/(\d+)/.exec(problem.pointer ?? '')?.[1]
    const edit = index === undefined ? undefined : edits[Number(index)]
    if (!edit) return problem
    let pointer = '/values'
    let here: unknown = values
    edit.at.forEach((step, depth) => {
      if (depth % 2 === 0) {
        pointer += `/${step}`
        here = (here as Values | undefined)?.[step]
        return
      }
      const position = Array.isArray(here) ? here.findIndex((item: { handle: string }) => item.handle === step) : -1
      pointer += `/${position}/values`
      here = Array.isArray(here) ? (here[position] as { values?: Values } | undefined)?.values : undefined
    })
    return {
      ...problem,
      pointer: edit.locale === undefined ? pointer : `${pointer}/${edit.locale}`,
      ...(edit.locale === undefined ? {} : { locale: edit.locale }),
    }
  })
}

/** Whether one place is the other, or holds it. */
const isNear = (one: NamedEdit, other: NamedEdit): boolean =>
  (one.locale === undefined || other.locale === undefined || one.locale === other.locale) &&
  one.at.slice(0, other.at.length).every((step, index) => step === other.at[index])

const withValue = (values: Values, name: string, value: unknown): Values => {
  const { [name]: _, ...others } = values
  return value === undefined ? others : { ...others, [name]: value }
}

const plain = (values: Values): Values => JSON.parse(JSON.stringify(values)) as Values

const key: InjectionKey<WorkingCopy> = Symbol('working copy')
export const provideWorkingCopy = (copy: WorkingCopy): void => provide(key, copy)
export const useWorkingCopy = (): WorkingCopy => inject(key)!
