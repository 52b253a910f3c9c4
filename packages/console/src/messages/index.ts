import type { en } from './en'
import { i18n, isForeign } from './language'

export { messageOf, messagesOf } from './failures'
export { i18n }
export { formMessage, kindLabel, problemMessage } from './ofCore'
export { elementLanguage, isForeign, languages, speak } from './language'

type KeyIn<Tree, Path extends string = ''> = {
  [Name in keyof Tree & string]: Tree[Name] extends string ? `${Path}${Name}` : KeyIn<Tree[Name], `${Path}${Name}.`>
}[keyof Tree & string]

type MessageAt<Tree, Key> = Key extends `${infer Room}.${infer Rest}`
  ? Room extends keyof Tree
    ? MessageAt<Tree[Room], Rest>
    : never
  : Key extends keyof Tree
    ? Tree[Key]
    : never

type BracesIn<Message> = Message extends `${string}{${infer Name}}${infer Rest}`
  ? (Name extends `'${string}'` ? never : Name) | BracesIn<Rest>
  : never

type ParametersIn<Message> = BracesIn<Message> | (Message extends `${string} | ${string}` ? 'n' : never)

/** The address of a text in the catalogue: `publishing.nothingPublished`. */
export type MessageKey = KeyIn<typeof en>
/** The parameters in braces of the text at a key. */
export type MessageParameters<Key extends MessageKey> = ParametersIn<MessageAt<typeof en, Key>>

/**
 * A text of the console. It follows the language when it is used in a template or a computed value.
 * @param parameters the values for the braces; `n` also chooses the form of a plural.
 */
export function t<Key extends MessageKey>(
  key: Key,
  ...[parameters]: [MessageParameters<Key>] extends [never]
    ? []
    : [parameters: Readonly<Record<MessageParameters<Key>, string | number>>]
): string {
  const named: Readonly<Record<string, string | number>> = parameters ?? {}
  const count = named['n']
  const text = typeof count === 'number' ? i18n.global.t(key, named, count) : i18n.global.t(key, named)
  // Isolated, so that its punctuation and numbers stay where they are in English (Unicode UAX 9).
  return isForeign(key) ? `\u2066${text}\u2069` : text
}
