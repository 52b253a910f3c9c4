import { afterEach, describe, expect, it } from 'vitest'
import { groups as groupNames } from '@wisteria/core'
import { Service, type Editor } from '@wisteria/client'
import { asFiles, settings } from './support/models.js'
import { picture } from './support/pictures.js'
import { ownerOf, start, type Running } from './support/running.js'

/*
 * Random sites, random changes, and many reads before and after each: an answer whose bytes differ named a group that the events of
 * the change name. How many answers were named though their bytes did not differ is counted too.
 */

let service: Running | undefined
afterEach(() => service?.end())

/** The same numbers for the same seed, from 0 to below 1. */
function random(seed: number) {
  let state = seed
  const next = (): number => {
    state = (state * 1_664_525 + 1_013_904_223) % 2 ** 32
    return state / 2 ** 32
  }
  const below = (count: number): number => Math.floor(next() * count)
  return {
    chance: (share: number): boolean => next() < share,
    below,
    oneOf: <One>(all: readonly One[]): One => all[below(all.length)]!,
    some: <One>(all: readonly One[], share: number): One[] => all.filter(() => next() < share),
  }
}
type Random = ReturnType<typeof random>

const locales = ['en', 'nl']
const types = ['place', 'event', 'person', 'page']
/** Fields of any type, each with a value of it and how a list asks for it. */
const kinds = {
  word: {
    file: '{ kind: text }',
    value: ({ oneOf }: Random) => oneOf(['oak', 'ash', 'elm']),
    asks: ['= "oak"', 'contains "l"', 'has no value'],
  },
  line: {
    file: '{ kind: text, localized: true }',
    value: ({ oneOf }: Random) => oneOf(['calm', 'windy', 'wild']),
    asks: ['= "calm"', 'starts with "wi"'],
  },
  size: { file: '{ kind: number }', value: ({ below }: Random) => below(9), asks: ['> 4', '= 3', 'has value'] },
  open: { file: '{ kind: boolean }', value: ({ chance }: Random) => chance(0.5), asks: ['= true'] },
  day: { file: '{ kind: date }', value: ({ below }: Random) => `2031-05-0${1 + below(9)}`, asks: ['>= 2031-05-05'] },
  tint: {
    file: '{ kind: choice, options: [red, blue] }',
    value: ({ oneOf }: Random) => oneOf(['red', 'blue']),
    asks: ['in ["red"]'],
  },
  tags: {
    file: '{ kind: text, many: true }',
    value: ({ some }: Random) => some(['a', 'b', 'c'], 0.5),
    asks: ['= "b"'],
  },
  box: {
    file: '{ kind: group, fields: { inner: { kind: text, localized: true } } }',
    value: ({ oneOf }: Random) => ({ inner: { en: oneOf(['in', 'out']) } }),
    asks: [],
  },
} as const
type Kind = keyof typeof kinds
const kindNames = Object.keys(kinds) as Kind[]

interface World {
  readonly random: Random
  readonly owner: Editor
  readonly fields: Readonly<Record<string, readonly Kind[]>>
  readonly ids: { readonly id: string; readonly type: string }[]
}

function modelFiles(chosen: World['fields']): Record<string, string> {
  return Object.fromEntries(
    types.map((type) => [
      type,
      `type: ${type}
plural: ${type}s
namedBy: name
${type === 'page' ? 'parent: inPage\n' : ''}path: { en: '/${type === 'page' ? '{parent}' : type}/{slug}', nl: '/nl/${type === 'page' ? '{parent}' : type}/{slug}' }
fields:
  name: { kind: text, localized: true, required: true }
  slug: { kind: slug, from: name, localized: true }
  to: { kind: entry, accepts: [place] }
  also: { kind: entry, accepts: [person, event], many: true }
  story: { kind: richText, accepts: [place, person] }
  file: { kind: asset }
  latest: { kind: listing, accepts: [event, place] }
${type === 'page' ? '  inPage: { kind: entry, accepts: [page] }\n' : ''}${chosen[type]!.map((kind) => `  ${kind}: ${kinds[kind].file}`).join('\n')}
`,
    ]),
  )
}

