import { typeWithId, withNamedKeys, type Document, type Model } from '@wisteria/core'
import type { Binding, Reader } from '../connection/reader.js'
import { pastModels } from '../sites/models.js'
import type { Site } from '../sites/sites.js'
import { archiveParts, lineOf, type ArchiveLine, type ArchivePart, type PartName } from './parts.js'

/** So many rows are read at once. */
const batch = 100

/** What the rows of a part must have. */
const scopes: Readonly<Record<ArchivePart['of'], string>> = {
  site: 'site = ?',
  asset: 'asset in (select id from assets where site = ?)',
  projection: 'projection = (select projection from sites where id = ?)',
}

/** The lines of a part of a site, a batch at a time. Types, fields and block types have their names. */
export async function* archiveLines(reader: Reader, site: Site, name: PartName): AsyncGenerator<ArchiveLine[]> {
  const spell = name === 'revisions' ? await revisionSpelling(reader, site) : (line: ArchiveLine) => line
  for await (const lines of rowsOf(reader, site, archiveParts[name]))
    yield lines.map((line) => spell(name === 'entries' ? { ...line, type: nameOf(site.model, line['type']) } : line))
}

const nameOf = (model: Model, type: unknown): string => typeWithId(model, type as string)?.name ?? `#${String(type)}`

async function* rowsOf(reader: Reader, site: Site, part: ArchivePart): AsyncGenerator<ArchiveLine[]> {
  const { table, members, order, of } = part
  const columns = [...new Set([...Object.keys(members), ...order])].join(', ')
  const key = order.join(', ')
  let after: Binding[] = []
  for (;;) {
    const beyond = after.length > 0 ? ` and (${key}) > (${order.map(() => '?').join(', ')})` : ''
    const rows = await reader.all<Record<string, Binding>>(
      `select ${columns} from ${table.name} where ${scopes[of]}${beyond} order by ${key} limit ${batch}`,
      [site.id, ...after],
    )
    const last = rows.at(-1)
    if (!last) return
    yield rows.map((row) => lineOf(part, row))
    after = order.map((column) => last[column]!)
  }
}

/** Writes the documents of revisions with names, each with those of the model that it was written under. */
async function revisionSpelling(reader: Reader, site: Site): Promise<(line: ArchiveLine) => ArchiveLine> {
  const models = new Map((await pastModels(reader, site.id)).map((model) => [model.version, model]))
  const types = await typesOfEntries(reader, site)
  return (line) => {
    const model = models.get(line['modelVersion'] as number)
    const type = model && typeWithId(model, types.get(line['entry'] as string) ?? '')
    return type ? { ...line, values: withNamedKeys(model, type, line['values'] as Document) } : line
  }
}

async function typesOfEntries(reader: Reader, site: Site): Promise<ReadonlyMap<string, string>> {
  const rows = await reader.all<{ id: string; type: string }>('select id, type from entries where site = ?', [site.id])
  return new Map(rows.map(({ id, type }) => [id, type]))
}
