// A service with many artefacts, the same for every benchmark.
import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { Service } from '@wisteria/client'
import { Database } from '@wisteria/store'
import { child } from './child.mjs'

export const model = (place) => [
  {
    name: 'artefact.yaml',
    text: `type: artefact\nfields:\n  title: { kind: text, required: true, localized: true }\n  inventory: { kind: text, indexed: true }\n  made: ${place}\n  about: { kind: longText, localized: true }\n`,
  },
]
export const site = {
  name: 'marram',
  label: 'Marram Coast Museums',
  defaultLocale: 'en',
  locales: [
    { tag: 'en', label: 'English', fallback: [] },
    { tag: 'nl', label: 'Nederlands', fallback: ['en'] },
    { tag: 'ar', label: 'العربية', fallback: ['en'] },
  ],
  timeZone: 'Europe/Amsterdam',
}
export const words = 'A thing that the sea gave back, with a label in a hand that nobody knows. '

/** Inserts entries with their revisions and publications into the store's tables; the first adoption makes their rows. */
async function fill(file, count) {
  const database = await Database.open({ file })
  const [{ id: siteId }] = await database.all('select id from sites')
  const [{ model: text }] = await database.all('select model from models order by version desc limit 1')
  const [type] = JSON.parse(text).types
  const [title, inventory, made, about] = type.fields.map((field) => field.id)
  const at = '2021-01-01T00:00:00.000Z'
  for (let from = 0; from < count; from += 2000)
    await database.write(async ({ run }) => {
      for (let index = from; index < Math.min(count, from + 2000); index++) {
        const id = index
          .toString(32)
          .padStart(20, '0')
          .replace(/[^0-9a-z]/g, '0')
        const document = JSON.stringify({
          [title]: { en: `Find ${index}`, ...(index % 2 ? { nl: `Vondst ${index}` } : {}) },
          [inventory]: `SH-${index}`,
          [made]: 1700 + (index % 250),
          [about]: { en: words.repeat(4) },
        })
        await run(
          "insert into entries (id, site, type, version, revision, created_at, created_by, updated_at, updated_by, mergeable_from) values (?, ?, ?, 1, 1, ?, 'bench', ?, 'bench', 1)",
          [id, siteId, type.id, at, at],
        )
        await run("insert into revisions values (?, 1, ?, ?, 1, 1, 'bench', ?, ?, ?, null)", [
          id,
          siteId,
          document,
          at,
          at,
          at,
        ])
        for (const layer of ['*', 'en'])
          await run(
            "insert into publications (site, entry, layer, revision, model_version, sequence, at, actor, action) values (?, ?, ?, 1, 1, 1, ?, 'bench', 'bench')",
            [siteId, id, layer, at],
          )
      }
    })
  await database.close()
}

/** On stderr, so that someone who waits for many entries sees how far it is. */
export const step = (text) => console.error(`  ${new Date().toISOString().slice(11, 19)} ${text}`)

/**
 * Starts a service with that many artefacts, public in one locale, and their rows.
 * @param more options of the service.
 * @returns an editor of the site, its data folder, and how to stop it.
 */
export async function startCatalogue(count, more = {}) {
  const folder = mkdtempSync(join(tmpdir(), 'wisteria-catalogue-'))
  let service = await child('service', { data: folder, ...more })
  const end = async () => {
    await service.stop()
    rmSync(folder, { recursive: true, force: true })
  }
  try {
    const { token } = await new Service({ baseUrl: service.baseUrl }).setUp({
      code: service.setUpCode,
      email: 'maren@marram.example',
      name: 'Maren Aldous',
      password: 'wind-from-the-west',
      site,
      as: 'token',
    })
    const begun = new Service({ baseUrl: service.baseUrl, token }).site('marram')
    await begun.adoptModel((await begun.compareModel(model('{ kind: number, integer: true }'))).id)
    await service.stop()
    step(`filling ${count} entries`)
    await fill(join(folder, 'wisteria.db'), count)
    service = await child('service', { data: folder, ...more })
    const editor = new Service({ baseUrl: service.baseUrl, token, timeout: 600_000 }).site('marram')
    step('building their rows')
    await editor.adoptModel((await editor.compareModel(model('{ kind: number, integer: true, indexed: true }'))).id)
    return { editor, folder, baseUrl: service.baseUrl, pid: service.pid, end }
  } catch (error) {
    await end()
    throw error
  }
}
