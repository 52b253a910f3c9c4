import { readModelFiles } from '@wisteria/core'
import { describe, expect, it } from 'vitest'
import { nextTick } from 'vue'
import { asFiles, makeModel, settings } from '../../../../e2e/support/models.js'
import { shapedFiles, shapedModel } from '../../../../e2e/support/shaped.js'
import type { Site } from '../session'
import { boxWidth, layOut, neighbourOf, referencesOf } from './mapLayout'
import { createModelDraft, forgetDraft, nameFrom, openDraft } from './modelDraft'
import { hasLocaleLabels, readOptions, withLocaleLabels, withValue, writeOptions } from './choiceOptions'
import { optionFormsFor, printDefault, readDefault } from './optionForms'

const site = { name: 'marram', model: shapedModel, settings: { name: 'marram', ...settings } } as unknown as Site
const draftOf = () => createModelDraft(site, asFiles(shapedFiles))

describe('the draft of a model', () => {
  it('is no change at first, and keeps files that are not touched letter by letter', () => {
    const draft = draftOf()
    expect([draft.isChanged.value, draft.changes.value, draft.problems.value]).toEqual([false, [], []])
    draft.addType('Boat trip')
    expect(draft.files.value.slice(0, -1)).toEqual(asFiles(shapedFiles))
    expect(draft.files.value.at(-1)!.text).toContain('type: boatTrip')
    expect(draft.changes.value).toMatchObject([{ code: 'typeAdded', place: 'boatTrip' }])
  })
  it('adds, moves and removes fields, in groups too', () => {
    const draft = draftOf()
    const tour = draft.find('type', 'tour')!
    expect(draft.addField(tour.source, [], 'Dogs welcome?', 'boolean')).toEqual(['dogsWelcome'])
    expect(draft.addField(tour.source, ['venue'], 'Floor', 'number')).toEqual(['venue', 'floor'])
    expect(draft.addField(tour.source, [], 'Dogs welcome', 'text')).toEqual(['dogsWelcome2'])
    expect(draft.addField(tour.source, [], '!!!', 'text')).toBeUndefined()
    draft.moveField(tour.source, ['dogsWelcome'], 0)
    draft.removeField(tour.source, ['site'])
    expect(Object.keys(tour.source.fields).slice(0, 2)).toEqual(['dogsWelcome', 'title'])
    expect(draft.problems.value).toEqual([])
    expect(draft.changes.value.map((change) => `${change.code} ${change.place}`).sort()).toEqual([
      'fieldAdded tour.dogsWelcome',
      'fieldAdded tour.dogsWelcome2',
      'fieldAdded tour.venue.floor',
      'fieldRemoved tour.site',
    ])
  })
  it('renames so that the old name goes on answering, and back', () => {
    const draft = draftOf()
    const tour = draft.find('type', 'tour')!
    expect(draft.renameField(tour, ['site'], 'tickets')).toEqual(['tickets'])
    expect(tour.source.fields['tickets']).toMatchObject({ kind: 'webAddress', was: 'site', label: 'Site' })
    expect(draft.changes.value[0]).toMatchObject({ code: 'fieldRenamed' })
    expect(draft.renameField(tour, ['tickets'], 'title')).toBeUndefined()
    expect(draft.renameField(tour, ['tickets'], 'No name')).toBeUndefined()
    expect(draft.renameField(tour, ['tickets'], 'site')).toEqual(['site'])
    expect(draft.isChanged.value).toBe(false)
    // A field that was never adopted has no old name.
    draft.addField(tour.source, [], 'Fresh', 'text')
    draft.renameField(tour, ['fresh'], 'newer')
    expect(tour.source.fields['newer']).toEqual({ kind: 'text', label: 'Fresh' })
  })
  it('says what is wrong with a type, and shows the last model that was right', () => {
    const draft = draftOf()
    const tour = draft.find('type', 'tour')!
    tour.source.fields['price']!.showIf = 'fromat = "walk"'
    expect(draft.problemsOf(tour)).toMatchObject([
      { pointer: '/fields/price/showIf', message: expect.stringMatching(/Did you mean `format`/) as string },
    ])
    expect(draft.model.value.types).toHaveLength(3)
    expect(draft.changes.value).toEqual([])
  })
  it('begins every kind so that it can be adopted', () => {
    for (const kind of [
      'choice',
      'entry',
      'block',
      'group',
      'slug',
      'number',
      'richText',
      'asset',
      'json',
      'location',
      'metadata',
      'timeSpan',
    ]) {
      const draft = draftOf()
      draft.addField(draft.find('type', 'guide')!.source, [], `A ${kind}`, kind)
      expect(draft.problems.value, kind).toEqual([])
    }
  })
  it('removes sections and keeps their fields', () => {
    const draft = draftOf()
    const tour = draft.find('type', 'tour')!
    draft.setSection(tour.source, 'tickets', undefined)
    expect(tour.source.fields['price']!.section).toBeUndefined()
    draft.setSection(tour.source, 'fresh', { label: 'Fresh' })
    expect([draft.problems.value, Object.keys(tour.source.sections!)]).toEqual([[], ['notes', 'fresh']])
  })
  it('removes types, and says so', () => {
    const draft = draftOf()
    draft.remove(draft.find('type', 'house')!)
    expect(draft.changes.value).toMatchObject([{ code: 'typeRemoved', place: 'house' }])
    expect([draft.addBlock('Timeline'), draft.addBlock('Timeline')]).toEqual(['timeline', undefined])
  })
  it.each([
    ['Opening hours', 'openingHours'],
    ['Où ?', 'ou'],
    ['  2nd  ', ''],
    ['ÉTÉ', 'eTE'],
  ])('%j suggests the name %j', (label, name) => expect(nameFrom(label)).toBe(name))
})

