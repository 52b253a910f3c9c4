import { describe, expect, it } from 'vitest'
import { settings } from '../../../../e2e/support/models.js'
import { wordsOf } from '../text/segmentText.js'
import {
  assetDocument,
  assetModel,
  assetOriginsAfter,
  assetOriginsOf,
  assetOwner,
  assetTextsIn,
  type AssetTexts,
} from './assetTexts.js'
import { translationUnits, type Origins } from './origins.js'

const at = '2031-03-12T09:00:00.000Z'
const texts = (alt: Record<string, string>, more: Partial<AssetTexts> = {}): AssetTexts => ({
  alt,
  title: {},
  caption: {},
  ...more,
})
const states = (of: AssetTexts, origins: Origins, locale = 'nl') =>
  translationUnits(assetModel, assetOwner, assetDocument(of), origins, locale, settings).map(
    ({ source, state }) => `${wordsOf(source.text)}: ${state}`,
  )

describe('the texts of a file', () => {
  const before = texts({ en: 'The lens', nl: 'De lens' }, { caption: { en: 'Made in 1897' } })

  it('are units with states, like those of an entry', () => {
    const origins = assetOriginsOf(before, null, 1, at, settings)
    expect(states(before, origins)).toEqual(['The lens: current', 'Made in 1897: missing'])
    expect(states(before, origins, 'ar')).toEqual(['The lens: missing', 'Made in 1897: missing'])
  })
  it('are outdated once their source has changed, also where nothing was recorded before', () => {
    const after = texts({ en: 'The great lens', nl: 'De lens' })
    const origins = assetOriginsAfter(before, after, assetOriginsOf(before, null, 1, at, settings), 2, at, settings)
    expect(states(after, origins)).toEqual(['The great lens: outdated'])
    expect(origins['nl']?.['alt#']).toMatchObject({ from: 'en', revision: 1, since: at })
    // Translated again, it is made from the new source.
    const again = texts({ en: 'The great lens', nl: 'De grote lens' })
    expect(states(again, assetOriginsAfter(after, again, origins, 3, at, settings))).toEqual([
      'The great lens: current',
    ])
  })
  it('come back from their document as they were; a text without letters is none', () => {
    expect(assetTextsIn(assetDocument(before))).toEqual(before)
    expect(assetTextsIn(assetDocument(texts({ en: '', nl: 'De lens' })))).toEqual(texts({ nl: 'De lens' }))
  })
})
