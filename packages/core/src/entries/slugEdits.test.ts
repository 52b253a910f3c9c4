import { describe, expect, it } from 'vitest'
import { makeModel } from '../../../../e2e/support/models.js'
import { fieldNamed, typeNamed } from '../model/model.js'
import type { Document } from '../documents/document.js'
import { applyEdits, type Edit } from './edits.js'
import { slugEdits } from './slugEdits.js'

const type = typeNamed(makeModel(), 'museum')!
const [name, slug] = ['name', 'slug'].map((fieldName) => fieldNamed(type, fieldName)!.id) as [string, string]
const of = (names: Record<string, unknown>, slugs: Record<string, unknown>): Document => ({
  [name]: names,
  [slug]: slugs,
})
const write = (locale: string, value: string): Edit => ({ do: 'set', at: [name], locale, value })

/** The slugs after a save. */
function after(before: Document, edits: readonly Edit[], isNew: (locale: string) => boolean = () => true): unknown {
  const sent = applyEdits(before, edits)
  return applyEdits(sent, slugEdits(type, before, sent, edits, isNew))[slug]
}

describe('slugs of what is saved later', () => {
  const start = of({ en: 'Lighthouse' }, { en: 'lighthouse' })
  it('are made for a translation', () =>
    expect(after(start, [write('nl', 'De vuurtoren')])).toEqual({ en: 'lighthouse', nl: 'de-vuurtoren' }))
  it('follow the text while it is being typed, and stop once the locale is public', () => {
    const typing = of({ en: 'Lighthouse', nl: 'De vuur' }, { en: 'lighthouse', nl: 'de-vuur' })
    expect(after(typing, [write('nl', 'De vuurtoren')])).toEqual({ en: 'lighthouse', nl: 'de-vuurtoren' })
    expect(after(typing, [write('nl', 'De vuurtoren')], (locale) => locale !== 'nl')).toEqual({
      en: 'lighthouse',
      nl: 'de-vuur',
    })
  })
  it('that somebody wrote, or emptied, stay', () => {
    expect(after(of({ nl: 'Vuur' }, { nl: 'toren' }), [write('nl', 'Vuurtoren')])).toEqual({ nl: 'toren' })
    expect(after(of({ nl: 'Vuur' }, { nl: null }), [write('nl', 'Vuurtoren')])).toEqual({ nl: null })
    const edit: Edit = { do: 'set', at: [slug], locale: 'nl', value: 'mine' }
    expect(after(start, [write('nl', 'Vuurtoren'), edit])).toEqual({ en: 'lighthouse', nl: 'mine' })
  })
  it('are not made of nothing', () => {
    expect(after(start, [write('nl', '!!!')])).toEqual({ en: 'lighthouse' })
    expect(after(start, [{ do: 'clear', at: [name], locale: 'en' }])).toEqual({ en: 'lighthouse' })
  })
})