/** Values of some fields of a type. */
function valuesOf({ random, fields, ids }: World, type: string, asset: string): Record<string, unknown> {
  const { oneOf, some, chance, below } = random
  const idOf = (...of: string[]) => {
    const fitting = ids.filter((entry) => of.includes(entry.type))
    return fitting.length > 0 ? oneOf(fitting).id : null
  }
  const listed = oneOf(['event', 'place'])
  const conditionOn = oneOf(fields[listed]!)
  const values: Record<string, () => unknown> = {
    name: () => ({ [oneOf(locales)]: `${oneOf(['Low', 'High', 'Old'])} ${oneOf(['dune', 'tower', 'walk'])}` }),
    to: () => idOf('place'),
    also: () => [...new Set([idOf('person'), idOf('event')].filter((id) => id !== null))],
    story: () => {
      const id = idOf('place', 'person')
      return { markdown: id ? `See [](entry:${id}).` : 'Nothing.' }
    },
    file: () => (chance(0.5) ? asset : null),
    latest: () => ({
      type: listed,
      ...(chance(0.6) ? { where: conditionIn(random, listed, [conditionOn]) } : {}),
      ...(chance(0.5) ? { sort: 'name' } : {}),
      first: 1 + below(4),
    }),
    ...Object.fromEntries(
      fields[type]!.map((kind) => [
        kind,
        () => {
          const value = kinds[kind].value(random)
          return kind === 'line' ? { [oneOf(locales)]: value } : value
        },
      ]),
    ),
  }
  const names = some(Object.keys(values), 0.2)
  if (names.length === 0) names.push(oneOf(Object.keys(values)))
  return Object.fromEntries(names.map((name) => [name, values[name]!()]))
}

function conditionIn({ oneOf }: Random, type: string, of: readonly Kind[]): string {
  const asking = of.filter((kind) => kinds[kind].asks.length > 0)
  if (asking.length === 0) return `name contains "${oneOf(['o', 'dune'])}"`
  const kind = oneOf(asking)
  return `${kind} ${oneOf<string>(kinds[kind].asks)}`
}

/** Addresses of many different reads. */
function readsOf({ random, fields, ids }: World): string[] {
  const { oneOf, chance } = random
  const base = '/read/v1/marram'
  const query = (parameters: Readonly<Record<string, string | undefined>>): string =>
    `?${new URLSearchParams(Object.entries(parameters).flatMap(([name, value]) => (value === undefined ? [] : [[name, value]])))}`
  const pickOf = (type: string) =>
    chance(0.5)
      ? undefined
      : [
          ...new Set([
            'name',
            oneOf(fields[type]!),
            oneOf(['to', 'to(name)', 'also', 'also(to(name))', 'latest', 'latest(name)', 'story', 'file(address)']),
          ]),
        ].join(',')
  const how = () => ({
    locale: oneOf(locales),
    ...(chance(0.1) ? { exactLocale: 'true' } : {}),
    ...(chance(0.1) ? { alternates: 'true' } : {}),
    ...(chance(0.1) ? { valueLocales: 'true' } : {}),
    ...(chance(0.1) ? { richText: 'html' } : {}),
  })
  const reads: (() => string)[] = [
    () => {
      const type = oneOf(types)
      const own = conditionIn(random, type, fields[type]!)
      const through = oneOf([
        `to.${conditionIn(random, 'place', fields['place']!)}`,
        'to has value',
        `to = "${oneOf(ids.filter((entry) => entry.type === 'place')).id}"`,
        `any also (entry.type = "person" and name contains "${oneOf(['o', 'a'])}")`,
      ])
      const where = oneOf([
        undefined,
        undefined,
        own,
        own,
        `${own} and ${conditionIn(random, type, fields[type]!)}`,
        through,
      ])
      const sort = oneOf([undefined, 'name', '-name', 'to.name,name', '-entry.updated'])
      const searched = chance(0.05) ? { search: oneOf(['dune', 'old', 'wild']) } : {}
      const count = chance(0.2) ? { count: 'true' } : {}
      return `${base}/entries/${type}${query({ ...how(), where, sort, pick: pickOf(type), first: oneOf([undefined, undefined, '3']), ...searched, ...count })}`
    },
    () => {
      const { id, type } = oneOf(ids)
      const every = chance(0.15) ? { locales: 'every', locale: undefined } : {}
      return `${base}/entries/${type}/${id}${query({ ...how(), pick: pickOf(type), ...every })}`
    },
    () => `${base}/at${query({ path: oneOf(paths(oneOf(types), random)) })}`,
  ]
  const others = [
    `${base}/paths`,
    `${base}/paths?locale=nl&first=5`,
    `${base}/paths?type=event`,
    `${base}/redirects`,
    `${base}/slugs/place?locale=en`,
    `${base}/search?words=dune&locale=en`,
    `${base}/search?words=old&locale=nl&types=place,person&pick=name`,
    `${base}/entries/place/01hz0000000000000000`,
    ...[
      '{ placeList: places(first: 3, locale: "en") { nodes { name } } }',
      '{ events(first: 5, locale: "nl", sort: ["name"]) { nodes { name to { name } paths { path } } } }',
    ].map((text) => `/graphql/v1/marram${query({ query: text })}`),
  ]
  return [...others, ...Array.from({ length: 110 }, () => oneOf([reads[0]!, reads[0]!, reads[1]!, reads[2]!])())]
}

