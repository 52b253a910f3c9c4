import {
  blockTypeNamed,
  isRecord,
  isRichText,
  kindNamed,
  plainText,
  printSpan,
  readZoned,
  shapeOf,
  typeNamed,
  type Field,
  type Model,
  type RichBlock,
} from '@wisteria/core'
import { day, inSite } from '../times'
import { t } from '../messages'

/** The context for showing values: the model, the site's time zone, and the titles of entries and names of assets, by id. */
export interface Reading {
  readonly model: Model
  readonly timeZone: string
  readonly names?: Readonly<Record<string, string>> | undefined
}

/**
 * A value on one line for people: with labels, units, names and times, and never an id or our JSON.
 * @param content by names; an item of a list may be itself or its value.
 * @param field its field; only the kind where the field is gone.
 */
export function inWords(content: unknown, field: Field | string, reading: Reading): string {
  const kind = typeof field === 'string' ? field : field.kind
  const options = typeof field === 'string' ? {} : field.options
  if (content === null || content === undefined) return '—'
  if (typeof content === 'boolean') return content ? t('common.yes') : t('common.no')
  if (Array.isArray(content)) return content.map((item: unknown) => inWords(item, field, reading)).join(', ')
  if (isRecord(content) && 'id' in content && 'value' in content) return inWords(content['value'], field, reading)
  if (isRecord(content) && typeof content['block'] === 'string')
    return blockTypeNamed(reading.model, content['block'])?.label ?? content['block']
  switch (kind) {
    case 'entry':
    case 'asset':
      return reading.names?.[String(content)] ?? (kind === 'entry' ? t('values.entryGone') : t('values.assetGone'))
    case 'choice': {
      const shape = typeof field === 'string' ? undefined : shapeOf(field)
      const option = shape?.is === 'choice' ? shape.options.find(({ value }) => value === content) : undefined
      return option?.label ?? String(content)
    }
    case 'date':
      return day(String(content))
    case 'dateTime': {
      const zoned = readZoned(String(content))
      return zoned ? inSite(zoned.instant, zoned.zone) : inSite(String(content), reading.timeZone)
    }
    case 'timeSpan':
      return printSpan(String(content))
    case 'number': {
      const unit = options['unit']
      return `${String(content)}${typeof unit === 'string' ? ` ${unit}` : ''}`
    }
    case 'richText':
      // In a conflict it may be one block.
      return isRichText(content) ? plainText(content) : plainText({ children: [content as RichBlock] })
    case 'location':
      return isRecord(content) ? `${String(content['latitude'])}, ${String(content['longitude'])}` : String(content)
    case 'metadata':
      return isRecord(content) ? metadataWords(content, reading) : String(content)
    case 'listing':
      return isRecord(content) ? listingWords(content, reading) : String(content)
    case 'group':
      return typeof field === 'string' ? t('values.group') : field.label
    default:
      // JSON for programs is shown as it is.
      return typeof content === 'object' ? JSON.stringify(content) : String(content)
  }
}

function metadataWords(content: Readonly<Record<string, unknown>>, { names }: Reading): string {
  const image = content['image']
  return (
    [
      typeof content['title'] === 'string' ? t('values.title', { title: content['title'] }) : '',
      typeof content['description'] === 'string'
        ? t('values.description', { description: content['description'] })
        : '',
      typeof image === 'string' ? t('values.image', { image: names?.[image] ?? t('values.assetGoneInside') }) : '',
      content['hidden'] === true ? t('values.hidden') : '',
    ]
      .filter(Boolean)
      .join('; ') || '—'
  )
}

function listingWords(content: Readonly<Record<string, unknown>>, { model }: Reading): string {
  const type = typeNamed(model, String(content['type']))
  const label = type?.label ?? String(content['type'])
  const { first, where, sort } = content as { first?: number; where?: string; sort?: string }
  return [
    first === undefined ? label : t('values.limited', { first, type: label }),
    where ? t('values.where', { where }) : '',
    sort?.startsWith('-')
      ? t('values.sortedFalling', { field: sort.slice(1) })
      : sort
        ? t('values.sorted', { field: sort })
        : '',
  ]
    .filter(Boolean)
    .join(', ')
}

/** The text of a value, when its kind is running text. */
export function wordsOf(content: unknown, kind: string): string | undefined {
  const { searchText: words } = kindNamed(kind)
  if (!words || Array.isArray(content)) return undefined
  return content === null || content === undefined ? '' : words(content)
}
