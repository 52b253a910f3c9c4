import { expect, it } from 'vitest'
import { publicChangeOf } from './publicChange.js'

const entry = { id: 'e1', type: 'museum' }
const affected = { paths: [], groups: ['e.e1', 't.museum', 's'] }
const told = (type: Parameters<typeof publicChangeOf>[0]['type'], more: object = {}) =>
  publicChangeOf({ sequence: 7, type, time: '2031', data: { entry, affected, publicGeneration: 'k.3', ...more } })

it.each([
  ['entry.published', {}, 'changed'],
  ['entry.withdrawn', {}, 'removed'],
  ['entry.archived', {}, 'removed'],
  ['model.adopted', {}, 'everything'],
  ['entry.published', { affected: { ...affected, all: true } }, 'everything'],
] as const)('%s %j is %s to readers', (type, more, change) => expect(told(type, more).change).toBe(change))

it('says nothing of who did it, of fields, or of where nothing moved', () => {
  expect(told('entry.published', { fields: ['town'], version: 9, paths: {}, actor: 'account:1' })).toEqual({
    position: 7,
    time: '2031',
    change: 'changed',
    entry,
    groups: affected.groups,
    generation: 'k.3',
  })
})
