import type { EntryImportView } from '@wisteria/client'
import { rowOutcomes, type RowOutcome } from '@wisteria/core'
import { t } from '../messages'

/** How a file was read, in words. */
export function sourceInWords({ source, rows }: EntryImportView): string {
  const { format, encoding, delimiter, sheet } = source
  const formats = { csv: 'CSV', xlsx: 'XLSX', jsonLines: 'JSON Lines', json: 'JSON' } as const
  return [
    t('imports.rowCount', { n: rows }),
    format && formats[format],
    encoding,
    delimiter && t('imports.partedBy', { sign: delimiter === '\t' ? t('imports.tabs') : delimiter }),
    sheet,
  ]
    .filter(Boolean)
    .join(', ')
}

/** The outcomes that there are, with their numbers, in words. */
export const outcomesInWords = ({
  outcomes,
}: EntryImportView): { readonly outcome: RowOutcome; readonly words: string }[] =>
  rowOutcomes.flatMap((outcome) => {
    const n = outcomes[outcome] ?? 0
    return n > 0 ? [{ outcome, words: t(`imports.outcomes.${outcome}`, { n }) }] : []
  })

/** A cell as a text. */
export const cellText = (cell: unknown): string =>
  cell === null || cell === undefined ? '' : typeof cell === 'object' ? JSON.stringify(cell) : String(cell)

/** A record without the members that are undefined. */
export const withoutUndefined = <Kind extends object>(record: Kind): Kind =>
  Object.fromEntries(Object.entries(record).filter(([, value]) => value !== undefined)) as Kind
