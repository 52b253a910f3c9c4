import { Dependences, typeWithId } from '@wisteria/core'
import { firstPublicRow, type EditionTableRow, type Site } from '@wisteria/store'
import type { Kernel } from '../../kernel/kernel.js'
import { printEntries } from '../../read/entryText.js'

/** A public entry, as readers get it. */
export interface Example {
  readonly id: string
  readonly path: string | null
  readonly entry: unknown
}

/** The first public entry of each type, as readers get it. */
export async function examplesOf(kernel: Kernel, site: Site): Promise<Map<string, Example>> {
  const { defaultLocale } = site.settings
  const rows: EditionTableRow[] = []
  for (const type of site.model.types) {
    const row = await firstPublicRow(kernel.database, site, type.id, defaultLocale)
    if (row) rows.push(row)
  }
  const { texts } = await printEntries(kernel, site, 'published', defaultLocale, rows, new Dependences())
  return new Map(
    rows.map((row, index) => [
      typeWithId(site.model, row.type)!.name,
      { id: row.entry, path: row.path, entry: JSON.parse(texts[index]!) as unknown },
    ]),
  )
}
