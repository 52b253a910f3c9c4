import { describe, expect, it } from 'vitest'
import type { keyScopes } from './decide.js'
import { decide, mayGrant, permissions, roles, type Caller, type Role, type Permission } from './decide.js'

const member = (role: (typeof roles)[number] | undefined, more: object = {}): Caller => ({
  is: 'member',
  account: 'a',
  operator: false,
  role,
  ...more,
})
const key = (scope: (typeof keyScopes)[number]): Caller => ({ is: 'key', key: 'k', scope })
const granted = (caller: Caller) =>
  (Object.keys(permissions) as Permission[]).filter((permission) => decide(caller, permission).allowed)

describe('who may do what', () => {
  it.each<[string, Caller, string[]]>([
    ['nobody', { is: 'nobody' }, ['anyone']],
    ['a stranger', member(undefined), ['anyone', 'signedIn']],
    ['an operator', member(undefined, { operator: true }), ['anyone', 'signedIn', 'operate', 'account.manage']],
    [
      'a viewer',
      member('viewer'),
      ['anyone', 'signedIn', 'published.read', 'draft.read', 'model.read', 'member.read', 'member.self'],
    ],
    ['a key for what is public', key('published'), ['anyone', 'published.read']],
    ['a key for drafts', key('draft'), ['anyone', 'published.read', 'draft.read', 'model.read']],
    [
      'a key for editing',
      key('edit'),
      ['anyone', 'published.read', 'draft.read', 'entry.write', 'entry.translate', 'entry.publish', 'model.read'],
    ],
    [
      'a key for drafting',
      key('write'),
      ['anyone', 'published.read', 'draft.read', 'entry.write', 'entry.translate', 'model.read'],
    ],
    ['a key for models', key('model'), ['anyone', 'model.read', 'model.change']],
    ['a preview', { is: 'grant', grant: 'g' }, ['anyone', 'published.read', 'draft.read']],
  ])('%s', (_, caller, expected) => expect(granted(caller).sort()).toEqual([...expected].sort()))

  it('gives each role what the lesser ones have, and more', () => {
    const sets = [...roles].reverse().map((role) => new Set(granted(member(role))))
    for (let index = 1; index < sets.length; index++) {
      for (const permission of sets[index - 1]!) expect(sets[index]!.has(permission)).toBe(true)
      expect(sets[index]!.size).toBeGreaterThan(sets[index - 1]!.size)
    }
    expect(granted(member('owner'))).not.toContain('operate')
  })

  it('lets anybody read an open site, and nothing more', () => {
    expect(decide({ is: 'nobody' }, 'published.read', { siteIsOpen: true }).allowed).toBe(true)
    expect(decide({ is: 'nobody' }, 'draft.read', { siteIsOpen: true }).allowed).toBe(false)
  })

  it('says why not, in a sentence', () => {
    expect(decide(member('viewer'), 'entry.write').because).toBe(
      'The role viewer does not include this: create and change entries, and delete those that are not public.',
    )
    expect(decide(key('published'), 'draft.read').because).toContain('An access key of scope published')
    expect(decide({ is: 'nobody' }, 'signedIn').because).toContain('Sign in')
  })
})

describe('managing an account', () => {
  const may = (role: Role | undefined, rolesOfCaller: readonly (Role | undefined)[], more = {}, operator = false) =>
    decide(member(role, more), 'account.manage', { account: { operator, rolesOfCaller } }).allowed
  it('takes an operator, or an owner of all its sites', () => {
    expect(may('owner', ['owner'])).toBe(true)
    expect(may('owner', ['owner', 'owner'])).toBe(true)
    expect(may('owner', ['owner', 'developer'])).toBe(false)
    expect(may('owner', ['owner', undefined])).toBe(false)
    expect(may('developer', ['developer'])).toBe(false)
    // Of no site: nobody owns all of none.
    expect(may('owner', [])).toBe(false)
    expect(may('viewer', [], { operator: true })).toBe(true)
    expect(may('owner', ['owner'], {}, true)).toBe(false)
    expect(may('viewer', [undefined], { operator: true }, true)).toBe(true)
    expect(
      decide({ is: 'key', key: 'k', scope: 'edit' }, 'account.manage', {
        account: { operator: false, rolesOfCaller: ['owner'] },
      }).allowed,
    ).toBe(false)
  })
})

describe('limits', () => {
  const limited = member('editor', { locales: ['nl'] })
  it('keep a member to their locales', () => {
    expect(decide(limited, 'entry.translate', { locales: ['nl'], shared: false }).allowed).toBe(true)
    expect(decide(limited, 'entry.translate', { locales: ['nl', 'ar'] }).because).toBe(
      'You are limited to nl; this touches ar.',
    )
  })
  it('keep a limited member and a translator from what all locales share', () => {
    expect(decide(limited, 'entry.translate', { shared: true }).because).toMatch(/all locales share/)
    expect(decide(limited, 'entry.publish', { locales: ['nl'], shared: true }).because).toMatch(/must publish them/)
    expect(decide(member('translator'), 'entry.translate', { locales: ['nl'], shared: true }).allowed).toBe(false)
    expect(decide(member('translator'), 'entry.translate', { locales: ['nl'] }).allowed).toBe(true)
    expect(decide(member('editor'), 'entry.translate', { locales: ['nl'], shared: true }).allowed).toBe(true)
  })
  it('keep a limited member from an entry as a whole, and a member to their types', () => {
    for (const permission of ['entry.write', 'entry.publish'] as const) {
      expect(decide(limited, permission, { shared: true }).because).toMatch(
        /limited to nl; this touches values that all/,
      )
      expect(decide(member('editor'), permission, { shared: true }).allowed).toBe(true)
    }
    const ofTypes = member('editor', { types: ['activity'] })
    expect(decide(ofTypes, 'entry.write', { type: 'activity', shared: true }).allowed).toBe(true)
    expect(decide(ofTypes, 'entry.write', { type: 'museum', shared: true }).because).toBe(
      'You are limited to entries of activity; this is of museum.',
    )
  })
  it('let nobody make somebody more powerful than themselves', () => {
    expect(mayGrant('owner', 'owner')).toBe(true)
    expect(mayGrant('developer', 'owner')).toBe(false)
    expect(mayGrant('developer', 'editor')).toBe(true)
  })
})
