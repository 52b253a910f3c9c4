import { readOptions } from './choiceOptions'
import {
  consequencesOf,
  labelFrom,
  localeTags,
  readModelFiles,
  resolveModel,
  writeModelFile,
  fileNameOf,
  listOf,
  WisteriaError,
  type BlockSource,
  type Consequence,
  type FieldSource,
  type Model,
  type ModelFile,
  type Problem,
  type SectionSource,
  type TypeSource,
} from '@wisteria/core'
import { computed, reactive, shallowRef } from 'vue'
import { keptDrafts } from '../kept/drafts'
import { session, type Site } from '../session'

export type Source = TypeSource | BlockSource
/** Names of fields from the top, through groups. */
export type FieldPath = readonly string[]

export interface DraftFile {
  source: Source
  /** The file it came from, as adopted. */
  readonly file: ModelFile | undefined
  /** The name under which it was adopted. */
  readonly was: string | undefined
}

export const nameOf = (source: Source): string => ('type' in source ? source.type : source.block)

/** `Opening hours` to `openingHours`: the name that a label suggests. */
export function nameFrom(label: string): string {
  const words = label
    .normalize('NFKD')
    .replace(/[^A-Za-z0-9 ]+/g, '')
    .trim()
    .split(/\s+/)
    .filter(Boolean)
  const name = words
    .map((word, index) =>
      index === 0 ? word.charAt(0).toLowerCase() + word.slice(1) : word.charAt(0).toUpperCase() + word.slice(1),
    )
    .join('')
  return /^[a-z]/.test(name) ? name.slice(0, 64) : ''
}

/**
 * A model that is being changed: the sources of the adopted one, with the changes since. It is resolved by the same rules as in the
 * service; nothing is in force before it is adopted.
 */
