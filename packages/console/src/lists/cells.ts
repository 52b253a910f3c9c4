import { fieldNamed, isRichText, plainText, shapeOf, type ContentType, type Field } from '@wisteria/core'
import type { Site } from '../session'
import { t } from '../messages'
import { day, inSite, momentIn, ownZone } from '../times'

/** A value in a column, in a few words. Entries and files have their titles and names. */
export function cellWords(value: unknown, site: Site, type: ContentType | undefined, name: string): string {
  if (value === null || value === undefined || value === '') return ''
  if (Array.isArray(value))
    return value
      .map((item) => cellWords(item, site, type, name))
      .filter(Boolean)
      .join(', ')
  const field = type && fieldNamed(type, name)
  if (typeof value === 'boolean') return value ? t('common.yes') : t('common.no')
  if (typeof value === 'object') {
    const { instant, text } = value as { instant?: string; text?: string }
    const { zone } = value as { zone?: string }
    if (instant) return zone ? inSite(instant, zone) : clockOf(instant, site)
    return text ?? wordsIn(value).slice(0, 200)
  }
  const shape = field && shapeOf(field)
  if (shape?.is === 'choice') return shape.options.find((option) => option.value === value)?.label ?? String(value)
  if (shape?.is === 'scalar' && shape.scalar === 'date') return day(String(value))
  if (shape?.is === 'scalar' && shape.scalar === 'dateTime') return clockOf(String(value), site)
  const unit = field?.options['unit']
  return `${String(value)}${typeof unit === 'string' ? ` ${unit}` : ''}`
}

/** A time in the site's time zone; the head of its column names the zone. */
const clockOf = (instant: string, site: Site): string => momentIn(instant, site.settings.timeZone)

/** The head of a column. Times are in the site's time zone, which is named if the reader's differs. */
export function headingOf(field: Field, site: Site): string {
  const { timeZone } = site.settings
  if (field.kind !== 'dateTime' || timeZone === ownZone()) return field.label
  return `${field.label} (${timeZone.split('/').at(-1)!.replaceAll('_', ' ')})`
}

/** The words anywhere in a structured value. */
function wordsIn(value: unknown): string {
  if (typeof value === 'string') return value
  if (Array.isArray(value)) return value.map(wordsIn).filter(Boolean).join(' ')
  if (typeof value !== 'object' || value === null) return ''
  if (isRichText(value)) return plainText(value)
  return Object.entries(value)
    .filter(([key]) => !['id', 'block', 'type', 'is'].includes(key))
    .map(([, inside]) => wordsIn(inside))
    .filter(Boolean)
    .join(' ')
}
