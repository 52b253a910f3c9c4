import {
  applyEdits,
  changesSources,
  conflictsBetween,
  acceptsMediaType,
  fieldNamed,
  fieldWithId,
  insideGroup,
  localeTags,
  readEdits,
  readValues,
  lockedEdits,
  namedEditsBetween,
  originsAfter,
  parentOf,
  printValues,
  referencesOf,
  seedOrigins,
  slugEdits,
  statesOf,
  typeNamed,
  WisteriaError,
  withItemDefaults,
  type Caller,
  type Document,
  type Edit,
  type FieldOwner,
  type NamedEdit,
  type Origins,
  type Problem,
} from '@wisteria/core'
import {
  Act,
  descendantsOf,
  publicHistoryOf,
  referenceTargets,
  savesSince,
  storeSave,
  workingCopyOf,
  writeDraftRows,
  type KeptSave,
  type KnownHistory,
  type Reader,
  type Site,
  type Transaction,
  type WorkingCopy,
} from '@wisteria/store'
import type { Kernel } from '../kernel/kernel.js'
import { draftChange } from './changeSeen.js'
import { onEntry, requireMay } from '../kernel/permission.js'
import { listingProblems } from './listingProblems.js'

/** Who saves, for their rights and for the record. */
export interface Author {
  readonly caller: Caller
  readonly actor: string
}

/** A working copy that was just saved, with its public layers. */
export type SavedCopy = WorkingCopy & { readonly history?: KnownHistory }

/** A save, and whether edits of others were merged. */
export interface Saved {
  readonly copy: SavedCopy
  readonly merged: boolean
}

/**
 * Saves edits that were made on version `base`. Edits of different places are merged with later saves.
 * @throws WisteriaError `editConflict` with both sides, `stale` when the base is too old, `invalid` with pointers.
 */
export async function saveEdits(
  kernel: Kernel,
  transaction: Transaction,
  site: Site,
  author: Author,
  copy: WorkingCopy,
  base: number,
  named: readonly NamedEdit[],
  /** The origins of texts that were made from another source than the one after the save. */
  given: Origins = {},
): Promise<Saved> {
  if (base > copy.version)
    throw new WisteriaError('badRequest', `There is no version ${base} yet; the entry is at version ${copy.version}.`)
  const since = base === copy.version ? [] : await savesSince(transaction, copy.id, base)
  if (!since)
    throw new WisteriaError(
      'stale',
      `Version ${base} is too old to merge with. Read the entry again; it is at version ${copy.version}.`,
    )
  const locales = localeTags(site.settings)
  const theirs = since.flatMap((save) => save.edits)
  // An item that is gone need not be removed again.
  const wanted = named.filter((edit) => edit.do !== 'remove' || !theirs.some((their) => speaksOf(copy, edit, their)))
  const { edits, problems } = readEdits(
    site.model,
    copy.type,
    copy.document,
    wanted,
    locales,
    kernel.environment.random,
    (field, item, insideLocale) =>
      withItemDefaults(
        site.model,
        field,
        item,
        site.settings,
        { now: kernel.now, timeZone: site.settings.timeZone },
        kernel.environment.random,
        insideLocale,
      ),
  )
  if (problems.length > 0) throw removedSince(copy, wanted, problems, since) ?? invalid(problems)
  const conflicts = conflictsBetween(edits, theirs)
  if (conflicts.length > 0) {
    const save = since.find((other) => other.edits.includes(conflicts[0]!.theirs))!
    const label = fieldWithId(copy.type, topId(conflicts[0]!.ours))?.label ?? ''
    throw new WisteriaError(
      'editConflict',
      `Somebody changed ${label} in version ${save.version}. Compare both, keep one.`,
      {
        extra: {
          version: copy.version,
          conflicts: conflicts.map(({ ours, theirs: other }) => ({
            place: namesOf(copy, ours),
            locale: ours.locale ?? null,
            yours: { do: ours.do, ...('value' in ours ? { value: ours.value } : {}) },
            theirs: { do: other.do, place: namesOf(copy, other), ...('value' in other ? { value: other.value } : {}) },
            by: since.find((save) => save.edits.includes(other))?.author ?? null,
          })),
        },
      },
    )
  }
  return { copy: await store(kernel, transaction, site, author, copy, edits, given), merged: theirs.length > 0 }
}

/** Replaces the whole set of values: the result of a JSON Merge Patch. */
export async function saveValues(
  kernel: Kernel,
  transaction: Transaction,
  site: Site,
  author: Author,
  copy: WorkingCopy,
  values: unknown,
): Promise<WorkingCopy> {
  const { document, problems } = readValues(
    site.model,
    copy.type,
    values,
    localeTags(site.settings),
    kernel.environment.random,
  )
  if (problems.length > 0) throw invalid(problems)
  // Place by place, as a form sends it. Fields that the model no longer has are not printed, so their values stay.
  const [before, after] = [copy.document, document].map((content) => printValues(site.model, copy.type, content))
  const named = namedEditsBetween(site.model, copy.type, before!, after!)
  const { edits, problems: wrong } = readEdits(
    site.model,
    copy.type,
    copy.document,
    named,
    localeTags(site.settings),
    kernel.environment.random,
  )
  if (wrong.length > 0) throw invalid(wrong)
  return store(kernel, transaction, site, author, copy, edits)
}

