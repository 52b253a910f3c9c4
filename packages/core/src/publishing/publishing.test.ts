import { describe, expect, it } from 'vitest'
import { block, doc, id, locales, model, settings, type } from '../../../../e2e/support/models.js'
import { changesBetween } from './changes.js'
import { composePublic, layerOf, type PublicLayers } from '../documents/layers.js'
import { draftRows, publicRows } from './editionRows.js'
import { project } from '../documents/project.js'
import { resolveReferences } from '../documents/resolveReferences.js'
import { absorbs } from '../entries/revisions.js'
import { localesToPublish } from './scope.js'
import { withSlugs } from '../documents/slugs.js'
import { statesOf, summaryOf } from './state.js'
import { layersAfter, referencesOf, validate } from './validate.js'

const activity = type('activity')
const walk = doc('activity', {
  title: { en: 'Night Walk', nl: 'Nachtwandeling' },
  slug: { en: 'night-walk', nl: 'nachtwandeling' },
  format: 'walk',
  body: [block('heading', 'h1', { text: { en: 'Bring', nl: 'Neem mee' } })],
})
const changed = doc('activity', {
  ...{
    title: { en: 'Night Walk', nl: 'Nachttocht' },
    slug: { en: 'night-walk', nl: 'nachtwandeling' },
    format: 'talk',
  },
  body: [
    block('quote', 'q1', { text: { en: 'New' } }),
    block('heading', 'h1', { text: { en: 'Bring more', nl: 'Neem meer mee' } }),
  ],
})
const values = (layers: PublicLayers, locale: string) =>
  JSON.parse(
    publicRows(model, activity, settings, layers, () => null).find((row) => row.locale === locale)!.doc,
  ) as Record<string, unknown>

describe('what is public', () => {
  it('is the shared layer of the last publish, and each locale as it was published', () => {
    const layers = layersAfter(changed, ['en'], { shared: walk, locales: { en: walk, nl: walk } })
    expect(values(layers, 'en')).toMatchObject({
      title: 'Night Walk',
      format: 'talk',
      body: [{ block: 'quote', values: { text: 'New' } }, { values: { text: 'Bring more' } }],
    })
    expect(values(layers, 'nl')).toMatchObject({
      title: 'Nachtwandeling',
      format: 'talk',
      body: [{ block: 'quote', values: { text: 'New' } }, { values: { text: 'Neem mee' } }],
    })
  })
  it('has a row for every locale with something to read in its chain, and no other', () => {
    const rows = (published: string[]) =>
      publicRows(model, activity, settings, layersAfter(walk, published, undefined), () => null).map(
        (row) => row.locale,
      )
    expect(rows(['en'])).toEqual(['en', 'nl', 'nl-BE', 'ar'])
    expect(rows(['nl'])).toEqual(['nl', 'nl-BE'])
    expect(rows(['nl-BE'])).toEqual(['nl-BE'])
    expect(draftRows(model, activity, settings, walk, () => null).map((row) => row.locale)).toEqual(locales)
  })
  it('falls back along the whole chain, but never to what is not public', () => {
    const layers = layersAfter(walk, ['en'], undefined)
    expect(values(layers, 'nl-BE')['title']).toBe('Night Walk')
    expect(values(layersAfter(walk, ['en', 'nl'], undefined), 'nl-BE')['title']).toBe('Nachtwandeling')
    expect(JSON.stringify(publicRows(model, activity, settings, layers, () => null))).not.toContain('Nachtwandeling')
  })
  it('ends at what is empty on purpose', () => {
    const empty = doc('activity', { title: { en: 'Night Walk' }, summary: { en: 'Long', nl: null } })
    expect(values(layersAfter(empty, ['en', 'nl'], undefined), 'nl')['summary']).toBeNull()
  })
  it('keeps a locale layer apart from the shared one', () => {
    expect(layerOf(model, activity, walk, undefined)).toEqual(
      doc('activity', { format: 'walk', body: [block('heading', 'h1', {})] }),
    )
    expect(layerOf(model, activity, walk, 'nl')).toMatchObject(doc('activity', { title: 'Nachtwandeling' }))
    expect(layerOf(model, activity, walk, 'ar')).toEqual({})
  })
})