describe('options as they are written', () => {
  it('are those of the kind, and what every field may say', () => {
    const names = (field: { kind: string; many?: boolean }, inside = false) =>
      optionFormsFor(field, inside, true).map((form) => form.name)
    expect(names({ kind: 'text' })).toEqual([
      'required',
      'localized',
      'many',
      'length',
      'pattern',
      'unique',
      'indexed',
      'default',
      'section',
      'help',
      'example',
      'showIf',
      'requireIf',
      'lockIf',
    ])
    expect(names({ kind: 'group', many: true }, true)).toEqual([
      'required',
      'many',
      'count',
      'check',
      'section',
      'help',
      'example',
      'showIf',
      'requireIf',
      'lockIf',
    ])
    expect(names({ kind: 'slug' })).not.toContain('many')
  })
  it('options of a choice are written as short as they can be, and read back', () => {
    const options = [
      'talk',
      { value: 'walk', label: { en: 'Walk', nl: 'Wandeling' } },
      { value: 'run', label: 'A run' },
    ]
    expect(writeOptions(readOptions(options))).toEqual(options)
    expect(writeOptions([{ value: 'talk', labels: { '': 'Talk' }, was: [] }])).toEqual(['talk'])
  })
  it('options of a choice get labels per locale, and one for all again', () => {
    const perLocale = withLocaleLabels(readOptions(['talk', { value: 'walk', label: 'A walk' }]), true, 'nl')
    expect(writeOptions(perLocale)).toEqual([
      { value: 'talk', label: { nl: 'Talk' } },
      { value: 'walk', label: { nl: 'A walk' } },
    ])
    expect(hasLocaleLabels(perLocale)).toBe(true)
    expect(writeOptions(withLocaleLabels(perLocale, false, 'nl'))).toEqual(['talk', { value: 'walk', label: 'A walk' }])
  })
  it('an adopted option under another value answers to the old one; a new one does not', () => {
    const [talk] = readOptions(['talk'])
    const renamed = withValue(talk!, 'lecture', ['talk'])
    expect(writeOptions([renamed])).toEqual([{ value: 'lecture', was: 'talk' }])
    expect(writeOptions([withValue(renamed, 'talk', ['talk'])])).toEqual(['talk'])
    expect(writeOptions([withValue(talk!, 'lecture', [])])).toEqual(['lecture'])
  })
  it.each<[string, string, unknown]>([
    ['', 'text', undefined], ['12', 'number', 12], ['many', 'number', 'many'], ['true', 'boolean', true], ['price = 0', 'boolean', { expression: 'price = 0' }],
    ['today + 7 days', 'date', { expression: 'today + 7 days' }], ['= title', 'text', { expression: 'title' }], ['plain', 'text', 'plain'],
  ])('a default %j of kind %s is %j', (text, kind, value) => {
    expect(readDefault(text, kind)).toEqual(value)
    expect(readDefault(printDefault(value), kind)).toEqual(value)
  }) // prettier-ignore
})