async function store(
  kernel: Kernel,
  transaction: Transaction,
  site: Site,
  author: Author,
  copy: WorkingCopy,
  sent: readonly Edit[],
  given: Origins = {},
): Promise<SavedCopy> {
  if (sent.length === 0) return copy
  requireInUse(copy)
  const touch = {
    locales: [...new Set(sent.flatMap((edit) => edit.locale ?? []))],
    shared: sent.some((edit) => edit.locale === undefined),
  }
  requireMay(author.caller, 'entry.translate', { ...touch, ...onEntry(copy) })
  const history = await publicHistoryOf(transaction, site, copy.type, copy.id)
  const states = statesOf(site.model, copy.type, copy.document, history, site.settings)
  const asSent = applyEdits(copy.document, sent)
  const locksOf = (some: readonly Edit[]) =>
    lockedEdits(site.model, copy.type, copy.document, some, states, site.settings)
  const isNew = (locale: string) => states[locale] === 'new'
  // A generated edit never blocks a save.
  const slugs = slugEdits(copy.type, copy.document, asSent, sent, isNew).filter(
    (slugEdit) => locksOf([slugEdit]).length === 0,
  )
  const edits = [...sent, ...slugs]
  const document = applyEdits(asSent, slugs)
  const locked = locksOf(sent)
  if (locked.length > 0) throw invalid(locked)
  const act = new Act(transaction, site, author.actor, kernel.environment)
  const { model, settings } = site
  const before = originsOf(site, copy, history)
  const originsIn = (revision: number) =>
    originsAfter(model, copy.type, copy.document, document, before, revision, act.at, settings, given)
  const keepsNewest = changesSources(model, copy.type, copy.document, document, before, copy.revision)
  const saved = await storeSave(transaction, site, copy, document, originsIn, edits, author.actor, act.at, keepsNewest)
  await requireReferences(transaction, site, saved, copy.document)
  await requireNoCircle(transaction, site, saved)
  const standing = await writeDraftRows(transaction, site, saved.type, saved, document, history, act.at)
  if (standing.moved)
    for (const child of await descendantsOf(transaction, site, 'draft', saved.id))
      await refreshDraft(transaction, site, child.id, act.at)
  const fields = [...new Set(edits.map((edit) => topName(copy, edit)))]
  await act.tell(
    'entry.saved',
    { entry: { id: saved.id, type: saved.type.name }, version: saved.version, fields, locales: touch.locales },
    undefined,
    draftChange(site, saved, { document: copy.document, history }, { document, history }),
  )
  return { ...saved, standing, history }
}

/** What the translated units of a working copy were made from; worked out where no save has recorded it. */
export const originsOf = (site: Site, copy: WorkingCopy, history: KnownHistory): Origins =>
  copy.origins ??
  seedOrigins(
    site.model,
    copy.type,
    copy.document,
    history,
    history.revisions,
    copy.revision,
    copy.updatedAt,
    site.settings,
  )

/** Writes an entry's rows of the draft edition again, after a change of something that it depends on. */
export async function refreshDraft(transaction: Transaction, site: Site, id: string, at: string): Promise<void> {
  const copy = await workingCopyOf(transaction, site, id)
  if (copy)
    await writeDraftRows(
      transaction,
      site,
      copy.type,
      copy,
      copy.document,
      await publicHistoryOf(transaction, site, copy.type, id),
      at,
    )
}

/**
 * @param before the document of the earlier version: broken references that it has already do not block the save.
 * @throws WisteriaError `invalid` with every broken reference.
 */
export async function requireReferences(
  transaction: Transaction,
  site: Site,
  copy: Referring,
  before: Document = {},
): Promise<void> {
  const problems = await referenceProblems(transaction, site, copy, before)
  if (problems.length > 0) throw invalid(problems)
}

/** What has references. */
type Referring = Pick<WorkingCopy, 'type' | 'document'> & { readonly id?: string | undefined }

