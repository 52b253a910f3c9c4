import type { Editor } from '@wisteria/client'
import { printCoded, type UnitView } from '@wisteria/core'

let walks = 0
/** A walk in English alone, with two blocks; its title is `Night Walk 1`, and so on. */
export async function nightWalk(owner: Editor, more: Readonly<Record<string, unknown>> = {}) {
  const number = ++walks
  const { id } = await owner.create({
    type: 'activity',
    values: {
      title: { en: `Night Walk ${number}` },
      slug: { en: `night-walk-${number}` },
      format: 'walk',
      body: [
        { id: 'h1', block: 'heading', values: { text: { en: 'Bring a torch' } } },
        { id: 'q1', block: 'quote', values: { text: { en: 'Dark is not empty.' } } },
      ],
      ...more,
    },
  })
  return { id, title: `Night Walk ${number}` }
}

/** A rich text of one paragraph with a bold word: “It was dark.”, or “It was dark and late.” with a line break. */
export const boldText = (hasBreak = false) => ({
  type: 'root',
  children: [
    {
      type: 'paragraph',
      data: { id: 'p1' },
      children: [
        { type: 'text', value: 'It was ' },
        { type: 'strong', children: [{ type: 'text', value: 'dark' }] },
        ...(hasBreak
          ? [{ type: 'text', value: ' and' }, { type: 'break' }, { type: 'text', value: 'late.' }]
          : [{ type: 'text', value: '.' }]),
      ],
    },
  ],
})

/** The Dutch units of an entry. */
export const dutchUnits = async (owner: Editor, id: string): Promise<readonly UnitView[]> =>
  (await owner.translations.of(id, 'nl')).entries[0]!.units

/** The text of each translation by the place of its unit, with its state. */
export const shownUnits = (units: readonly UnitView[]): Record<string, string> =>
  Object.fromEntries(
    units.map(({ at, translation, state }) => [
      at.join('/'),
      `${translation ? printCoded(translation) : '–'}, ${state}`,
    ]),
  )
