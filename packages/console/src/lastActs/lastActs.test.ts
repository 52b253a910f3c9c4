import { beforeEach, describe, expect, it } from 'vitest'
import { session } from '../session'
import { asCommand } from './command'
import { emailOf, lastActs, recordAct, rememberEmails } from './lastActs'

const signedIn = (id: string) => ({ account: { id }, sites: [] }) as unknown as NonNullable<typeof session.value>

describe('what somebody did', () => {
  beforeEach(() => {
    session.value = signedIn('maren')
    lastActs.value = []
    recordAct({ method: 'PUT', path: '/edit/v1/sites/marram/open', body: { open: true } }, { body: {} })
  })

  it('is there while they are signed in', () => {
    session.value = signedIn('maren')
    expect(lastActs.value).toHaveLength(1)
  })

  it.each([
    ['they sign out', null],
    ['somebody else signs in', signedIn('teun')],
  ])('is forgotten when %s, however that comes about', (_, next) => {
    rememberEmails([{ account: 'a1', email: 'ilse@marram.example' }])
    session.value = next
    expect(lastActs.value).toEqual([])
    expect(emailOf('a1')).toBeUndefined()
  })

  it('names people by the e-mail that was seen, also once they are gone', () => {
    const remove = (path: string) =>
      recordAct({ method: 'DELETE', path: `/edit/v1/sites/marram${path}` }, { body: undefined })
    rememberEmails([
      { account: 'a1', email: 'ilse@marram.example' },
      { id: 'i1', email: 'hanne@marram.example' },
    ])
    remove('/members/a1')
    remove('/invitations/i1')
    remove('/members/a2')
    expect(lastActs.value.slice(0, 3).map((act) => asCommand(act, emailOf))).toEqual([
      'wisteria member remove EMAIL',
      'wisteria member revoke hanne@marram.example',
      'wisteria member remove ilse@marram.example',
    ])
  })
})
