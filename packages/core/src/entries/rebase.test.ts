import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { often } from '../../../../e2e/support/length.js'
import { model, type } from '../../../../e2e/support/models.js'
import { namedEditsBetween } from './difference.js'
import { sameContent } from '../documents/document.js'
import { rebase } from './rebase.js'

const activity = type('activity')
type Values = Record<string, unknown>
const heading = (id: string, en: string, more: Values = {}) => ({
  id,
  block: 'heading',
  values: { text: { en, ...more } },
})
const quote = (id: string, en: string, by = '') => ({
  id,
  block: 'quote',
  values: { text: { en }, ...(by ? { by } : {}) },
})
const base: Values = {
  title: { en: 'Night Walk', nl: 'Nachtwandeling' },
  summary: { en: 'Along the dunes' },
  price: 9,
  tags: [
    { id: 'a', value: 'dark' },
    { id: 'b', value: 'outside' },
  ],
  body: [heading('h1', 'One', { nl: 'Een' }), quote('q1', 'Two', 'A keeper')],
}
const merged = (ours: Values, theirs: Values, choice: 'ours' | 'theirs' = 'ours') =>
  rebase(model, activity, base, ours, theirs, () => choice)

describe('rebasing', () => {
  const theirs = { ...base, title: { en: 'Dark Walk', nl: 'Nachtwandeling' }, summary: { en: 'By the sea' } }
  const ours = { ...base, title: { en: 'Late Walk', nl: 'Nachtwandeling' }, price: 12 }

  it('asks only about what both changed, and says what else the other changed', () => {
    const { conflicts, elsewhere } = merged(ours, theirs)
    expect(conflicts.map(({ at, locale }) => [at, locale])).toEqual([[['title'], 'en']])
    expect(elsewhere.map(({ at, locale }) => [at, locale])).toEqual([[['summary'], 'en']])
  })
  it('keeps what either changed elsewhere, whatever is chosen', () => {
    expect(merged(ours, theirs, 'ours').values).toEqual({ ...theirs, title: ours.title, price: 12 })
    expect(merged(ours, theirs, 'theirs').values).toEqual({ ...theirs, price: 12 })
  })
  it('keeps locales apart', () => {
    const { values, conflicts } = merged(
      { ...base, title: { en: 'Night Walk', nl: 'Nachttocht' } },
      { ...base, title: { en: 'Dark Walk', nl: 'Nachtwandeling', ar: 'نزهة' } },
    )
    expect([conflicts, values['title']]).toEqual([[], { en: 'Dark Walk', nl: 'Nachttocht', ar: 'نزهة' }])
  })
  it('lets one move a block while another writes inside it', () => {
    const moved = { ...base, body: [quote('q1', 'Two', 'A keeper'), heading('h1', 'One', { nl: 'Een' })] }
    const written = { ...base, body: [heading('h1', 'Uno', { nl: 'Een' }), quote('q1', 'Two', 'A keeper')] }
    const wanted = [quote('q1', 'Two', 'A keeper'), heading('h1', 'Uno', { nl: 'Een' })]
    expect(merged(moved, written)).toMatchObject({ conflicts: [], values: { body: wanted } })
    expect(merged(written, moved)).toMatchObject({ conflicts: [], values: { body: wanted } })
  })
  it('brings a block back that another removed while it was written in, or lets it go', () => {
    const written = { ...base, body: [heading('h1', 'Uno', { nl: 'Een' }), quote('q1', 'Two', 'The keeper')] }
    const removed = { ...base, price: 3, body: [quote('q1', 'Two', 'A keeper')] }
    const { conflicts } = merged(written, removed)
    expect(conflicts.map(({ at }) => at)).toEqual([['body', 'h1']])
    expect(merged(written, removed, 'ours').values).toEqual({ ...written, price: 3 })
    expect(merged(written, removed, 'theirs').values['body']).toEqual([quote('q1', 'Two', 'The keeper')])
    // The same, for the one who removed it.
    expect(merged(removed, written, 'ours').values['body']).toEqual([quote('q1', 'Two', 'The keeper')])
    expect(merged(removed, written, 'theirs').values).toEqual({ ...written, price: 3 })
  })
  it('makes one question of a block that is removed here and written in there at two places', () => {
    const written = { ...base, body: [heading('h1', 'One', { nl: 'Een' }), quote('q1', 'Twee', 'The keeper')] }
    const removed = { ...base, body: [heading('h1', 'One', { nl: 'Een' })] }
    expect(merged(removed, written).conflicts).toHaveLength(1)
    expect(merged(removed, written, 'theirs').values).toEqual(written)
    expect(merged(removed, written, 'ours').values).toEqual(removed)
  })
  it('brings a list back that another emptied while an item was put in', () => {
    const { tags, ...without } = base
    const longer = { ...base, tags: [...(tags as unknown[]), { id: 'c', value: 'late' }] }
    expect(merged(longer, without, 'ours').values['tags']).toEqual(longer.tags)
    expect(merged(longer, without, 'theirs').values).not.toHaveProperty('tags')
  })
  it('puts an item behind the nearest one that is left', () => {
    const ours = {
      ...base,
      body: [heading('h1', 'One', { nl: 'Een' }), quote('q1', 'Two', 'A keeper'), heading('h2', 'Three')],
    }
    const theirs = {
      ...base,
      body: [heading('h3', 'Zero'), heading('h1', 'One', { nl: 'Een' }), heading('h4', 'Last')],
    }
    expect((merged(ours, theirs).values['body'] as { id: string }[]).map((item) => item.id)).toEqual([
      'h3',
      'h1',
      'h2',
      'h4',
    ])
  })
  it('knows a block again that its own lost save had put in', () => {
    const sent = { ...base, body: [...(base['body'] as unknown[]), heading('h2', 'Thr')] }
    const now = { ...base, body: [...(base['body'] as unknown[]), heading('h2', 'Three')] }
    expect(merged(now, sent)).toMatchObject({ conflicts: [], values: now })
  })
})

