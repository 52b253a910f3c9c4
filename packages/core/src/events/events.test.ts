import { describe, expect, it } from 'vitest'
import { groupsOfAnswer, groupsOfChange, isEventType, toCloudEvent } from './event.js'

describe('groups', () => {
  it('of a change name every level', () => {
    expect(
      groupsOfChange([
        { id: '1', type: 'page' },
        { id: '2', type: 'page' },
      ]),
    ).toEqual(['e.1', 'e.2', 't.page', 's'])
  })
  it('of an answer are exact as long as they are few', () => {
    expect(groupsOfAnswer([{ id: '1', type: 'page' }], ['page'])).toEqual(['t.page', 'e.1'])
  })
  it('of an answer collapse to types, and then to the site', () => {
    const many = Array.from({ length: 40 }, (_, index) => ({ id: String(index), type: `t${index % 3}` }))
    expect(groupsOfAnswer(many, ['page'])).toEqual(['t.page', 't.t0', 't.t1', 't.t2'])
    expect(
      groupsOfAnswer(
        many.map((event, index) => ({ ...event, type: `t${index}` })),
        [],
      ),
    ).toEqual(['s'])
    expect(groupsOfAnswer([], ['page'], true)).toEqual(['s'])
  })
  it('of an answer always meet those of a change that it depends on', () => {
    for (const count of [1, 29, 30, 31, 200]) {
      const shown = Array.from({ length: count }, (_, index) => ({ id: `e${index}`, type: `t${index % 5}` }))
      const answer = groupsOfAnswer(shown, ['listed'])
      for (const event of [shown[0]!, shown.at(-1)!, { id: 'new', type: 'listed' }])
        expect(
          groupsOfChange([event]).some((group) => answer.includes(group)),
          `${count}`,
        ).toBe(true)
    }
  })
})

describe('the envelope', () => {
  it('is a CloudEvent', () => {
    const event = toCloudEvent({
      id: 'i',
      sequence: 7,
      site: 'marram',
      type: 'entry.published',
      time: '2031-05-04T18:00:00.000Z',
      actor: 'account:a',
      action: 'x',
      data: {
        entry: { id: '1', type: 'page' },
        publicGeneration: 'e.3',
        affected: { paths: ['/x'], groups: ['e.1', 't.page', 's'] },
      },
    })
    expect(event).toEqual({
      specversion: '1.0',
      id: 'i',
      source: '/sites/marram',
      type: 'entry.published',
      subject: 'entries/1',
      time: '2031-05-04T18:00:00.000Z',
      datacontenttype: 'application/json',
      sequence: '7',
      data: {
        entry: { id: '1', type: 'page' },
        publicGeneration: 'e.3',
        affected: { paths: ['/x'], groups: ['e.1', 't.page', 's'] },
        actor: 'account:a',
        action: 'x',
      },
    })
  })
  it('knows its types', () => {
    expect(isEventType('entry.published')).toBe(true)
    expect(isEventType('constructor')).toBe(false)
  })
})
