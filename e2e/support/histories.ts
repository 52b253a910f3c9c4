import type { Editor } from '@wisteria/client'
import fc from 'fast-check'
import { expect } from 'vitest'
import { asFiles, files, settings } from './models.js'

/** An act of an editor on one of six entries. */
export const act = fc.record({
  entry: fc.integer({ min: 0, max: 5 }),
  does: fc.constantFrom('edit', 'edit', 'publish', 'publish', 'withdraw', 'slug', 'move', 'refer'),
  locale: fc.constantFrom('en', 'nl', 'nl-BE', 'ar'),
  word: fc.constantFrom('wind', 'zout', 'ضوء', 'tij'),
})
export type Act = typeof act extends fc.Arbitrary<infer One> ? One : never

/**
 * A history of a site with the small test model: entries that are changed, published, moved and withdrawn, with another model and other
 * settings in the middle.
 * @param round makes the names and the choices in it differ.
 */
export async function liveThrough(owner: Editor, acts: readonly Act[], round: number): Promise<readonly string[]> {
  const ids: string[] = []
  for (let index = 0; index < 4; index++)
    ids.push(
      (
        await owner.create({
          type: 'page',
          values: {
            title: { en: `Page ${round} ${index} ${ids.length}` },
            slug: { en: `p-${round}-${index}-${Date.now()}` },
          },
        })
      ).id,
    )
  ids.push(
    (
      await owner.create({
        type: 'museum',
        values: { name: { en: `M ${round}` }, slug: { en: `m-${round}-${Date.now()}` } },
      })
    ).id,
  )
  ids.push(
    (
      await owner.create({
        type: 'activity',
        values: {
          title: { en: `A ${round}` },
          slug: { en: `a-${round}-${Date.now()}` },
          format: 'walk',
          tags: ['one', 'two'],
        },
      })
    ).id,
  )
  const half = Math.floor(acts.length / 2)
  for (const [index, { entry, does, locale, word }] of acts.entries()) {
    if (index === half) {
      const changed = {
        ...files,
        museum: files.museum.replace('town: { kind: text', 'place: { kind: text, was: town'),
        activity: files.activity.replace("'/activities/{slug}'", "'/events/{slug}'"),
      }
      const proposal = await owner.compareModel(asFiles(round % 2 ? changed : files))
      await owner.adoptModel(proposal.id)
      await owner.setLocales({
        ...settings,
        locales: settings.locales.map((locale) =>
          locale.tag === 'ar' && round % 3 ? { ...locale, fallback: ['nl', 'en'] } : locale,
        ),
      })
    }
    const id = ids[entry]!
    const now = await owner.entry(id)
    const name = now.type === 'museum' ? 'name' : 'title'
    // Refusals (a path that is taken, a parent that is not public) are part of a history too: they must leave nothing
    // behind.
    await {
      edit: () => owner.patch(id, now.version, { [name]: { [locale]: `${word} ${index}` } }),
      slug: () => owner.patch(id, now.version, { slug: { [locale]: `${word}-${index}-${round}` } }),
      publish: () => owner.publish(id, index % 2 ? { locales: [locale] } : {}),
      withdraw: () => owner.withdraw(id, { withChildren: true, ...(index % 2 ? { locales: [locale] } : {}) }),
      move: () =>
        now.type === 'page'
          ? owner.patch(id, now.version, { inPage: entry === 0 ? null : ids[entry - 1] })
          : Promise.resolve(now),
      refer: () =>
        now.type === 'activity'
          ? owner.patch(id, now.version, { museum: ids[4], tags: [word, 'one'] })
          : Promise.resolve(now),
    }
      [does]()
      .catch((error: { status: number }) => expect(error.status).toBeLessThan(500))
  }
  return ids
}
