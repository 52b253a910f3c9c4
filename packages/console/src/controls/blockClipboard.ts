import { blockTypeNamed, makeItemId, ownersInside, type Field, type Model } from '@wisteria/core'
import { ref } from 'vue'
import { random } from './reordering'

/** A block, or an element of a repeated group, in the form. */
export interface CopiedItem {
  readonly id: string
  readonly block?: string
  readonly values: Record<string, unknown>
}

const key = 'wisteria block'

interface Copied {
  readonly site: string
  /** The name of the block type, or the id of the group. */
  readonly of: string
  readonly item: CopiedItem
}

function read(): Copied | undefined {
  try {
    return JSON.parse(localStorage.getItem(key) ?? 'null') as Copied | undefined
  } catch {
    return undefined
  }
}

/** The last copied item, in any window of this browser. */
export const copied = ref<Copied | undefined>(read())
if (typeof addEventListener === 'function')
  addEventListener('storage', (event) => {
    if (event.key === key) copied.value = read()
  })

/** Keeps a block for pasting, here or into another entry of the site. */
export function copyItem(site: string, field: Field, item: CopiedItem): void {
  copied.value = { site, of: item.block ?? field.id, item: JSON.parse(JSON.stringify(item)) as CopiedItem }
  try {
    localStorage.setItem(key, JSON.stringify(copied.value))
  } catch {
    // Too large for the browser's store: it can still be pasted in this window.
  }
}

/** Whether the copied item fits a field. */
export function fitsInto(model: Model, site: string, field: Field): boolean {
  const { value } = copied
  if (!value || value.site !== site) return false
  if (field.kind === 'group') return value.of === field.id
  return ownersInside(model, field).some((owner) => owner.name === value.of)
}

/** A copy with new ids, at every depth: an id is unique in an entry. */
export function withNewHandles(model: Model, item: CopiedItem): CopiedItem {
  const renew = (value: unknown): unknown => {
    if (Array.isArray(value)) return value.map(renew)
    if (typeof value !== 'object' || value === null) return value
    const record = Object.fromEntries(Object.entries(value).map(([name, inner]) => [name, renew(inner)]))
    return 'id' in record && ('values' in record || 'value' in record)
      ? { ...record, id: makeItemId({ random }) }
      : record
  }
  const renewed = renew(item) as CopiedItem
  return renewed.block === undefined || blockTypeNamed(model, renewed.block) ? renewed : item
}
