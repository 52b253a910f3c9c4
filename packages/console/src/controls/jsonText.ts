/** A JSON text as a value, or what is wrong with it and where. An empty text is no value. */
export function readJson(text: string): { readonly value: unknown } | { readonly wrong: string } {
  if (text.trim() === '') return { value: undefined }
  try {
    return { value: JSON.parse(text) as unknown }
  } catch (error) {
    const message = (error as Error).message
    const found = /position (\d+)/.exec(message)?.[1]
    const at = found === undefined ? text.length : Number(found)
    const before = text.slice(0, at)
    const line = before.split('\n').length
    const column = at - before.lastIndexOf('\n')
    return { wrong: `This is not JSON yet: line ${line}, column ${column}.` }
  }
}