/** References of a working copy that are broken, or to something that the field does not accept; but for those of `before`. */
export async function referenceProblems(
  transaction: Reader,
  site: Site,
  copy: Referring,
  before: Document = {},
): Promise<Problem[]> {
  const locales = localeTags(site.settings)
  const already = new Set(
    listingProblems(site, { type: copy.type, document: before }).map((listingProblem) => listingProblem.message),
  )
  const unasked = listingProblems(site, copy).filter((listingProblem) => !already.has(listingProblem.message))
  const keyOf = ({ field, target }: { field: { id: string }; target: string }): string => `${field.id} ${target}`
  const were = new Set(referencesOf(site.model, copy.type, before, locales).map(keyOf))
  const references = referencesOf(site.model, copy.type, copy.document, locales).filter(
    (reference) => !were.has(keyOf(reference)),
  )
  if (references.length === 0) return unasked
  const idsOf = (to: 'entry' | 'asset') =>
    references.filter((reference) => reference.to === to).map((reference) => reference.target)
  const targets = await referenceTargets(transaction, site, idsOf('entry'), idsOf('asset'))
  const unknown = references.flatMap(({ pointer, target, to, accepts, field }): Problem[] => {
    const tell = (code: string, message: string) => [
      { code, pointer, message: `${field.label} ${message}`, parameters: { field: field.label, target } },
    ]
    if (to === 'asset') {
      const media = targets.mediaTypes.get(target)
      if (media === undefined) return tell('unknownAsset', `refers to \`${target}\`, which is no asset of this site.`)
      return acceptsMediaType(accepts, media)
        ? []
        : tell('wrongType', `takes ${accepts.join(', ')}, and \`${target}\` is ${media}.`)
    }
    // A new entry may refer to itself.
    const type = targets.types.get(target) ?? (target === copy.id ? copy.type : undefined)
    if (type === undefined) return tell('unknownEntry', `refers to \`${target}\`, which is no entry of this site.`)
    const isAccepted = accepts.some((name) => typeNamed(site.model, name)?.id === type.id)
    if (isAccepted) return []
    return tell(
      'wrongType',
      accepts.length === 0
        ? `refers to entries of no type, and \`${target}\` is one.`
        : `takes ${accepts.join(', ')}, and \`${target}\` is of type ${type.name}.`,
    )
  })
  return [...unknown, ...unasked]
}

async function requireNoCircle(transaction: Transaction, site: Site, copy: WorkingCopy): Promise<void> {
  const seen = new Set([copy.id])
  for (let here: WorkingCopy | undefined = copy; here;) {
    const parent = parentOf(here.type, here.document)
    if (parent === undefined) return
    if (seen.has(parent)) {
      const field = fieldNamed(copy.type, copy.type.parent!)!
      const message = `${field.label} would put the entry below itself.`
      throw invalid([{ code: 'circle', pointer: `/values/${field.name}`, message, parameters: { field: field.label } }])
    }
    seen.add(parent)
    here = await workingCopyOf(transaction, site, parent)
  }
}

/** @throws WisteriaError `conflict` when an entry is archived: it cannot be changed then. */
export function requireInUse(copy: WorkingCopy): void {
  if (copy.archivedAt !== null) throw new WisteriaError('conflict', 'The entry is archived. Reactivate it first.')
}

export const invalid = (problems: readonly Problem[]): WisteriaError =>
  new WisteriaError(
    'invalid',
    problems.length === 1 ? problems[0]!.message : `${problems.length} values are missing or wrong.`,
    { problems },
  )

const topId = (edit: Edit): string => edit.at[0]!.split('.')[0]!
const topName = (copy: WorkingCopy, edit: Edit): string => fieldWithId(copy.type, topId(edit))?.name ?? topId(edit)

/** A place as the outside writes it, as far as it is the type's own. */
function namesOf(copy: WorkingCopy, edit: Edit): string[] {
  return edit.at.map((step, index) => {
    if (index > 0) return step
    let owner: FieldOwner = copy.type
    return step
      .split('.')
      .map((id) => {
        const field = fieldWithId(owner, id)
        owner = (field && insideGroup(field)) ?? owner
        return field?.name ?? id
      })
      .join('.')
  })
}

/**
 * Whether an edit is of the item that another one removed, or of something inside it. Ids of blocks of rich text are those of one
 * text in one locale, so the whole place counts.
 */
function speaksOf(copy: WorkingCopy, edit: NamedEdit, removed: Edit): boolean {
  if (removed.do !== 'remove' || (removed.locale !== undefined && removed.locale !== edit.locale)) return false
  const item = itemsOn(namesOf(copy, removed))
  const isInside = (at: readonly string[]) => item.every((step, index) => itemsOn(at)[index] === step)
  const list = edit.do === 'move' ? edit.at.slice(0, -1) : edit.at
  return isInside(edit.at) || (typeof edit.after === 'string' && isInside([...list, edit.after]))
}

/** The type's field at the start of a place, and the items on the way. */
const itemsOn = (at: readonly string[]): string[] => at.filter((_, index) => index === 0 || index % 2 === 1)

/** Edits of an item that somebody has removed since are a conflict, and not a mistake of the sender. */
function removedSince(
  copy: WorkingCopy,
  named: readonly NamedEdit[],
  problems: readonly Problem[],
  since: readonly KeptSave[],
): WisteriaError | undefined {
  for (const problem of problems) {
    const edit = named[Number(problem.pointer?.split('/')[2])]
    const save = since.find((other) => other.edits.some((their) => edit && speaksOf(copy, edit, their)))
    if (problem.code !== 'unknownPlace' || !edit || !save) continue
    const message = `Somebody removed what you changed in ${edit.at[0]}, in version ${save.version}. Read the entry again.`
    const conflict = {
      place: edit.at,
      locale: edit.locale ?? null,
      yours: { do: edit.do, value: edit.value },
      theirs: { do: 'remove' },
      by: save.author,
    }
    return new WisteriaError('editConflict', message, { extra: { conflicts: [conflict] } })
  }
  return undefined
}
