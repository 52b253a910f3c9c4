/** Where an offset into a text is, for people: lines and characters, both from 1. */
export function placeIn(text: string, at: number): { line: number; column: number; said: string } {
  const before = text.slice(0, at)
  const line = before.split('\n').length
  const column = [...before.slice(before.lastIndexOf('\n') + 1)].length + 1
  return { line, column, said: `${line > 1 ? `line ${line}, ` : ''}column ${column}` }
}