describe('states', () => {
  const states = (document: typeof walk, layers: PublicLayers | undefined, withdrawn: string[] = []) =>
    statesOf(model, activity, document, { layers, withdrawn }, settings)
  const both = layersAfter(walk, ['en', 'nl'], undefined)
  it('are each of a locale of its own', () => {
    expect(states(walk, undefined)).toEqual({ en: 'new', nl: 'new', 'nl-BE': 'new', ar: 'new' })
    expect(states(walk, both)).toMatchObject({ en: 'public', nl: 'public', ar: 'new' })
    expect(states({ ...walk, [id('activity', 'title')]: { en: 'Night Walk', nl: 'Anders' } }, both)).toMatchObject({
      en: 'public',
      nl: 'edited',
    })
    expect(states(walk, undefined, ['en'])).toMatchObject({ en: 'withdrawn', nl: 'new' })
  })
  it('are edited everywhere when what all share has changed', () => {
    expect(states({ ...walk, [id('activity', 'format')]: 'talk' }, both)).toMatchObject({
      en: 'edited',
      nl: 'edited',
      ar: 'new',
    })
  })
  it('know a block that moved from one whose words changed', () => {
    const inside = {
      ...walk,
      [id('activity', 'body')]: [block('heading', 'h1', { text: { en: 'Bring', nl: 'Anders' } })],
    }
    expect(states(inside, both)).toMatchObject({ en: 'public', nl: 'edited' })
  })
  it('are summed up by what is most worth knowing', () => {
    expect(summaryOf({ en: 'public', nl: 'edited' })).toBe('edited')
    expect(summaryOf({ en: 'withdrawn', nl: 'public' })).toBe('public')
    expect(summaryOf({ en: 'new', nl: 'withdrawn' })).toBe('withdrawn')
    expect(summaryOf({ en: 'new' })).toBe('new')
  })
})

describe('checking before a publish', () => {
  const check = (document: typeof walk, publish: string[], now?: PublicLayers) =>
    validate(model, activity, layersAfter(document, publish, now), settings).map(({ code, pointer, locale }) => [
      code,
      pointer,
      locale,
    ])

  it('finds nothing wrong with a complete entry', () => expect(check(walk, ['en', 'nl'])).toEqual([]))
  it('names every missing value, in every locale, also inside blocks', () => {
    const empty = doc('activity', { body: [block('heading', 'h1', {}), block('quote', 'q1', { text: { nl: 'Zo' } })] })
    expect(check(empty, ['en', 'nl'])).toEqual([
      ['required', '/values/title/en', 'en'],
      ['required', '/values/title/nl', 'nl'],
      ['required', '/values/format', undefined],
      ['required', '/values/body/0/values/text/en', 'en'],
      ['required', '/values/body/0/values/text/nl', 'nl'],
      ['required', '/values/body/1/values/text/en', 'en'],
    ])
  })
  it('takes a fallback for a value only if it will be public', () => {
    const english = doc('activity', { title: { en: 'Night Walk' }, format: 'walk' })
    expect(check(english, ['en', 'nl'])).toEqual([])
    expect(check(english, ['nl'])).toEqual([['required', '/values/title/nl', 'nl']])
  })
  it('does not take what is empty on purpose for a value', () => {
    expect(check(doc('activity', { title: { en: 'x', nl: null }, format: 'walk' }), ['en', 'nl'])).toEqual([
      ['required', '/values/title/nl', 'nl'],
    ])
  })
  it('looks at locales that are public already, since the shared values change under them', () => {
    const more = { ...walk, [id('activity', 'body')]: [block('quote', 'q9', { text: { en: 'New' } })] }
    const dutch = layersAfter(walk, ['nl'], undefined)
    expect(check(more, ['nl'], dutch)).toEqual([['required', '/values/body/0/values/text/nl', 'nl']])
    expect(check(more, ['nl', 'en'], dutch)).toEqual([])
  })
  it('names wrong values and counts', () => {
    const wrong = doc('activity', {
      title: { en: 'x' },
      format: 'dance',
      price: -1,
      body: ['1', '2', '3', '4'].map((id) => block('heading', id, { text: { en: 'x' } })),
    })
    expect(check(wrong, ['en'])).toEqual([
      ['unknownOption', '/values/format', undefined],
      ['tooSmall', '/values/price', undefined],
      ['tooMany', '/values/body', undefined],
    ])
  })
  it('says it so that an editor knows what to do', () => {
    const [problem] = validate(
      model,
      activity,
      layersAfter(
        doc('activity', { format: 'walk', title: { en: 'x' }, body: [block('quote', 'q', {})] }),
        ['en'],
        undefined,
      ),
      settings,
    )
    expect(problem?.message).toBe('Text of block 1 (Quote) is empty in en. Write one, or leave en out.')
  })
  it('finds every reference with its place', () => {
    const references = referencesOf(
      model,
      activity,
      doc('activity', { museum: 'm1', speakers: [{ id: 'a', value: 'p1' }] }),
      locales,
    )
    expect(references.map(({ pointer, target, accepts }) => [pointer, target, accepts])).toEqual([
      ['/values/museum', 'm1', ['museum']],
      ['/values/speakers/0', 'p1', ['person']],
    ])
  })
})