const paths = (type: string, { oneOf }: Random): string[] =>
  ['', '/nl'].map(
    (prefix) =>
      `${prefix}/${type === 'page' ? '' : `${type}/`}${oneOf(['low', 'high', 'old'])}-${oneOf(['dune', 'tower', 'walk'])}`,
  )

interface Told {
  readonly status: number
  readonly text: string
  readonly groups: readonly string[]
}

async function readAll(baseUrl: string, addresses: readonly string[]): Promise<Map<string, Told>> {
  const all = new Map<string, Told>()
  for (let at = 0; at < addresses.length; at += 10)
    await Promise.all(
      addresses.slice(at, at + 10).map(async (address) => {
        const answer = await fetch(baseUrl + address)
        const groups = [...(answer.headers.get('cache-groups') ?? '').matchAll(/"([^"]*)"/g)].map(([, name]) => name!)
        const text = (await answer.text()).replace(/"requestId":"[^"]*"/, '')
        all.set(address, { status: answer.status, text, groups })
      }),
    )
  return all
}

/** How many answers changed, and how many were named. */
interface Tally {
  changed: number
  named: number
}
const moreIn = ({ changed, named }: Tally): number => (named - changed) / changed

function kindOfRead(address: string): string {
  if (/entries\/\w+\/|\/at\?/.test(address)) return 'entries and pages'
  if (/\/search\?|[?&]search=/.test(address)) return 'searches'
  if (/[?&]where=/.test(address)) return 'lists with a condition'
  return /\/entries\/|graphql/.test(address) ? 'lists' : 'paths and slugs'
}

