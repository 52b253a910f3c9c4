import type { Editor, GlossaryTerm } from '@wisteria/client'

/**
 * Makes a day of the demo world: somebody is invited, a page is scheduled, a notice is published and delivered to the webhook of
 * the museum site, two activities are changed in bulk, and one is in the bin. Translations are assigned, one is ready for review, and
 * the glossary has its first terms. The north has pages of its own, one of which is behind its source.
 * @param editor of a member who manages members and publishes, once the webhook exists.
 * @param now milliseconds since the epoch.
 */
export async function fillDay(editor: Editor, now: number): Promise<void> {
  await editor.invite({ email: 'ines@marram.example', role: 'translator', locales: ['nl', 'nl-BE'] })
  const { entries } = await editor.entries({ type: 'page', where: 'title = "Friends of the coast"' })
  const hour = 3_600_000
  // At a full hour, 30 days on.
  const at = new Date(Math.ceil(now / hour) * hour + 30 * 24 * hour).toISOString()
  for (const { id } of entries) await editor.schedule(id, { does: 'publish', at, zone: 'Europe/Amsterdam' })
  await editor.create({
    type: 'notice',
    values: {
      text: {
        en: 'The lamp room is closed on Monday for cleaning.',
        nl: 'De lampkamer is maandag dicht voor schoonmaak.',
      },
      until: '2040-03-31',
    },
  })
  const salty = await editor.entries({ type: 'activity', where: 'title contains "Salt"', first: 2 })
  const changed = await editor.bulk({
    do: 'edit',
    ids: salty.entries.map(({ id }) => id),
    edits: [{ do: 'set', at: ['price'], value: 6 }],
  })
  await editor.waitFor(changed)
  const calledOff = await editor.create({
    type: 'activity',
    values: { title: { en: 'Kites over the Dyke', nl: 'Vliegers boven de dijk' } },
  })
  await editor.delete(calledOff.id)
  await assignTranslations(editor, now)
  await openNorth(editor)
}

/** Terms that all translators of the museums use. */
const terms: readonly GlossaryTerm[] = [
  {
    term: 'Lighthouse',
    note: 'The museum at Sanderling Head, and its building.',
    translations: { nl: { use: 'Vuurtoren', avoid: ['Lichttoren', 'Baken'] }, ar: { use: 'منارة' } },
  },
  {
    term: 'Boatyard',
    note: 'The museum at Oyster Creek.',
    translations: { nl: { use: 'Werf', avoid: ['Botenhuis'] }, ar: { use: 'حوض القوارب' } },
  },
  {
    term: 'Saltworks',
    note: 'The museum at Greyflats.',
    translations: { nl: { use: 'Zoutziederij', avoid: ['Zoutfabriek'] }, ar: { use: 'ملاحة' } },
  },
  { term: 'keeper', note: 'Of the lighthouse.', translations: { nl: { use: 'wachter', avoid: ['bewaker'] } } },
  { term: 'lens', translations: { nl: { use: 'lens' }, ar: { use: 'عدسة' } } },
]

/** Arabic texts for Samira, a Dutch page of Ilse that waits for review, and an outdated Flemish text. */
async function assignTranslations(editor: Editor, now: number): Promise<void> {
  const day = (days: number): string => new Date(now + days * 86_400_000).toISOString().slice(0, 10)
  await editor.translations.setGlossary(terms)
  // The Flemish text was made from the Dutch one, which has changed since.
  const [room] = (await editor.entries({ type: 'exhibition', where: 'title = "The Longest Room"' })).entries
  if (room)
    await editor.edit(room.id, room.version, [
      {
        do: 'set',
        at: ['summary'],
        locale: 'nl',
        value:
          'Driehonderd passen achteruit geven één touw. Een lijnbaan in vol bedrijf, en alles wat er ooit aan hing.',
      },
    ])
  const arabic = await editor.translations.work({ locale: 'ar', type: 'exhibition', first: 3 })
  await editor.translations.assign(
    arabic.entries.map(({ entry }) => entry),
    'ar',
    'samira@marram.example',
    day(10),
  )
  const [dutch] = (await editor.translations.work({ locale: 'nl', type: 'page', first: 1 })).entries
  if (!dutch) return
  await editor.translations.assign([dutch.entry], 'nl', 'ilse@marram.example', day(4))
  await editor.translations.ready(dutch.entry, 'nl')
}

/** A region for the ferry towns: some pages are copied there and told otherwise, and their source goes on. */
async function openNorth(editor: Editor): Promise<void> {
  const { counterparts } = editor
  await counterparts.setRegions([{ name: 'north', label: 'The north' }])
  const pageWith = async (title: string) =>
    (await editor.entries({ type: 'page', where: `title = ${JSON.stringify(title)}`, region: 'main' })).entries[0]!
  const home = await pageWith('Three museums on a windy coast')
  const visit = await pageWith('Plan your visit')
  await editor.waitFor(await counterparts.make({ region: 'north', ids: [home.id, visit.id], withChildren: true }))
  const inNorth = async (id: string): Promise<string> =>
    (await counterparts.of(id)).regions.find(({ name }) => name === 'north')!.entry!.id
  const [northHome, northVisit] = [await inNorth(home.id), await inNorth(visit.id)]
  await editor.edit(northHome, 1, [
    { do: 'set', at: ['title'], locale: 'en', value: 'Three museums, one ferry away' },
    { do: 'set', at: ['title'], locale: 'nl', value: 'Drie musea, één veerboot ver' },
  ])
  await editor.edit(northVisit, 1, [
    {
      do: 'set',
      at: ['body', 'coat', 'text'],
      locale: 'en',
      value: 'The ferry lands twice a day. The bus along the coast waits for it.',
    },
    {
      do: 'set',
      at: ['body', 'coat', 'text'],
      locale: 'nl',
      value: 'De veerboot komt twee keer per dag. De kustbus wacht erop.',
    },
  ])
  for (const id of [northHome, northVisit]) await editor.publish(id, { locales: ['en', 'nl'] })
  // The page that was copied goes on, at the same place and at others.
  const now = await editor.entry(visit.id)
  await editor.edit(visit.id, now.version, [
    { do: 'move', at: ['body', 'wind'], after: 'coat' },
    { do: 'set', at: ['body', 'wind', 'text'], locale: 'en', value: 'There is always some wind' },
    {
      do: 'set',
      at: ['body', 'coat', 'text'],
      locale: 'en',
      value: 'A coat is right in every season. The bus along the coast stops at all three museums, every hour.',
    },
    { do: 'set', at: ['summary'], locale: 'en', value: 'Getting here, getting in, what to wear, and where to eat.' },
  ])
}