describe('changes', () => {
  it('are told place by place, with what was and what is', () => {
    const changes = changesBetween(
      model,
      activity,
      composePublic(model, activity, { shared: walk, locales: { en: walk, nl: walk } }),
      changed,
      locales,
    )
    expect(changes.map(({ pointer, locale, before, after }) => [pointer, locale, before, after])).toEqual([
      ['/values/title/nl', 'nl', 'Nachtwandeling', 'Nachttocht'],
      ['/values/format', null, 'walk', 'talk'],
      [
        '/values/body',
        null,
        [{ id: 'h1', block: 'Heading' }],
        [
          { id: 'q1', block: 'Quote' },
          { id: 'h1', block: 'Heading' },
        ],
      ],
      ['/values/body/1/values/text/en', 'en', 'Bring', 'Bring more'],
      ['/values/body/1/values/text/nl', 'nl', 'Neem mee', 'Neem meer mee'],
    ])
  })
  it('are none between the same', () =>
    expect(changesBetween(model, activity, walk, structuredClone(walk), locales)).toEqual([]))
})

describe('projecting for a reader', () => {
  const document = doc('activity', {
    title: { en: 'Café' },
    format: 'walk',
    free: true,
    museum: 'm1',
    tags: [{ id: 'a', value: 'Donker' }],
    speakers: [{ id: 's', value: 'p1' }],
    starts: '2031-05-04T20:30:00+02:00',
  })
  const projected = project(model, activity, document, ['nl', 'en'])
  it('prints values by name after fallback, and nothing that is missing as null', () => {
    expect(projected.values).toMatchObject({
      title: 'Café',
      free: true,
      museum: { id: 'm1' },
      speakers: [{ id: 'p1' }],
      tags: ['Donker'],
      price: null,
      body: [],
    })
    expect(projected.title).toBe('Café')
  })
  it('keeps comparable forms of what conditions may ask', () => {
    expect(projected.facts).toMatchObject({
      [id('activity', 'title')]: 'cafe',
      [id('activity', 'free')]: 1,
      [id('activity', 'tags')]: ['donker'],
      [id('activity', 'starts')]: '2031-05-04T18:30:00.000Z',
    })
  })
  it('drops references that the reader may not follow', () => {
    const resolve = (ids: string[]) =>
      resolveReferences(model, activity, projected.values, {
        typeOf: (id) => (ids.includes(id) ? 'museum' : undefined),
        asset: () => undefined,
        listed: () => [],
        richText: 'document',
        links: { entry: () => undefined, asset: () => undefined },
      })
    expect(resolve(['m1'])).toMatchObject({ museum: { id: 'm1', type: 'museum' }, speakers: [] })
    expect(resolve([])).toMatchObject({ museum: null, speakers: [] })
  })
})

describe('the locales of a publish', () => {
  const scope = (asked: string[] | undefined, layers?: PublicLayers) =>
    localesToPublish(model, settings, activity, walk, { layers, withdrawn: [] }, asked)
  it('are those asked for, in the order of the site', () => expect(scope(['nl', 'en'])).toEqual(['en', 'nl']))
  it('are all locales with content or public ones, when none are named', () => {
    expect(scope(undefined)).toEqual(['en', 'nl'])
    expect(scope(undefined, layersAfter(walk, ['ar'], undefined))).toEqual(['en', 'nl', 'ar'])
  })
  it('are refused when there is no such one, or none at all', () => {
    expect(() => scope(['fr'])).toThrow(/not a locale of this site/)
    expect(() => scope([])).toThrow(/at least one/)
  })
})

describe('slugs', () => {
  it('are made from the text they come from, per locale, where there is none', () => {
    const slugged = withSlugs(
      activity,
      doc('activity', { title: { en: 'Night Walk', nl: 'Nacht', ar: '!' }, slug: { nl: 'eigen' } }),
    )
    expect(slugged[id('activity', 'slug')]).toEqual({ en: 'night-walk', nl: 'eigen' })
    expect(
      withSlugs(type('museum'), doc('museum', { name: { en: 'x' }, slug: { en: null } }))[id('museum', 'slug')],
    ).toEqual({ en: null })
  })
})

describe('a sitting', () => {
  const open = { author: 'account:a', updatedAt: '2031-05-04T10:00:00.000Z', sealedAt: null }
  const at = Date.parse(open.updatedAt)
  it('goes on for the same author, until ten quiet minutes have passed or it is sealed', () => {
    expect(absorbs(open, 'account:a', at + 599_999)).toBe(true)
    expect(absorbs(open, 'account:a', at + 600_000)).toBe(false)
    expect(absorbs(open, 'account:b', at)).toBe(false)
    expect(absorbs({ ...open, sealedAt: open.updatedAt }, 'account:a', at)).toBe(false)
  })
})
