import { describe, expect, it } from 'vitest'
import { settings } from '../../../../e2e/support/models.js'
import { createLocalesDraft } from './localesDraft'

const draft = (kept?: Parameters<typeof createLocalesDraft>[2]) => createLocalesDraft(settings, '"s1"', kept)
const tags = (locales: ReturnType<typeof draft>) => locales.now.value.locales.map(({ tag }) => tag)

describe('a draft of the locales', () => {
  it('is changed once something differs, and no longer when that is undone', () => {
    const locales = draft()
    expect(locales.isChanged.value).toBe(false)
    locales.move(0, 1)
    expect([tags(locales), locales.isChanged.value]).toEqual([['nl', 'en', 'nl-BE', 'ar'], true])
    locales.move(1, 0)
    expect(locales.isChanged.value).toBe(false)
    locales.move(3, 4)
    locales.move(0, -1)
    expect(locales.isChanged.value).toBe(false)
  })
  it('tells what is wrong beside its row, and not beside the tenth', () => {
    const locales = draft()
    locales.changeLocale(1, { label: ' ', fallback: ['nl'] })
    expect(locales.problemsAt('/locales/1')).toHaveLength(2)
    expect(locales.problemsAt('/locales/1/label')).toEqual(['Give `nl` a name.'])
    expect(locales.problemsAt('/locales/10')).toEqual([])
    locales.now.value = { ...locales.now.value, label: '' }
    expect(locales.problemsAt('/label')).toEqual(['Give the site a name.'])
  })
  it('goes on from what was kept, and still goes by the version that it was begun on', () => {
    const left = draft()
    left.changeLocale(0, { label: 'British English' })
    const kept = left.record()
    const newer = { ...settings, label: 'Renamed meanwhile' }
    const again = createLocalesDraft(newer, '"s2"', kept)
    expect([again.isOutdated, createLocalesDraft(settings, '"s1"', kept).isOutdated]).toEqual([true, false])
    expect([again.version, again.isChanged.value, again.now.value.locales[0]!.label, again.now.value.label]).toEqual([
      '"s1"',
      true,
      'British English',
      settings.label,
    ])
  })
})
