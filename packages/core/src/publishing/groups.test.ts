import { describe, expect, it } from 'vitest'
import { type } from '../../../../e2e/support/models.js'
import type { Field } from '../model/model.js'
import {
  Dependences,
  groups,
  groupsOfChange,
  mostGroups,
  toldValues,
  type EntryPublicChange,
  type FieldValues,
} from './groups.js'

const locales = ['en', 'nl']
const still = { from: null, to: null }
const changeOf = (
  id: string,
  type: string,
  change: { came?: boolean; fields?: string[]; values?: FieldValues[]; locale?: string } = {},
) => ({
  id,
  type,
  locales: [
    {
      locale: change.locale ?? 'nl',
      came: change.came ?? false,
      fields: change.fields ?? [],
      values: change.values ?? [],
      path: still,
    },
  ],
})
const of = (fill: (depends: Dependences) => void): string[] => {
  const depends = new Dependences()
  fill(depends)
  return depends.groups()
}
const meets = (answer: readonly string[], changes: readonly EntryPublicChange[]): boolean =>
  groupsOfChange(changes, locales).some((name) => answer.includes(name))

describe('the groups of a change', () => {
  it('name every level, for the locale and for all', () => {
    expect(groupsOfChange([changeOf('1', 'page', { fields: ['title'] })], locales)).toEqual(
      ['e.1', 'e.1@nl', 's', 's@nl', 't.page.entry', 't.page.entry@nl', 't.page.title', 't.page.title@nl'].sort(),
    )
  })
  it('name what comes and goes, and no field of it', () => {
    const names = groupsOfChange([changeOf('1', 'page', { came: true, fields: ['title'] })], locales)
    expect(names).toEqual(expect.arrayContaining(['t.page', 't.page@nl', 'r.1@nl', groups.hidden('1', 'nl')]))
    expect(names).not.toContain('t.page.title')
  })
  it('name the paths that it had and has', () => {
    const [change] = changeOf('1', 'page').locales
    const moved = [{ id: '1', type: 'page', locales: [{ ...change!, path: { from: '/a', to: '/b' } }] }]
    expect(groupsOfChange(moved, locales)).toEqual(
      expect.arrayContaining([groups.path('/a'), groups.path('/b'), 's.paths', 's.paths@nl', 's.paths.page@nl']),
    )
  })
  it('name a file, which every locale shows', () => {
    expect(groupsOfChange([], locales, ['7'])).toEqual(['a', 'a.7', 's', 's@en', 's@nl'])
  })
})

describe('values', () => {
  const field = (kind: string) => ({ ...type('activity').fields[0]!, kind }) as Field
  it.each([
    ['text', 'Été', ['ete']],
    ['choice', ['walk', 'talk'], ['walk', 'talk']],
    ['boolean', false, ['0']],
    ['entry', { id: '01hz' }, ['01hz']],
    ['number', 4.5, ['4.5']],
    ['number', null, []],
    ['json', { a: 1 }, []],
  ])('of kind %s are told apart: %j is %j', (kind, printed, values) => {
    expect(toldValues(field(kind), printed)).toEqual(values)
  })
})

describe('the groups of an answer', () => {
  it('tell entries with a value from others', () => {
    const list = of((depends) => depends.having({ field: 'format', values: ['walk'] }, 'activity', ['price'], 'nl'))
    const came = (value: string) =>
      changeOf('1', 'activity', { came: true, values: [{ field: 'format', values: [value] }] })
    expect(meets(list, [came('walk')])).toBe(true)
    expect(meets(list, [came('talk')])).toBe(false)
    const changed = { fields: ['format'], values: [{ field: 'format', values: ['talk', 'walk'] }] }
    expect(meets(list, [changeOf('1', 'activity', changed)])).toBe(true)
    expect(meets(list, [changeOf('1', 'activity', { fields: ['price'] })])).toBe(true)
  })
  it('tell entries that are referred to from others', () => {
    const list = of((depends) => depends.used('activity', 'museum', ['name'], 'nl'))
    expect(list).toEqual(['u.activity.museum@nl', 'u.activity.museum.name@nl', 'all'])
    const renamed = changeOf('1', 'museum', { fields: ['name'] })
    expect(meets(list, [renamed])).toBe(false)
    expect(meets(list, [{ ...renamed, referredBy: ['page'] }])).toBe(false)
    expect(meets(list, [{ ...renamed, referredBy: ['page', 'activity'] }])).toBe(true)
    expect(meets(list, [{ ...changeOf('1', 'museum', { came: true }), referredBy: ['activity'] }])).toBe(true)
  })
  it('say exactly what it depends on', () => {
    const list = of((depends) => {
      depends.type('page', ['price'], 'nl')
      depends.entry('1', 'page', 'nl')
      depends.presence('2', 'museum', 'nl')
    })
    expect(list).toEqual(['t.page@nl', 't.page.price@nl', 'e.1@nl', 'r.2@nl', 'all'])
    expect(meets(list, [changeOf('9', 'page', { fields: ['price'] })])).toBe(true)
    expect(meets(list, [changeOf('9', 'page', { came: true })])).toBe(true)
    expect(meets(list, [changeOf('1', 'page', { fields: ['title'] })])).toBe(true)
    expect(meets(list, [changeOf('2', 'museum', { came: true })])).toBe(true)
    expect(meets(list, [changeOf('9', 'page', { fields: ['title'] })])).toBe(false)
    expect(meets(list, [changeOf('9', 'page', { fields: ['price'], locale: 'en' })])).toBe(false)
    expect(meets(list, [changeOf('2', 'museum', { fields: ['name'] })])).toBe(false)
  })
  it('meet those of any locale where they depend on every one', () => {
    expect(
      meets(
        of((depends) => depends.entry('1', 'page')),
        [changeOf('1', 'page', { locale: 'en' })],
      ),
    ).toBe(true)
  })
  it('say no id of an entry that cannot be read', () => {
    const names = of((depends) => depends.hidden('01hzsecret', 'nl'))
    expect(names.join()).not.toContain('01hzsecret')
    expect(meets(names, [changeOf('01hzsecret', 'page', { came: true })])).toBe(true)
  })
  it.each([1, 60, 64, 65, 500])('stay few and still meet every change that they depend on: %i entries', (count) => {
    for (const kinds of [1, 3, 200]) {
      const names = of((depends) => {
        depends.type('listed', ['price'], 'nl')
        for (let at = 0; at < count; at++) {
          depends.entry(`e${at}`, `t${at % kinds}`, 'nl')
          depends.asset(`a${at}`)
        }
      })
      expect(names.length).toBeLessThanOrEqual(mostGroups + 1)
      const last = count - 1
      for (const change of [
        changeOf('e0', 't0', { fields: ['a'] }),
        changeOf(`e${last}`, `t${last % kinds}`, { came: true }),
        changeOf('new', 'listed', { came: true }),
        changeOf('new', 'listed', { fields: ['price'] }),
      ])
        expect(meets(names, [change]), `${kinds} ${JSON.stringify(change)}`).toBe(true)
      expect(groupsOfChange([], locales, ['a0']).some((name) => names.includes(name))).toBe(true)
    }
  })
})
