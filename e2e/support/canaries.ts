import type { Editor } from '@wisteria/client'
import { startSmall, type SmallSite } from './running.js'

/** A word that is in every value that is not public, and nowhere else. */
export const canary = 'kanarie'

export interface CanarySite {
  readonly small: SmallSite
  readonly owner: Editor
  /** Of the published edition. */
  readonly key: string
  readonly publicMuseum: string
  readonly hiddenMuseum: string
  readonly hiddenPerson: string
  readonly activity: string
  readonly hiddenIds: readonly string[]
  /** One of them was public once: that it was withdrawn is no secret. */
  readonly withdrawn: string
}

/** A site whose public entries all have drafts, and beside them entries that are not public, with the canary in each of their values. */
export async function startWithCanaries(): Promise<CanarySite> {
  const small = await startSmall()
  const { owner } = small
  const hiddenIds: string[] = []
  const key = (await owner.createKey({ label: 'Reader', scope: 'published' })).secret
  const publish = async (type: string, values: Record<string, unknown>) =>
    (await owner.publish((await owner.create({ type, values })).id)).id
  const hide = async (type: string, values: Record<string, unknown>) => {
    const { id } = await owner.create({ type, values })
    hiddenIds.push(id)
    return id
  }
  const hiddenMuseum = await hide('museum', {
    name: { en: `${canary} museum`, nl: canary },
    slug: { en: canary, nl: canary },
    town: canary,
  })
  const hiddenPerson = await hide('person', { name: `${canary} person`, home: hiddenMuseum })
  const publicMuseum = await publish('museum', { name: { en: 'Lighthouse' }, town: 'Sanderling Head' })
  const person = await publish('person', { name: 'Anna', home: hiddenMuseum })
  const activity = await publish('activity', {
    title: { en: 'Walk' },
    format: 'walk',
    museum: publicMuseum,
    speakers: [person, hiddenPerson],
    tags: ['dark'],
    price: 3,
    summary: { en: 'Short' },
    body: [{ id: 'h', block: 'heading', values: { text: { en: 'Bring' } } }],
  })
  // Now every value of the public entries has a draft with the canary in it, in every locale, also in new blocks.
  await owner.patch(activity, 2, {
    title: { en: canary, nl: canary, ar: canary },
    slug: { en: canary, nl: `${canary}-nl` },
    summary: { en: canary, 'nl-BE': canary },
    tags: [canary, 'dark'],
    price: 99,
    museum: hiddenMuseum,
    format: 'talk',
    free: true,
    starts: '2031-01-01T10:00:00Z',
    day: '2031-01-01',
    body: [
      { id: 'h', block: 'heading', values: { text: { en: canary, nl: canary } } },
      { id: 'q', block: 'quote', values: { text: { en: canary }, by: canary } },
    ],
  })
  await owner.patch(publicMuseum, 2, { name: { en: `${canary} light`, nl: canary }, town: canary })
  await owner.patch(person, 2, { name: `${canary} anna` })
  // A value that was public and is not any more is a draft as well.
  const down = await publish('museum', { name: { en: 'Withdrawn' }, slug: { en: 'withdrawn' } })
  await owner.withdraw(down)
  await owner.patch(down, 3, { town: canary })
  hiddenIds.push(down)
  return { small, owner, key, publicMuseum, hiddenMuseum, hiddenPerson, activity, hiddenIds, withdrawn: down }
}
