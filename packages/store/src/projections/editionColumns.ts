import type { EditionRow } from '@wisteria/core'

/** The part of an edition's row that comes from the entry itself, as the table has it. */
export function columnsOf(row: EditionRow) {
  const single = Object.entries(row.facts).filter(([, fact]) => !Array.isArray(fact))
  return {
    locale: row.locale,
    content_locale: row.contentLocale,
    doc: row.doc,
    fallbacks: JSON.stringify(row.fallbacks),
    // Elements of repeated groups have the group's id and an `e` as their key.
    facts: JSON.stringify({ ...Object.fromEntries(single), ...elementsOf(row) }),
    assets: JSON.stringify(row.assets),
    refs: JSON.stringify([...new Set(row.references.map((reference) => reference.target))]),
    path: row.path,
    region: row.region,
    title: row.title,
  }
}

const elementsOf = (row: EditionRow) =>
  Object.fromEntries(Object.entries(row.elements).map(([id, all]) => [`${id}e`, all]))

/** The rows of the side tables that belong to it: each value of fields with multiple values, and each reference, once. */
export interface SideRows {
  readonly values: readonly { readonly field: string; readonly value: string | number }[]
  readonly refs: readonly { readonly field: string; readonly target: string; readonly direct: 0 | 1 }[]
}

export function sideRowsOf(row: EditionRow): SideRows {
  const values = Object.entries(row.facts).flatMap(([field, facts]) =>
    Array.isArray(facts) ? [...new Set(facts)].map((value) => ({ field, value })) : [],
  )
  const refs = new Map(
    row.references.map(({ field, target, direct }) => [
      `${field} ${target} ${direct}`,
      { field, target, direct: direct ? (1 as const) : (0 as const) },
    ]),
  )
  // The same table has references to assets, with an empty field.
  const assets = row.assets.map((target) => ({ field: '', target, direct: 0 as const }))
  return { values, refs: [...refs.values(), ...assets] }
}
