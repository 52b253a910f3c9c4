import { idPattern, scopeOf, typeNamed, type Data, type Scope } from '@wisteria/core'
import { publicHistoryOf, workingCopyOf, type Reader, type Site, type WorkingCopy } from '@wisteria/store'
import { unchanged } from '../workingCopies/changeSeen.js'

/** The values of a working copy, as steps see them: in the default locale, with fallbacks. */
export async function entryData(reader: Reader, site: Site, copy: WorkingCopy): Promise<Data> {
  const history = await publicHistoryOf(reader, site, copy.type, copy.id)
  return scopeOf(unchanged(site, copy, history)(), site.model, site.settings, site.settings.defaultLocale)['entry']
}

/** The id of the entry that a value is or refers to. */
export function entryIdIn(value: Data): string | undefined {
  if (typeof value === 'string') return idPattern.test(value) ? value : undefined
  if (typeof value !== 'object' || value === null || Array.isArray(value)) return undefined
  const { entry, id } = value as Readonly<Record<string, Data>>
  return entryIdIn(entry) ?? (typeof id === 'string' ? entryIdIn(id) : undefined)
}

/** What `item` is: the values of an entry where the item refers to one, as it is now. */
export async function itemData(reader: Reader, site: Site, input: Data): Promise<{ data: Data; copy?: WorkingCopy }> {
  const isReference =
    typeof input === 'object' &&
    input !== null &&
    !Array.isArray(input) &&
    typeof (input as Scope)['type'] === 'string' &&
    typeNamed(site.model, (input as Scope)['type'] as string) !== undefined
  const id = isReference ? entryIdIn(input) : undefined
  const copy = id === undefined ? undefined : await workingCopyOf(reader, site, id)
  return copy ? { data: await entryData(reader, site, copy), copy } : { data: input }
}
