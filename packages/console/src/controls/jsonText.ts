import { t } from '../messages'

/** A JSON text as a value, or its problem and the place. An empty text is no value. */
export function readJson(text: string): { readonly value: unknown } | { readonly wrong: string } {
  if (text.trim() === '') return { value: undefined }
  try {
    return { value: JSON.parse(text) as unknown }
  } catch {
    const at = firstFault(text)
    const before = text.slice(0, at)
    return {
      wrong: t('controls.notJson', { line: before.split('\n').length, column: at - before.lastIndexOf('\n') }),
    }
  }
}

/** The place of the first error in a JSON text (RFC 8259). Not every engine reports it. */
function firstFault(text: string): number {
  let at = 0
  const space = () => void (at += /^[ \t\n\r]*/.exec(text.slice(at))![0].length)
  const take = (form: RegExp): boolean => {
    const match = form.exec(text.slice(at))
    if (match) at += match[0].length
    return match !== null
  }
  /** Items between brackets; false at the first that is none. */
  const list = (end: string, item: () => boolean): boolean => {
    at++
    space()
    if (text[at] === end) return (at++, true)
    for (;;) {
      if (!item()) return false
      space()
      if (text[at] === end) return (at++, true)
      if (text[at] !== ',') return false
      at++
      space()
    }
  }
  const string = () => take(/^"(?:[^"\\\0-\x1f]|\\(?:["\\/bfnrt]|u[0-9a-fA-F]{4}))*"/)
  const value = (): boolean => {
    space()
    if (text[at] === '{')
      return list('}', () => {
        if (!string()) return false
        space()
        if (text[at] !== ':') return false
        at++
        return value()
      })
    if (text[at] === '[') return list(']', value)
    return string() || take(/^(?:true|false|null|-?(?:0|[1-9]\d*)(?:\.\d+)?(?:[eE][+-]?\d+)?)/)
  }
  if (value()) space()
  return at
}
