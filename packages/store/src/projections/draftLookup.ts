import type { Fact } from '@wisteria/core'
import type { Reader } from '../connection/reader.js'
import type { Site } from '../sites/sites.js'
import { factExpression, literal } from './editionTables.js'

/**
 * Working copies by the value of one field.
 * @param types internal ids. @param field internal id. @param facts comparable values, as `FieldKind.fact` makes them.
 * @returns ids by value, oldest first.
 */
export async function draftsByFact(
  reader: Reader,
  site: Site,
  types: readonly string[],
  field: string,
  locale: string,
  facts: readonly Fact[],
): Promise<Map<Fact, string[]>> {
  const found = new Map<Fact, string[]>()
  if (facts.length === 0) return found
  // A type each, so that the index of its field can be used.
  for (const type of types) {
    const rows = await reader.all<{ fact: Fact; entry: string }>(
      `select ${factExpression(field, 'p')} as fact, p.entry from drafts p where p.projection = ? and p.type = ${literal(type)} and p.locale = ?
         and ${factExpression(field, 'p')} in (select value from json_each(?)) order by p.entry`,
      [site.projection, locale, JSON.stringify(facts)],
    )
    for (const { fact, entry } of rows) found.set(fact, [...(found.get(fact) ?? []), entry])
  }
  return found
}
