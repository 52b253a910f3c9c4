import { isRichText } from '../richtext/document.js'
import { isRichTextSource } from '../richtext/input.js'
import type { FieldOwner } from '../model/model.js'
import { isRecord } from './document.js'
import type { NamedValues } from './names.js'

/** RFC 7396: objects merge, null removes, anything else replaces; so does rich text sent as Markdown or HTML. */
export function mergePatch(target: unknown, patch: unknown): unknown {
  if (typeof patch !== 'object' || patch === null || Array.isArray(patch)) return patch
  if (isRichText(target) && isRichTextSource(patch)) return patch
  const merged: Record<string, unknown> = isRecord(target) ? { ...target } : {}
  for (const [key, value] of Object.entries(patch)) {
    if (value === null) delete merged[key]
    else merged[key] = mergePatch(merged[key], value)
  }
  return merged
}

/**
 * New values, with those of before where nothing but ids of items and blocks differs: so values that were written without ids change
 * nothing where they say the same.
 */
export function withIdsOf(owner: FieldOwner, before: NamedValues, after: NamedValues): NamedValues {
  const isJson = (name: string): boolean => owner.fields.find((field) => field.name === name)?.kind === 'json'
  return Object.fromEntries(
    Object.entries(after).map(([name, value]) => {
      const old = before[name]
      if (old === undefined || isJson(name)) return [name, value]
      if (sameButIds(old, value)) return [name, old]
      // Locale by locale, or member by member of a group.
      if (!isRecord(old) || !isRecord(value)) return [name, value]
      const inside = Object.entries(value).map(([key, part]) => [key, sameButIds(old[key], part) ? old[key] : part])
      return [name, Object.fromEntries(inside)]
    }),
  )
}

function sameButIds(a: unknown, b: unknown): boolean {
  if (Array.isArray(a) && Array.isArray(b))
    return a.length === b.length && a.every((item, index) => sameButIds(item, b[index]))
  if (!isRecord(a) || !isRecord(b)) return a === b
  const keys = new Set([...Object.keys(a), ...Object.keys(b)])
  keys.delete('id')
  return [...keys].every((key) => sameButIds(a[key], b[key]))
}