describe('the map', () => {
  const map = layOut(shapedModel)
  const idOf = (name: string) => map.boxes.find((box) => box.owner.name === name)!.id
  const nameOf = (id: string) => map.boxes.find((box) => box.id === id)!.owner.name
  it('stands types before what they refer to, and block types below', () => {
    const column = (name: string) => map.boxes.find((box) => box.owner.name === name)!.column
    expect([column('house'), column('tour'), column('guide')]).toEqual([0, 1, 2])
    const isBelow = map.boxes.every((box) => box.isBlock === box.y > map.blocksAt)
    expect(isBelow).toBe(true)
    expect(map.links.some(({ to }) => to === idOf('words'))).toBe(true)
    expect(map.lines.some(({ to }) => to === idOf('words'))).toBe(false)
    expect(new Set(map.boxes.map((box) => `${box.x} ${box.y}`)).size).toBe(map.boxes.length)
  })
  it('draws lines of right angles only, from box to box, and none behind a box', () => {
    const behind = map.lines.flatMap(({ points, from, to }) =>
      points.slice(1).flatMap(([x, y], index) => {
        const [wasX, wasY] = points[index]!
        expect(x === wasX || y === wasY).toBe(true)
        const [left, right] = [Math.min(x, wasX), Math.max(x, wasX)]
        const [upper, lower] = [Math.min(y, wasY), Math.max(y, wasY)]
        return map.boxes
          .filter((box) => left < box.x + boxWidth && right > box.x && upper < box.y + box.height && lower > box.y)
          .map((box) => `${nameOf(from)} to ${nameOf(to)} behind ${box.owner.name}`)
      }),
    )
    expect(behind).toEqual([])
    expect(map.lines).toHaveLength(4)
    expect(referencesOf(shapedModel).get(idOf('tour'))!.get(idOf('guide'))).toEqual([
      'story',
      'guides',
      'lead',
      'venue.door.keeper',
      'sessions.host',
    ])
  })
  it('is the same for the same model, and bears circles', () => {
    expect(layOut(shapedModel)).toEqual(map)
    const round = makeModel({
      a: 'type: a\nfields:\n  name: { kind: text }\n  b: { kind: entry, accepts: [b] }\n',
      b: 'type: b\nfields:\n  name: { kind: text }\n  a: { kind: entry, accepts: [a, b] }\n',
    })
    expect(layOut(round).boxes).toHaveLength(2)
  })
  it('is walked by arrows along references', () => {
    expect(neighbourOf(map, idOf('house'), 'right')).toBe(idOf('tour'))
    expect(neighbourOf(map, idOf('guide'), 'left')).toBe(idOf('tour'))
    expect(neighbourOf(map, idOf('words'), 'right')).toBe(idOf('box'))
    expect(neighbourOf(map, idOf('house'), 'down')).toBe(idOf('words'))
    expect(neighbourOf(map, idOf('house'), 'up')).toBeUndefined()
  })
})

it('reads its own files as sources', () => {
  const source = readModelFiles(asFiles({ guide: shapedFiles.guide })).types[0]!.source
  expect(source.type).toBe('guide')
})

describe('a draft of the model', () => {
  it('is there again after the page went, and gone once it is discarded', async () => {
    localStorage.clear()
    const editor = { model: () => Promise.resolve({ files: asFiles(shapedFiles) }) }
    const ownSite = { ...site, name: 'kept', editor } as unknown as typeof site
    const draft = await openDraft(ownSite, 'ilse')
    const [first] = draft.sources
    draft.addField(first!.source, [], 'Door code', 'text')
    await nextTick()
    const leaving = new Event('beforeunload', { cancelable: true })
    dispatchEvent(leaving)
    expect(leaving.defaultPrevented).toBe(true)
    // Another page of the same tab finds it; another person does not.
    const kept = localStorage.getItem(
      Object.keys(localStorage).find((key) => key.startsWith('wisteria/model/ilse/kept#'))!,
    )!
    forgetDraft('kept')
    expect(Object.keys(localStorage).filter((key) => key.startsWith('wisteria/model/'))).toEqual([])
    localStorage.setItem('wisteria/model/ilse/kept#gone', kept)
    expect((await openDraft(ownSite, 'teun')).isChanged.value).toBe(false)
    forgetDraft('kept')
    const again = await openDraft(ownSite, 'ilse')
    expect([again.isChanged.value, again.recovered?.version, again.sources[0]!.source.fields['doorCode']]).toEqual([
      true,
      site.model.version,
      { kind: 'text' },
    ])
    forgetDraft('kept')
    expect((await openDraft(ownSite, 'ilse')).isChanged.value).toBe(false)
    forgetDraft('kept')
  })
})
