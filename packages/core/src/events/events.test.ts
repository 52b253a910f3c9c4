import { describe, expect, it } from 'vitest'
import { isEventType, toCloudEvent } from './event.js'

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
