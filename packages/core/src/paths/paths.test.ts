import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { doc, settings, type } from '../../../../e2e/support/models.js'
import { fillPattern, normalPath, readPattern, type PatternPiece } from './pattern.js'
import { parentOf, pathIn } from '../publishing/entryPath.js'

const pieces = (pattern: string) => readPattern(pattern) as PatternPiece[]

describe('path patterns', () => {
  it.each([
    ['/nl/agenda/{slug}', 'night', null, '/nl/agenda/night'],
    ['/{parent}/{slug}', 'tickets', '/visit', '/visit/tickets'],
    ['/{parent}/{slug}', 'visit', null, '/visit'],
    ['/{parent}/{slug}', 'visit', '/', '/visit'],
    ['/nl/{parent}/{slug}', 'kaarten', '/nl/bezoek', '/nl/bezoek/kaarten'],
    ['/nl/{parent}/{slug}', null, null, '/nl'],
    ['/{parent}/{slug}', null, null, '/'],
    ['/a/{slug}', undefined, null, undefined],
    ['/{parent}/{slug}', 'x', undefined, undefined],
  ])('fills %s with %j under %j: %j', (pattern, slug, parent, path) => {
    expect(fillPattern(pieces(pattern), () => slug, parent)).toBe(path)
  })

  it.each([
    ['activities/{slug}', /begin with/],
    ['/a/', /must not end/],
    ['/a//b', /two slashes/],
    ['/a/{}', /without a field's name/],
    ['/a/x{slug}', /neither plain text nor one placeholder/],
    ['/a b/{slug}', /neither plain text/],
    ['/a/{Slug}', /without a field's name/],
  ])('refuses %s', (pattern, message) => expect(readPattern(pattern)).toMatch(message))

  it('looks paths up decoded and without a slash at the end', () => {
    expect(normalPath('/ar/%D9%85%D9%86%D8%A7%D8%B1%D8%A9/')).toBe('/ar/منارة')
    expect(normalPath('/')).toBe('/')
    expect(normalPath('///')).toBe('/')
    expect(normalPath('visit')).toBeUndefined()
    expect(normalPath('/%')).toBeUndefined()
    expect(normalPath('/' + 'a'.repeat(2001))).toBeUndefined()
  })

  it('finds every path that it fills, however it was typed', () => {
    const slug = fc.stringMatching(/^[a-z0-9]{1,8}(-[a-z0-9]{1,8}){0,2}$/)
    fc.assert(
      fc.property(slug, slug, (parent, slug) => {
        const path = fillPattern(pieces('/nl/{parent}/{slug}'), () => slug, `/nl/${parent}`)!
        return normalPath(encodeURI(path) + '/') === path
      }),
    )
  })
})

describe('the path of an entry', () => {
  const activity = type('activity')
  const localized = doc('activity', { slug: { en: 'night-walk', nl: 'nachtwandeling' } })

  it('is made from the slug after fallback, where the type has a pattern', () => {
    expect(pathIn(activity, localized, settings, 'en', null, null)).toBe('/activities/night-walk')
    expect(pathIn(activity, localized, settings, 'nl', null, null)).toBe('/nl/agenda/nachtwandeling')
    expect(pathIn(activity, doc('activity', { slug: { en: 'night-walk' } }), settings, 'nl', null, null)).toBe(
      '/nl/agenda/night-walk',
    )
    expect(pathIn(activity, localized, settings, 'ar', null, null)).toBeUndefined()
    expect(pathIn(activity, {}, settings, 'en', null, null)).toBeUndefined()
  })

  it('hangs on the parent that the entry names', () => {
    expect(parentOf(type('page'), doc('page', { inPage: '01hz0000000000000000' }))).toBe('01hz0000000000000000')
    expect(parentOf(type('page'), {})).toBeUndefined()
    expect(parentOf(activity, localized)).toBeUndefined()
  })
})
