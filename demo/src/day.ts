import type { Editor } from '@wisteria/client'

/**
 * Makes a day of the demo world: somebody is invited, a page is scheduled, a notice is published and delivered to the webhook of
 * the museum site, two activities are changed in bulk, and one is in the bin.
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
}