describe('the groups of an event', () => {
  it.each([1, 2])(
    'name every answer whose bytes change, and few others: site %i',
    async (seed) => {
      const dice = random(seed * 7919)
      service = await start({ readRate: 1_000_000 })
      const { baseUrl } = service
      const code = new URL(service.setUpAddress!).hash.slice(1)
      const { token } = await new Service({ baseUrl }).setUp({
        code,
        ...ownerOf,
        site: { name: 'marram', ...settings, locales: settings.locales.filter(({ tag }) => locales.includes(tag)) },
        as: 'token',
      })
      const owner = new Service({ baseUrl, token: token! }).site('marram')
      const fields = Object.fromEntries(
        types.map((type) => [
          type,
          dice
            .some(kindNames, 0.6)
            .concat('word')
            .filter((kind, at, all) => all.indexOf(kind) === at),
        ]),
      )
      await owner.adoptModel((await owner.compareModel(asFiles(modelFiles(fields)))).id)
      await owner.setOpen(true)
      const asset = await owner.uploadAsset('sea.png', await picture(8, 8))
      const world: World = { random: dice, owner, fields, ids: [] }

      const create = async (): Promise<void> => {
        const type = dice.oneOf(types)
        const values = {
          ...valuesOf(world, type, asset.id),
          name: {
            en: `${dice.oneOf(['Low', 'High', 'Old'])} ${dice.oneOf(['dune', 'tower', 'walk'])} ${world.ids.length}`,
          },
        }
        const { id } = await owner.create({ type, values })
        world.ids.push({ id, type })
        if (dice.chance(0.8)) await publish(id)
      }
      const publish = (id: string) => owner.publish(id).catch(() => undefined)
      const change = async (): Promise<void> => {
        const { id, type } = dice.oneOf(world.ids)
        const { version } = await owner.entry(id)
        const act = dice.below(20)
        if (act < 12) {
          await owner.patch(id, version, valuesOf(world, type, asset.id))
          await publish(id)
        } else if (act < 14) await create()
        else if (act < 15) await owner.withdraw(id, dice.chance(0.5) ? {} : { locales: ['nl'] }).catch(() => undefined)
        else if (act < 17) {
          await owner.patch(id, version, {
            slug: { [dice.oneOf(locales)]: dice.oneOf(['low-dune', 'high-dune', `s${dice.below(9)}`]) },
          })
          await publish(id)
        } else if (act < 18) {
          const parent = world.ids.find((entry) => entry.type === 'page' && entry.id !== id)
          const page = world.ids.findLast((entry) => entry.type === 'page' && entry.id !== parent?.id)
          if (!page || !parent) return
          const { version: newest } = await owner.entry(page.id)
          await owner.patch(page.id, newest, { inPage: dice.chance(0.7) ? parent.id : null }).catch(() => undefined)
          await publish(page.id)
        } else if (act < 19) {
          await owner.changeAsset(asset.id, { alt: { en: `The sea ${dice.below(1000)}` } })
        } else await publish(id)
      }
      for (let count = 0; count < 30; count++) await create()

      let reads = readsOf(world)
      let answers = await readAll(baseUrl, reads)
      let since = (await newestChange(baseUrl, 0)).position
      const refused = [...answers].filter(([, { status }]) => ![200, 404, 410].includes(status))
      expect(refused.map(([address, { text }]) => `${address} ${text}`)).toEqual([])
      const tallies = new Map<string, Tally>()
      const unnamed: string[] = []
      for (let round = 0; round < 40; round++) {
        await change()
        const told = await newestChange(baseUrl, since)
        since = told.position
        const after = await readAll(baseUrl, reads)
        for (const [address, { status, text, groups }] of answers) {
          const now = after.get(address)!
          const differs = now.text !== text || now.status !== status
          const isNamed = groups.some((name) => told.groups.has(name))
          for (const kind of ['answers of all kinds', kindOfRead(address)]) {
            const tally = tallies.get(kind) ?? { changed: 0, named: 0 }
            tallies.set(kind, tally)
            if (differs) tally.changed++
            if (isNamed) tally.named++
          }
          if (differs && !isNamed)
            unnamed.push([address, text.slice(0, 600), now.text.slice(0, 600), groups, [...told.groups]].join('\n'))
        }
        answers = after
        // Other reads from time to time.
        if (round % 20 === 19) answers = await readAll(baseUrl, (reads = readsOf(world)))
      }
      for (const [kind, tally] of tallies)
        console.log(
          `site ${seed}, ${kind}: ${tally.changed} changed, ${tally.named} were named, ${Math.round(moreIn(tally) * 100)} % more`,
        )
      expect(unnamed).toEqual([])
      expect(tallies.get('answers of all kinds')!.changed).toBeGreaterThan(200)
      expect(moreIn(tallies.get('lists')!)).toBeLessThan(0.4)
      expect(moreIn(tallies.get('answers of all kinds')!)).toBeLessThan(0.7)
    },
    300_000,
  )
})

/** The groups of all public changes after a position. */
async function newestChange(baseUrl: string, since: number): Promise<{ position: number; groups: Set<string> }> {
  const all = new Set<string>()
  let position = since
  for (;;) {
    const answer = await fetch(`${baseUrl}/read/v1/marram/changes?since=${position}&first=500`)
    const { changes } = (await answer.json()) as { changes: { position: number; groups: string[] }[] }
    if (changes.length === 0) break
    for (const { groups } of changes) for (const name of groups) all.add(name)
    position = changes.at(-1)!.position
  }
  expect(all.has(groupNames.all)).toBe(since === 0)
  return { position, groups: all }
}