/** Another state of the entry, after a few changes of the kinds that a form makes. */
const change = fc.oneof(
  fc.record({
    set: fc.constantFrom('price', 'free'),
    to: fc.option(fc.integer({ min: 0, max: 3 }), { nil: undefined }),
  }),
  fc.record({
    words: fc.constantFrom('title', 'summary'),
    in: fc.constantFrom('en', 'nl'),
    to: fc.option(fc.constantFrom('x', 'y'), { nil: undefined }),
  }),
  fc.record({
    list: fc.constantFrom('tags', 'body'),
    does: fc.constantFrom('remove', 'move', 'write'),
    at: fc.nat(3),
    to: fc.nat(3),
  }),
  fc.record({ list: fc.constantFrom('tags', 'body'), does: fc.constant('insert'), at: fc.nat(3), to: fc.nat(3) }),
)
let count = 0
function changed(values: Values, changes: readonly Record<string, unknown>[]): Values {
  const next = structuredClone(values)
  for (const edit of changes) {
    if ('set' in edit) next[edit['set'] as string] = edit['to']
    else if ('words' in edit) {
      const map = { ...(next[edit['words'] as string] as Values), [edit['in'] as string]: edit['to'] }
      next[edit['words'] as string] = Object.values(map).some((word) => word !== undefined) ? map : undefined
    } else {
      const name = edit['list'] as string
      const list = next[name] as { id: string; value?: unknown; values?: Values }[]
      const [at, to] = [edit['at'] as number, edit['to'] as number]
      if (edit['does'] === 'insert') {
        const id = `n${count++}`
        list.splice(at, 0, name === 'tags' ? { id, value: String(to) } : heading(id, String(to)))
      } else if (list[at] === undefined) continue
      else if (edit['does'] === 'remove') list.splice(at, 1)
      else if (edit['does'] === 'move') list.splice(to, 0, ...list.splice(at, 1))
      else if (name === 'tags') list[at] = { ...list[at], value: `w${to}` }
      else list[at] = { ...list[at], values: { ...list[at].values, text: { en: `w${to}` } } }
    }
  }
  return JSON.parse(JSON.stringify(next)) as Values
}

describe('rebasing at random', () => {
  const both = fc.tuple(fc.array(change, { maxLength: 5 }), fc.array(change, { maxLength: 5 }))
  it('changes nothing where only one wrote', () => {
    fc.assert(
      fc.property(fc.array(change, { maxLength: 6 }), (changes) => {
        const changedHere = changed(base, changes)
        expect(merged(changedHere, base).values).toEqual(changedHere)
        expect(merged(base, changedHere).values).toEqual(changedHere)
        expect(merged(changedHere, changedHere)).toMatchObject({ values: changedHere, conflicts: [] })
      }),
      { numRuns: often(300, 3000) },
    )
  })
  it('loses nothing that is chosen, and nothing that is not in question', () => {
    fc.assert(
      fc.property(both, fc.constantFrom('ours', 'theirs'), ([mine, others], choice) => {
        const [ours, theirs] = [changed(base, mine), changed(base, others)]
        const { values, conflicts } = merged(ours, theirs, choice)
        const asked = (from: 'ours' | 'theirs', edit: unknown) =>
          choice !== from && conflicts.some((conflict) => conflict[from].some((other) => sameContent(other, edit)))
        for (const [from, wanted] of [
          ['ours', ours],
          ['theirs', theirs],
        ] as const) {
          const lost = namedEditsBetween(model, activity, values, wanted)
          for (const edit of namedEditsBetween(model, activity, base, wanted)) {
            if (edit.do === 'move' || asked(from, edit)) continue
            // Their value is there: nothing is left to do at that place.
            const missing = lost.find(
              (entry) =>
                entry.do === edit.do &&
                sameContent([entry.at, entry.locale], [edit.at, edit.locale]) &&
                (entry.do !== 'insert' || sameContent((entry.item as Values)['id'], (edit.item as Values)['id'])),
            )
            expect(missing).toBeUndefined()
          }
        }
        const ids = (values['body'] as { id: string }[]).map((item) => item.id)
        expect(new Set(ids).size).toBe(ids.length)
      }),
      { numRuns: often(1000, 20_000) },
    )
  })
})