export function createModelDraft(site: Site, files: readonly ModelFile[], kept?: KeptDraft) {
  const adopted = (): DraftFile[] =>
    files.flatMap((file) => {
      const { types, blocks } = readModelFiles([file])
      return [...types, ...blocks].map(({ source }) => ({
        source: structuredClone<Source>(source),
        file,
        was: nameOf(source),
      }))
    })
  const sources = reactive<DraftFile[]>(
    kept
      ? kept.sources.map(({ source, file, was }) => ({
          source: structuredClone(source),
          file: files.find((candidate) => candidate.name === file),
          was,
        }))
      : adopted(),
  )
  const order = shallowRef(0)

  const now = computed<ModelFile[]>(() => {
    void order.value
    return sources.map(({ source, file }) => writeModelFile(plain(source), file))
  })
  const before = new Map(files.map((file) => [file.name, file.text]))
  const isChanged = computed(
    () => now.value.length !== files.length || now.value.some((file) => before.get(file.name) !== file.text),
  )

  const reading = computed<{ readonly model: Model; readonly problems: readonly Problem[] }>(() => {
    try {
      const place = {
        locales: localeTags(site.settings),
        defaultLocale: site.settings.defaultLocale,
        timeZone: site.settings.timeZone,
      }
      return { model: resolveModel(readModelFiles(now.value), site.model, place), problems: [] }
    } catch (error) {
      if (!(error instanceof WisteriaError)) throw error
      return { model: last, problems: error.problems }
    }
  })
  /** The last model without errors: the sample form is made from it. */
  let last: Model = site.model
  const model = computed<Model>(() => {
    if (reading.value.problems.length === 0) last = reading.value.model
    return last
  })
  const problems = computed(() => reading.value.problems)
  /** The consequences in the models alone; those for stored content come from the service. */
  const changes = computed<readonly Consequence[]>(() =>
    problems.value.length > 0 ? [] : consequencesOf(site.model, model.value, {}),
  )

  const find = (kind: 'type' | 'block', name: string): DraftFile | undefined =>
    sources.find(({ source }) => (kind === 'type' ? 'type' in source : 'block' in source) && nameOf(source) === name)

  const fileOf = (held: DraftFile): string => held.file?.name ?? fileNameOf(held.source)
  /** The errors of one type, with their places: pointers into its file. */
  const problemsOf = (held: DraftFile): Problem[] => problems.value.filter((problem) => problem.file === fileOf(held))

  function fieldsAt(source: Source, path: FieldPath): Record<string, FieldSource> {
    let fields = source.fields
    for (const name of path) fields = (fields[name]!['fields'] ??= {}) as Record<string, FieldSource>
    return fields
  }
  const fieldAt = (source: Source, path: FieldPath): FieldSource | undefined =>
    path.length === 0 ? undefined : fieldsAt(source, path.slice(0, -1))[path.at(-1)!]

  /** Replaces the fields of a place by others in another order or under other names. */
  function putFields(source: Source, around: FieldPath, entries: readonly (readonly [string, FieldSource])[]): void {
    const fields = fieldsAt(source, around)
    for (const name of Object.keys(fields)) delete fields[name]
    for (const [name, field] of entries) fields[name] = field
  }

  function addField(source: Source, around: FieldPath, label: string, kind: string): FieldPath | undefined {
    const fields = fieldsAt(source, around)
    const wanted = nameFrom(label)
    if (wanted === '') return undefined
    let name = wanted
    for (let number = 2; name in fields; number++) name = `${wanted}${number}`
    const field: FieldSource = {
      kind,
      ...(labelFrom(name) === label ? {} : { label }),
      ...beginning(kind, source, sources),
    }
    fields[name] = field
    return [...around, name]
  }

  function removeField(source: Source, path: FieldPath): void {
    delete fieldsAt(source, path.slice(0, -1))[path.at(-1)!]
  }

  function moveField(source: Source, path: FieldPath, to: number): void {
    const around = path.slice(0, -1)
    const entries = Object.entries(fieldsAt(source, around))
    const from = entries.findIndex(([name]) => name === path.at(-1))
    if (from < 0 || to < 0 || to >= entries.length) return
    const [moved] = entries.splice(from, 1)
    entries.splice(to, 0, moved!)
    putFields(source, around, entries)
  }

  /** Renames a field. An adopted one keeps its old name as `was`. */
  function renameField(held: DraftFile, path: FieldPath, name: string): FieldPath | undefined {
    const around = path.slice(0, -1)
    const old = path.at(-1)!
    const fields = fieldsAt(held.source, around)
    if (name === old) return path
    if (name in fields || !/^[a-z][A-Za-z0-9]{0,63}$/.test(name)) return undefined
    const adopted = adoptedFields(held, around)
    const entries = Object.entries(fields).map(([key, field]): [string, FieldSource] => {
      if (key !== old) return [key, field]
      const was = listOf(field.was).filter((before) => before !== name)
      const names = old in adopted && !was.includes(old) ? [old, ...was] : was
      const { was: _, label, ...options } = field
      // Its label stays, which editors know.
      const words = label ?? labelFrom(old)
      const rest = words === labelFrom(name) ? options : { ...options, label: words }
      return [name, names.length > 0 ? { ...rest, was: names.length === 1 ? names[0]! : names } : rest]
    })
    putFields(held.source, around, entries)
    return [...around, name]
  }

  function adoptedFields(held: DraftFile, around: FieldPath): Readonly<Record<string, FieldSource>> {
    if (!held.file) return {}
    const { types, blocks } = readModelFiles([held.file])
    let fields = [...types, ...blocks][0]?.source.fields
    for (const name of around) fields = fields?.[name]?.['fields'] as Record<string, FieldSource> | undefined
    return fields ?? {}
  }

  /** The values of a choice's options in the adopted model. */
  function adoptedChoices(held: DraftFile, path: FieldPath): string[] {
    const fields = adoptedFields(held, path.slice(0, -1))
    const names = [path.at(-1)!, ...listOf(fieldAt(held.source, path)?.was)]
    const field = names.map((name) => fields[name]).find((candidate) => candidate?.kind === 'choice')
    return readOptions((field?.['options'] ?? []) as unknown[]).map(({ value }) => value)
  }

  function addType(label: string): string | undefined {
    const name = nameFrom(label)
    if (name === '' || find('type', name)) return undefined
    const source: TypeSource = {
      type: name,
      label,
      namedBy: 'title',
      fields: {
        title: { kind: 'text', required: true, localized: true },
        slug: { kind: 'slug', from: 'title', localized: true },
      },
    }
    sources.push({ source, file: undefined, was: undefined })
    return name
  }

  function addBlock(label: string): string | undefined {
    const name = nameFrom(label)
    if (name === '' || find('block', name)) return undefined
    sources.push({
      source: { block: name, label, fields: { text: { kind: 'text', required: true, localized: true } } },
      file: undefined,
      was: undefined,
    })
    return name
  }

  function remove(held: DraftFile): void {
    sources.splice(sources.indexOf(held), 1)
  }

  function setSection(source: Source, name: string, section: SectionSource | undefined): void {
    const { [name]: _, ...rest } = source.sections ?? {}
    const next = section ? { ...source.sections, [name]: section } : rest
    if (Object.keys(next).length > 0) source.sections = next
    else delete source.sections
    if (!section) for (const field of Object.values(source.fields)) if (field.section === name) delete field.section
  }

  return {
    /** The stored form of the draft. */
    record: (): KeptDraft => ({
      at: new Date().toISOString(),
      version: site.model.version,
      sources: sources.map(({ source, file, was }) => ({ source: plain(source), file: file?.name, was })),
    }),
    /** When it was stored, and the version of the model that it is based on, if it was restored. */
    recovered: kept && { at: kept.at, version: kept.version },
    site,
    sources,
    files: now,
    isChanged,
    model,
    problems,
    changes,
    find,
    fileOf,
    problemsOf,
    fieldsAt,
    fieldAt,
    addField,
    removeField,
    moveField,
    renameField,
    adoptedChoices,
    addType,
    addBlock,
    remove,
    setSection,
  }
}

