/** Text as one word of a shell's command line. */
export const quoted = (text: string): string => `'${text.replaceAll("'", `'\\''`)}'`

/** A word of a command line, in quotes where it needs them. */
export const word = (text: string): string => (/^[\w./:@%+=,-]+$/.test(text) ? text : quoted(text))

/** Text for a command's standard input, as a here-document that leaves it unchanged. */
export function withInput(command: string, text: string): string {
  let end = 'END'
  while (text.split('\n').includes(end)) end += '_'
  return `${command} <<'${end}'\n${text.replace(/\n$/, '')}\n${end}`
}
