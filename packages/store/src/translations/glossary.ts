import type { GlossaryTerm } from '@wisteria/core'
import type { Reader, Transaction } from '../connection/reader.js'
import type { Site } from '../sites/sites.js'
import type { GlossaryRow } from '../tables/tables.js'

/** The terms of a site; the version is 0 while it has none. */
export interface Glossary {
  readonly terms: readonly GlossaryTerm[]
  readonly version: number
}

export async function glossaryOf(reader: Reader, site: Site): Promise<Glossary> {
  const [row] = await reader.all<GlossaryRow>('select * from glossaries where site = ?', [site.id])
  return row ? { terms: JSON.parse(row.terms) as GlossaryTerm[], version: row.version } : { terms: [], version: 0 }
}

/** Replaces all terms. @returns the new version. */
export async function setGlossary(
  transaction: Transaction,
  site: Site,
  terms: readonly GlossaryTerm[],
  actor: string,
  at: string,
): Promise<number> {
  const version = (await glossaryOf(transaction, site)).version + 1
  await transaction.run(
    `insert into glossaries (site, terms, version, at, actor) values (?, ?, ?, ?, ?)
     on conflict (site) do update set terms = excluded.terms, version = excluded.version, at = excluded.at, actor = excluded.actor`,
    [site.id, JSON.stringify(terms), version, at, actor],
  )
  return version
}