export type ModelDraft = ReturnType<typeof createModelDraft>

/** The options that a field of a kind needs at once, so that it can be adopted. */
function beginning(kind: string, source: Source, declared: readonly DraftFile[]): Partial<FieldSource> {
  const names = (what: 'type' | 'block') => declared.flatMap(({ source: item }) => (what in item ? nameOf(item) : []))
  switch (kind) {
    case 'choice':
      return { options: ['first', 'second'] }
    case 'listing':
    case 'entry':
      return { accepts: names('type').slice(0, 1) }
    case 'block':
      return { many: true, accepts: names('block').slice(0, 3) }
    case 'group':
      return { fields: { text: { kind: 'text' } } }
    case 'slug': {
      const from = Object.entries(source.fields).find(([, field]) => field.kind === 'text')
      return from ? { from: from[0], localized: from[1].localized ?? false } : {}
    }
    default:
      return {}
  }
}

const plain = <T>(value: T): T => JSON.parse(JSON.stringify(value)) as T

/** A draft as the browser keeps it. */
export interface KeptDraft {
  readonly at: string
  /** The version of the model that it was begun on. */
  readonly version: number
  readonly sources: readonly {
    readonly source: Source
    readonly file: string | undefined
    readonly was: string | undefined
  }[]
}

const drafts = keptDrafts<KeptDraft, ModelDraft>(
  'model',
  (draft) => draft.files,
  (record) => typeof record.version === 'number' && Array.isArray(record.sources),
)

/** The draft of a site. @param account whose it is. */
export async function openDraft(site: Site, account = session.value?.account.id ?? ''): Promise<ModelDraft> {
  const opened = drafts.opened(site.name)
  if (opened && opened.site.model.version === site.model.version) return opened
  const { files } = await site.editor.model()
  return drafts.open(site.name, account, (kept) => createModelDraft(site, files, kept))
}

export const forgetDraft = drafts.forget
