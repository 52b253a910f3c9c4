import { describe, expect, it } from 'vitest'
import { makeModel, modelSite, settings } from '../../../../e2e/support/models.js'
import { readValues } from '../documents/names.js'
import { decideIncoming, outcomesInWords, translationBase, type IncomingText } from './incoming.js'
import { originsAfter, translationUnits } from './origins.js'
import { segmentKey } from './segments.js'

const model = makeModel({ page: 'type: page\nfields:\n  title: { kind: text, localized: true }\n' })
const type = model.types[0]!
const at = '2031-03-12T09:00:00.000Z'
const read = (title: Record<string, string | null>) =>
  readValues(model, type, { title }, modelSite.locales, (bytes) => new Uint8Array(bytes)).document

/** The unit of a title that was translated, and whose source changed then. */
function unitOf(before: Record<string, string>, after: Record<string, string | null>) {
  const [then, now] = [read(before), read(after)]
  const origins = originsAfter(model, type, {}, then, {}, 1, at, settings)
  const last = originsAfter(model, type, then, now, origins, 2, at, settings)
  return translationUnits(model, type, now, last, 'nl', settings)[0]!
}
const missing = unitOf({ en: 'Walk' }, { en: 'Walk' })
const empty = unitOf({ en: 'Walk' }, { en: 'Walk', nl: null })
const done = unitOf({ en: 'Walk', nl: 'Wandeling' }, { en: 'Walk', nl: 'Wandeling' })
const outdated = unitOf({ en: 'Walk', nl: 'Wandeling' }, { en: 'Night walk', nl: 'Wandeling' })
const came = (text: string | undefined, more: Partial<IncomingText> = {}): IncomingText => ({
  unit: segmentKey(missing.source),
  source: ['Walk'],
  base: '',
  text: text === undefined ? undefined : [text],
  isDone: false,
  ...more,
})
const digest = translationBase(done)

describe('a text that comes back', () => {
  it.each([
    ['is taken where nothing is there', missing, came('Wandeling'), 'taken'],
    ['is taken over what was handed out', done, came('Tocht', { base: digest }), 'taken'],
    [
      'is taken as outdated where the source has changed',
      missing,
      came('Tocht', { source: ['Stroll'] }),
      'takenOutdated',
    ],
    ['is as it was', done, came('Wandeling'), 'unchanged'],
    ['is as it was, and outdated', outdated, came('Wandeling', { source: ['Night walk'], base: digest }), 'unchanged'],
    [
      'is as it was, and right for the source as it is',
      outdated,
      came('Wandeling', { source: ['Night walk'], base: digest, isDone: true }),
      'confirmed',
    ],
    [
      'is as it was, and right for an earlier source only',
      outdated,
      came('Wandeling', { base: digest, isDone: true }),
      'unchanged',
    ],
    ['overwrites no newer work', done, came('Tocht'), 'newer'],
    ['overwrites nothing where it is not known what was handed out', done, came('Tocht', { base: undefined }), 'newer'],
    ['does not bring back what was removed here', missing, came('Tocht', { base: digest }), 'newer'],
    ['does not fill what was marked as empty here', empty, came('Tocht'), 'newer'],
    ['is not translated', missing, came(undefined), 'untranslated'],
    ['is empty', missing, came(' '), 'untranslated'],
    ['has a code too many', missing, came('', { text: ['Tocht', { code: '1' }] }), 'faulty'],
    ['is of no text', undefined, came('Tocht'), 'unknown'],
    ['has a source that was printed otherwise', missing, came('Tocht', { source: ['\n  Walk '] }), 'taken'],
  ] as const)('%s', (_, unit, incoming, outcome) => expect(decideIncoming(unit, incoming, false).outcome).toBe(outcome))
  it('is counted in words', () => {
    expect(outcomesInWords({ taken: 12, newer: 3, unchanged: 0 })).toBe('12 taken; 3 not taken: changed since')
    expect(outcomesInWords({})).toBe('none')
  })
  it('overwrites newer work when told to', () => {
    expect(decideIncoming(done, came('Tocht'), true).outcome).toBe('taken')
    expect(decideIncoming(done, came('Tocht', { source: ['Stroll'] }), true).outcome).toBe('takenOutdated')
  })
})
