import { Service } from '@wisteria/client'
import { afterAll, beforeAll, expect, it } from 'vitest'
import { startSmall, type SmallSite } from './support/running.js'

/** A site without a model: every read answers, with nothing in it. */
let small: SmallSite
const base = () => `${small.service.baseUrl}/edit/v1/sites/flats`
const headers = () => ({ Authorization: `Bearer ${small.token}`, 'Content-Type': 'application/json' })

beforeAll(async () => {
  small = await startSmall()
  await new Service({ baseUrl: small.service.baseUrl, token: small.token }).createSite({
    name: 'flats',
    label: 'Greyflats',
    defaultLocale: 'en',
    locales: [{ tag: 'en', label: 'English', fallback: [] }],
    timeZone: 'UTC',
  })
})
afterAll(() => small.service.end())

it.each([
  ['entries', { entries: [], next: null }],
  ['entries?count=true&where=entry.state%3D%22edited%22&sort=-entry.updated', { entries: [], next: null, count: 0 }],
  ['entries?search=lamp&count=true', { entries: [], next: null, count: 0 }],
  ['search?words=lamp', { entries: [] }],
  ['bin', { entries: [], next: null }],
  ['views', { views: [] }],
  ['schedules', { schedules: [] }],
  ['jobs', { jobs: [] }],
  ['assets', { assets: [], next: null }],
  ['tree', {}],
  ['front-ends', { frontEnds: [] }],
  ['keys', { keys: [] }],
  ['webhooks', { webhooks: [] }],
  ['invitations', { invitations: [] }],
  ['model', { types: [] }],
  ['model/history', { models: [] }],
])('answers %s', async (path, expected) => {
  const response = await fetch(`${base()}/${path}`, { headers: headers() })
  expect([response.status, await response.json()]).toEqual([200, expect.objectContaining(expected)])
})

it('finds nothing to do in bulk', async () => {
  const body = JSON.stringify({ do: 'publish', all: true, dryRun: true })
  const response = await fetch(`${base()}/entries/bulk`, { method: 'POST', headers: headers(), body })
  expect(response.status).toBeLessThan(500)
})

it.each([
  'entries/museum',
  'paths',
  'slugs/museum',
  'at?path=/x',
  'changes',
  'graphql?query={__typename}',
  'openapi.json',
])('is read without a fault: %s', async (path) => {
  const response = await fetch(`${small.service.baseUrl}/read/v1/flats/${path}`, { headers: headers() })
  expect(response.status).toBeLessThan(500)
})
