import { isRecord, kindNamed, plainText, type RichText } from '@wisteria/core'

/**
 * A value as people read it, where there is only a line for it.
 * @param content by names; an item of a list may be itself or what it holds.
 * @param names what entries and assets are called, by id.
 */
export function inWords(content: unknown, kind: string, names: Readonly<Record<string, string>> = {}): string {
  if (content === null || content === undefined) return '—'
  if (typeof content === 'boolean') return content ? 'Yes' : 'No'
  if (Array.isArray(content)) return content.map((one: unknown) => inWords(one, kind, names)).join(', ')
  if (typeof content === 'string' && (kind === 'entry' || kind === 'asset')) return names[content] ?? content
  if (!isRecord(content)) return String(content)
  if (typeof content['block'] === 'string') return content['block']
  if ('handle' in content && 'value' in content) return inWords(content['value'], kind, names)
  if (kind === 'richText' && Array.isArray(content['blocks'])) return plainText(content as unknown as RichText)
  return JSON.stringify(content)
}

/** The words of a value, when its kind is one that people read as running text. */
export function wordsOf(content: unknown, kind: string): string | undefined {
  const { words } = kindNamed(kind)
  if (!words || Array.isArray(content)) return undefined
  return content === null || content === undefined ? '' : words(content)
}
