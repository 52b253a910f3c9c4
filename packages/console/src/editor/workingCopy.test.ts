import type { Role } from '@wisteria/core'
import { WisteriaProblem } from '@wisteria/client'
import { describe, expect, it, vi } from 'vitest'
import { deskWith, entryOf, nothing } from '../testing/desk'

const values = {
  title: { en: 'Night Walk', nl: 'Nachtwandeling' },
  price: 9,
  body: [{ id: 'h1', block: 'heading', values: { text: { en: 'One' } } }],
}

describe('the working copy on the desk', () => {
  it('knows what was written since it was saved, place by place', () => {
    const { copy } = deskWith(values)
    expect(copy.isChanged.value).toBe(false)
    copy.write(copy.values, 'title', 'en', 'Night Walk!')
    copy.write(copy.values, 'price', undefined, undefined)
    expect(copy.edits.value).toEqual([
      { do: 'set', at: ['title'], locale: 'en', value: 'Night Walk!' },
      { do: 'clear', at: ['price'] },
    ])
    copy.write(copy.values, 'title', 'en', 'Night Walk')
    copy.write(copy.values, 'price', undefined, 9)
    expect(copy.isChanged.value).toBe(false)
  })

  it('reads and writes in any locale, and shows what others would get there', () => {
    const { copy } = deskWith(values)
    expect(copy.read(copy.values, 'title', 'nl-BE')).toBeUndefined()
    expect(copy.inherited(copy.values, 'title', 'nl-BE')).toEqual({ value: 'Nachtwandeling', from: 'nl' })
    copy.write(copy.values, 'title', 'nl-BE', null)
    expect(copy.edits.value).toEqual([{ do: 'set', at: ['title'], locale: 'nl-BE', value: null }])
    copy.write(copy.values, 'title', 'nl-BE', undefined)
    expect(copy.isChanged.value).toBe(false)
    expect(copy.inherited(copy.values, 'title', 'ar')).toEqual({ value: 'Night Walk', from: 'en' })
    expect(copy.inherited(copy.values, 'summary', 'ar')).toBeUndefined()
  })

  it('saves on the version it was read at, and then asks what publishing would do', async () => {
    const { copy, editor } = deskWith(values, {
      edit: vi.fn(() => Promise.resolve({ ...entryOf({ ...values, price: 12 }, { version: 2 }), merged: true })),
    })
    copy.write(copy.values, 'price', undefined, 12)
    expect(await copy.save()).toEqual({ merged: true })
    expect(editor.edit).toHaveBeenCalledWith(
      '01hz0000000000000001',
      1,
      [{ do: 'set', at: ['price'], value: 12 }],
      expect.any(String),
    )
    expect(editor.consequences).toHaveBeenCalled()
    expect([copy.isChanged.value, copy.entry.value?.version]).toEqual([false, 2])
  })

  it('sends nothing when nothing was written', async () => {
    const { copy, editor } = deskWith(values)
    expect(await copy.save()).toEqual({ merged: false })
    expect(editor.edit).not.toHaveBeenCalled()
  })

  it('keeps words that were typed while others merged into another field', async () => {
    let answer: (entry: unknown) => void = () => undefined
    const { copy } = deskWith(values, { edit: vi.fn(() => new Promise((resolve) => (answer = resolve))) })
    copy.write(copy.values, 'price', undefined, 12)
    const saving = copy.save()
    copy.write(copy.values, 'price', undefined, 13)
    answer({ ...entryOf({ ...values, price: 12, town: 'Tern Bay' }, { version: 3 }), merged: true })
    await saving
    expect(copy.values['town']).toBe('Tern Bay')
    expect(copy.edits.value).toEqual([{ do: 'set', at: ['price'], value: 13 }])
  })

  it('keeps words that were typed while a save was under way', async () => {
    let answer: (entry: unknown) => void = () => undefined
    const { copy } = deskWith(values, { edit: vi.fn(() => new Promise((resolve) => (answer = resolve))) })
    copy.write(copy.values, 'price', undefined, 12)
    const saving = copy.save()
    copy.write(copy.values, 'title', 'en', 'Typed meanwhile')
    answer({ ...entryOf({ ...values, price: 12 }, { version: 2 }), merged: false })
    await saving
    expect(copy.read(copy.values, 'title', 'en')).toBe('Typed meanwhile')
    expect(copy.edits.value).toEqual([{ do: 'set', at: ['title'], locale: 'en', value: 'Typed meanwhile' }])
  })

  it('puts the problems of a save where the form shows them', async () => {
    const refused = new WisteriaProblem(422, {
      code: 'invalid',
      detail: 'No.',
      problems: [{ code: 'x', pointer: '/edits/0/value', message: 'Wrong.' }],
    })
    const { copy } = deskWith(values, { edit: vi.fn(() => Promise.reject(refused)) })
    copy.write((copy.values['body'] as { values: Record<string, unknown> }[])[0]!.values, 'text', 'en', 'Two')
    await expect(copy.save()).rejects.toBe(refused)
    expect(copy.problems.value[0]).toMatchObject({
      pointer: '/values/body/0/values/text/en',
      locale: 'en',
      message: 'Wrong.',
    })
    expect(copy.isChanged.value).toBe(true)
  })

  it('marks as changed only what differs from something public', async () => {
    const change = (locale: string | null) => ({
      pointer: `/values/x/${locale}`,
      field: 'x',
      label: 'X',
      kind: 'text',
      locale,
      before: null,
      after: 'y',
    })
    const { copy } = deskWith(values, {
      consequences: vi.fn(() => Promise.resolve({ ...nothing, changes: [change('en'), change('nl'), change(null)] })),
    })
    await copy.weigh()
    expect(copy.changes.value.map((change) => change.locale)).toEqual(['en', null])
  })

  it('lets everybody write where their role and limits reach', () => {
    const may = (role: Role, limits: string[] | null, locale: string) => {
      const { copy } = deskWith(values, {}, role, limits)
      return [copy.mayWrite(undefined), copy.mayWrite(locale)]
    }
    expect(may('editor', null, 'en')).toEqual([true, true])
    expect(may('editor', ['nl'], 'en')).toEqual([false, false])
    expect(may('editor', ['nl'], 'nl')).toEqual([false, true])
    expect(may('translator', ['ar'], 'ar')).toEqual([false, true])
    expect(may('translator', null, 'nl')).toEqual([false, true])
    expect(may('viewer', null, 'en')).toEqual([false, false])
  })
})

