import type { Reader, Transaction } from '../connection/reader.js'

/** That an access key read a field, and when it last did. */
export interface FieldRead {
  readonly site: string
  readonly key: string
  /** Internal id of the type or block type. */
  readonly type: string
  /** Internal id of the field, or `*` for all of the type. */
  readonly field: string
  /** The name in the request. */
  readonly name: string
  readonly at: string
}

export async function keepFieldReads(transaction: Transaction, reads: readonly FieldRead[]): Promise<void> {
  for (const { site, key, type, field, name, at } of reads)
    await transaction.run(
      `insert into field_reads (site, key, type, field, name, at) values (?, ?, ?, ?, ?, ?)
       on conflict (site, key, type, field, name) do update set at = max(at, excluded.at)`,
      [site, key, type, field, name, at],
    )
}

/** The fields that the site's keys have read, except revoked keys, the latest first, with the label of each key. */
export const fieldReadsOn = (reader: Reader, site: string): Promise<(FieldRead & { readonly label: string })[]> =>
  reader.all(
    `select f.*, k.label from field_reads f join access_keys k on k.id = f.key
     where f.site = ? and k.revoked_at is null order by f.at desc`,
    [site],
  )
