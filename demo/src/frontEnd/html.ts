/** Text that is HTML already. */
export class Html {
  readonly text: string
  constructor(text: string) {
    this.text = text
  }
}

type Part = Html | string | number | null | undefined | false | readonly Part[]

const escapes: Record<string, string> = { '&': '&amp;', '<': '&lt;', '>': '&gt;', '"': '&quot;', "'": '&#39;' }

function print(part: Part): string {
  if (part === null || part === undefined || part === false) return ''
  if (part instanceof Html) return part.text
  if (Array.isArray(part)) return part.map(print).join('')
  return String(part).replace(/[&<>"']/g, (letter) => escapes[letter]!)
}

/** A template whose parts are escaped unless they are HTML already. */
export const html = (strings: TemplateStringsArray, ...parts: Part[]): Html =>
  new Html(strings.reduce((out, text, index) => out + print(parts[index - 1]) + text))