describe('what cannot be read as a value', () => {
  const fault = { text: 'abc', message: 'This is not a number.' }
  it('holds back its own field, and no other', async () => {
    const edit = vi.fn(() =>
      Promise.resolve({
        ...entryOf({ ...values, price: 7, title: { ...values.title, en: 'Late' } }, { version: 2 }),
        merged: false,
      }),
    )
    const { copy } = deskWith({ ...values, price: 7 }, { edit })
    copy.write(copy.values, 'price', undefined, 75)
    copy.write(copy.values, 'title', 'en', 'Late')
    copy.unreadable.hold('/values/price', '', fault)
    expect(copy.edits.value).toEqual([{ do: 'set', at: ['title'], locale: 'en', value: 'Late' }])
    expect(copy.problems.value).toEqual([
      { code: 'unreadable', pointer: '/values/price', message: 'Price is not saved: This is not a number.' },
    ])
    await copy.save()
    expect(copy.values['price']).toBe(75)
    copy.unreadable.hold('/values/price', '', undefined)
    expect(copy.edits.value).toContainEqual({ do: 'set', at: ['price'], value: 75 })
  })
  it('stays with its block when that moves, and goes when that goes', () => {
    const { copy } = deskWith({
      ...values,
      body: [values.body[0], { id: 'q1', block: 'quote', values: { text: { en: 'Two' } } }],
    })
    copy.unreadable.hold('/values/body/1/values/by', '', fault)
    expect(copy.problems.value[0]?.pointer).toBe('/values/body/1/values/by')
    const [first, second] = copy.values['body'] as [unknown, unknown]
    copy.values['body'] = [second, first]
    expect(copy.problems.value[0]?.pointer).toBe('/values/body/0/values/by')
    expect(copy.unreadable.at('/values/body/0/values/by', '')).toMatchObject(fault)
    copy.values['body'] = [first]
    expect(copy.problems.value).toEqual([])
  })
  it('is there again after a reload', () => {
    const { copy } = deskWith({ ...values, price: 7 })
    copy.unreadable.hold('/values/price', '', fault)
    const unread = copy.unreadable.list.value.map(({ place: _, ...unsaved }) => unsaved)
    const { copy: next } = deskWith({ ...values, price: 7 })
    next.restoreUnsaved({ saved: next.saved.value, values: JSON.parse(JSON.stringify(copy.values)) as never, unread })
    expect([next.unreadable.at('/values/price', ''), next.isChanged.value]).toMatchObject([fault, false])
  })
})
