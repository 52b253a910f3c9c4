import type { Role } from '@wisteria/core'
import type { EditableEntry, Editor, PublishConsequences } from '@wisteria/client'
import { model, settings, type } from '../../../../e2e/support/models.js'
import { vi } from 'vitest'
import { createWorkingCopy } from '../editor/workingCopy'
import type { Site } from '../session'

export const entryOf = (values: Record<string, unknown>, more: Partial<EditableEntry> = {}): EditableEntry => ({
  id: '01hz0000000000000001',
  type: 'activity',
  title: 'Night Walk',
  version: 1,
  revision: 1,
  createdAt: '',
  createdBy: '',
  updatedAt: '2031-05-04T10:00:00Z',
  updatedBy: '',
  region: null,
  state: 'public',
  states: { en: 'public', nl: 'new', 'nl-BE': 'new', ar: 'new' },
  freshness: {},
  paths: {},
  values,
  ...more,
})

export const nothing: PublishConsequences = {
  version: 1,
  locales: ['en'],
  problems: [],
  changes: [],
  names: {},
  paths: {},
  hiddenReferences: [],
  affects: [],
  translations: {},
  outdates: {},
  together: [],
}

/** A working copy of an activity on a site whose service gets its answers from the test. */
export function deskWith(
  values: Record<string, unknown>,
  answers: Partial<Record<keyof Editor, unknown>> = {},
  role: Role = 'editor',
  limits: readonly string[] | null = null,
) {
  const editor = {
    consequences: vi.fn(() => Promise.resolve(nothing)),
    usage: vi.fn(() => Promise.resolve({ usedBy: [] })),
    edit: vi.fn(() => Promise.resolve({ ...entryOf(values, { version: 2 }), merged: false })),
    entry: vi.fn((id: string) => Promise.resolve(entryOf({}, { id, title: `Title of ${id.slice(-1)}` }))),
    entries: vi.fn(() => Promise.resolve({ entries: [], next: null })),
    ...answers,
  }
  const site = {
    name: 'marram',
    editor: editor as unknown as Editor,
    settings: { name: 'marram', ...settings },
    model,
    members: [],
    caller: { is: 'member', account: '', operator: false, role, locales: limits ?? undefined },
  } as unknown as Site
  return { copy: createWorkingCopy(site, type('activity'), entryOf(values)), editor, site }
}
