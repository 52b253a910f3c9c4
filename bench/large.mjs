// A data set that hurts: many artefacts in three locales, with references, text and paths, the same each time it is made.
// As a command it makes a data folder to serve: node bench/large.mjs --data DIR [--entries N]
import { existsSync, mkdirSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { fileURLToPath } from 'node:url'
import { Service } from '@wisteria/client'
import { Database, recordPaths, projectDrafts, projectPublic, siteNamed } from '@wisteria/store'
import { child } from './child.mjs'

const site = {
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
const files = {
  museum: `type: museum\nlabel: Museum\nnamedBy: name\nfields:\n  name: { kind: text, required: true, indexed: true }\n  town: { kind: text, indexed: true }\n  summary: { kind: longText, localized: true }\n`,
  person: `type: person\nlabel: Person\nnamedBy: name\nfields:\n  name: { kind: text, required: true, indexed: true }\n  born: { kind: number, integer: true }\n  works: { kind: entry, accepts: [museum] }\n`,
  artefact: `type: artefact
label: Artefact
path: { en: '/artefacts/{slug}', nl: '/nl/voorwerpen/{slug}', ar: '/ar/artefacts/{slug}' }
fields:
  title: { kind: text, required: true, localized: true, indexed: true }
  slug: { kind: slug, from: title, indexed: true }
  inventory: { kind: text, indexed: true }
  material: { kind: choice, options: [wood, brass, rope, canvas, glass, iron], indexed: true }
  made: { kind: number, integer: true, indexed: true }
  length: { kind: number }
  museum: { kind: entry, accepts: [museum] }
  maker: { kind: entry, accepts: [person] }
  tags: { kind: text, many: true }
  about: { kind: longText, localized: true }
  note: { kind: text }
`,
}
const modelFiles = Object.entries(files).map(([name, text]) => ({ name: `${name}.yaml`, text }))

const things = ['lantern', 'block', 'oar', 'sextant', 'net', 'ledger', 'bell', 'anchor', 'chart', 'saw']
const dingen = ['lantaarn', 'blok', 'roeiriem', 'sextant', 'net', 'kasboek', 'bel', 'anker', 'kaart', 'zaag']
const ashya = ['فانوس', 'بكرة', 'مجداف', 'سدسية', 'شبكة', 'دفتر', 'جرس', 'مرساة', 'خريطة', 'منشار']
const materials = ['wood', 'brass', 'rope', 'canvas', 'glass', 'iron']
const sentences = [
  'It was found in the mud below the tower after the storm of that winter.',
  'The label is in a hand that nobody has been able to name.',
  'Two of these were made, and the other went down with the boat it was made for.',
  'A repair in the middle shows that it was used long after it had broken.',
  'The family gave it to the museum together with its letters.',
  'On the underside somebody counted days, and stopped at forty.',
  'The salt has taken the paint, except where a rope lay across it.',
  'Nobody remembers what it was for, though everybody has held it.',
]

/** The same numbers for the same seed. */
function numbers(seed) {
  let state = seed
  return (below) => {
    state = (state * 1_664_525 + 1_013_904_223) % 2 ** 32
    return Math.floor((state / 2 ** 32) * below)
  }
}
const letters = '0123456789abcdefghjkmnpqrstvwxyz'
const idOf = (kind, index) =>
  `01${kind}` + [...index.toString(32).padStart(17, '0')].map((digit) => letters[parseInt(digit, 32)]).join('')
export const museums = 40
export const people = 2_000

/** The values of the entry with that number, by field name. */
function artefactAt(index) {
  const next = numbers(index + 1)
  const thing = next(10)
  const text = (count) => Array.from({ length: count }, () => sentences[next(sentences.length)]).join(' ')
  return {
    title: {
      en: `A ${things[thing]} from reach ${index}`,
      nl: `Een ${dingen[thing]} van pand ${index}`,
      ar: `${ashya[thing]} من ${index}`,
    },
    slug: `${things[thing]}-${index}`,
    inventory: `SH-${index}`,
    material: materials[next(6)],
    made: 1700 + next(250),
    length: next(4000) / 10,
    museum: idOf('m', next(museums)),
    maker: idOf('p', next(people)),
    tags: [`tide${next(50)}`, `shelf${next(500)}`],
    about: { en: text(10), nl: `Gevonden bij pand ${index}. ${text(2)}`, ar: `وُجد عند ${index}.` },
    note: next(1000) === 0 ? 'sealed' : null,
  }
}

function* entriesOf(count) {
  for (let index = 0; index < museums; index++)
    yield {
      type: 'museum',
      id: idOf('m', index),
      values: { name: `House ${index} on the coast`, town: `Town ${index % 7}`, summary: { en: sentences[index % 8] } },
    }
  for (let index = 0; index < people; index++)
    yield {
      type: 'person',
      id: idOf('p', index),
      values: { name: `Maker ${index}`, born: 1650 + (index % 250), works: idOf('m', index % museums) },
    }
  for (let index = 0; index < count; index++)
    yield { type: 'artefact', id: idOf('a', index), values: artefactAt(index) }
}
export const artefactId = (index) => idOf('a', index)

/** Entries with their revisions, publications, rows and paths, as publishing each of them would have left them. */
async function fill(file, count, told) {
  const database = await Database.open({ file })
  const own = await siteNamed(database, 'marram')
  const types = new Map(own.model.types.map((type) => [type.name, type]))
  const at = '2031-03-01T09:00:00.000Z'
  let batch = []
  let done = 0
  const write = async () => {
    const some = batch
    batch = []
    await database.write(async (transaction) => {
      const many = async (table, columns, rows) => {
        for (let from = 0; from < rows.length; from += 200) {
          const part = rows.slice(from, from + 200)
          await transaction.run(
            `insert into ${table} (${columns}) values ${part.map((row) => `(${row.map(() => '?').join(', ')})`).join(', ')}`,
            part.flat(),
          )
        }
      }
      await many(
        'entries',
        'id, site, type, version, revision, created_at, created_by, updated_at, updated_by, mergeable_from',
        some.map(({ id, type }) => [id, own.id, type.id, 1, 1, at, 'bench', at, 'bench', 1]),
      )
      await many(
        'revisions',
        'entry, number, site, document, model_version, version, author, created_at, updated_at, sealed_at',
        some.map(({ id, document }) => [id, 1, own.id, JSON.stringify(document), 1, 1, 'bench', at, at, at]),
      )
      const layers = ['*', ...site.locales.map(({ tag }) => tag)]
      await many(
        'publications',
        'site, entry, layer, revision, model_version, sequence, at, actor, action',
        some.flatMap(({ id }) => layers.map((layer) => [own.id, id, layer, 1, 1, 1, at, 'bench', 'bench'])),
      )
      const published = some.map(({ id, type, document }) => ({
        id,
        type,
        layers: { shared: document, locales: Object.fromEntries(site.locales.map(({ tag }) => [tag, document])) },
      }))
      const changed = await projectPublic(transaction, own, published, at)
      await recordPaths(
        transaction,
        own,
        changed.map(({ paths }, index) => ({ entry: some[index].id, paths })),
        at,
      )
      await projectDrafts(
        transaction,
        own,
        published.map(({ layers: both, ...one }) => ({
          ...one,
          version: 1,
          document: both.shared,
          history: { layers: both, withdrawn: [] },
        })),
        at,
      )
    })
    done += some.length
    told(done)
  }
  for (const { type: name, id, values } of entriesOf(count)) {
    const type = types.get(name)
    const document = Object.fromEntries(
      type.fields.flatMap((field) => (values[field.name] == null ? [] : [[field.id, values[field.name]]])),
    )
    batch.push({ id, type, document })
    if (batch.length === 500) await write()
  }
  if (batch.length > 0) await write()
  await database.write(({ run }) => run('update sites set generation = generation + 1 where id = ?', [own.id]))
  await database.close()
}

/** Makes the data set in a folder, unless it exists; `large.json` in it has the sign-in and a key for reading. */
export async function makeLarge(folder, count) {
  const note = join(folder, 'large.json')
  if (existsSync(note)) return
  mkdirSync(folder, { recursive: true })
  const service = await child('service', { data: folder })
  const { token } = await new Service({ baseUrl: service.baseUrl }).setUp({
    code: service.setUpCode,
    email: 'maren@marram.example',
    name: 'Maren Aldous',
    password: 'wind-from-the-west',
    site,
    as: 'token',
  })
  const editor = new Service({ baseUrl: service.baseUrl, token }).site('marram')
  await editor.adoptModel((await editor.compareModel(modelFiles)).id)
  const { secret: key } = await editor.createKey({ label: 'Reading', scope: 'published' })
  await service.stop()
  await fill(join(folder, 'wisteria.db'), count, (done) => {
    if (done % 5000 === 0) console.error(`  ${done} of ${count}`)
  })
  writeFileSync(note, JSON.stringify({ entries: count, key, token, email: 'maren@marram.example' }, null, 2))
}

if (process.argv[1] === fileURLToPath(import.meta.url)) {
  const option = (name, otherwise) => {
    const at = process.argv.indexOf(`--${name}`)
    return at > 0 ? process.argv[at + 1] : otherwise
  }
  const folder = option('data', './data/large')
  await makeLarge(folder, Number(option('entries', 100_000)))
  console.log(`Made in ${folder}. Serve it: npm start -- --data ${folder}`)
  console.log(
    'Sign in as maren@marram.example with the password wind-from-the-west; a key for reading is in large.json there.',
  )
  process.exit(0)
}
