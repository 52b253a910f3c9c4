import { quoted } from '../shellWords'

/** A query to the Read API that is being built. */
export interface RestQuestion {
  readonly api: 'rest'
  readonly ask: 'list' | 'at'
  readonly type: string
  readonly path: string
  readonly where: string
  readonly search: string
  readonly sort: string
  readonly pick: string
  readonly first: string
  readonly locale: string
  readonly edition: 'published' | 'draft'
}

export interface GraphqlQuestion {
  readonly api: 'graphql'
  readonly query: string
  /** As JSON. */
  readonly variables: string
}

export type Question = RestQuestion | GraphqlQuestion

export const emptyRest: RestQuestion = {
  api: 'rest',
  ask: 'list',
  type: '',
  path: '',
  where: '',
  search: '',
  sort: '',
  pick: '',
  first: '',
  locale: '',
  edition: 'published',
}
export const emptyGraphql: GraphqlQuestion = { api: 'graphql', query: '', variables: '' }

/** The address of a question on the service, after the site's base. */
export function addressOf(question: Question): string {
  const parameters = new URLSearchParams()
  const add = (name: string, value: string): void => {
    if (value.trim() !== '') parameters.set(name, value.trim())
  }
  if (question.api === 'graphql') {
    add('query', question.query)
    add('variables', question.variables)
    return `/graphql?${parameters}`
  }
  const { ask, type, path, where, search, sort, pick, first, locale, edition } = question
  if (ask === 'at') add('path', path)
  else {
    add('where', where)
    add('search', search)
    add('sort', sort)
    add('first', first)
    add('locale', locale)
  }
  add('pick', pick)
  if (edition === 'draft') add('edition', edition)
  const query = parameters.size > 0 ? `?${parameters}` : ''
  return (ask === 'at' ? '/at' : `/entries/${encodeURIComponent(type)}`) + query
}

/** The query as a command for a terminal; the key comes from the environment. */
export function curlOf(question: Question, base: string): string {
  const key = '-H "Authorization: Bearer $WISTERIA_TOKEN"'
  if (question.api === 'rest') return `curl ${key} \\\n  ${quoted(base + addressOf(question))}`
  const body = JSON.stringify({ query: question.query, ...variablesOf(question) })
  return `curl ${key} -H 'Content-Type: application/json' \\\n  --data ${quoted(body)} \\\n  ${quoted(`${base}/graphql`)}`
}

/** The question as code with the SDK. */
export function codeOf(question: Question, baseUrl: string, site: string): string {
  const edition = question.api === 'rest' && question.edition === 'draft' ? `, edition: 'draft'` : ''
  const begin = `import { Reader } from '@wisteria/client'

const reader = new Reader({ baseUrl: ${text(baseUrl)}, site: ${text(site)}, token: process.env.WISTERIA_TOKEN${edition} })
`
  if (question.api === 'graphql') {
    const { variables } = variablesOf(question)
    const more = variables === undefined ? '' : `, ${JSON.stringify(variables)}`
    return `${begin}const data = await reader.graphql(\`${question.query.replaceAll(/[`\\$]/g, '\\$&')}\`${more})`
  }
  const { ask, type, path, where, search, sort, pick, first, locale } = question
  const given = Object.entries(ask === 'at' ? { pick } : { where, search, sort, pick, first, locale })
    .filter(([, value]) => value.trim() !== '')
    .map(([name, value]) => `  ${name}: ${name === 'first' ? value : text(value)},\n`)
  const options = given.length > 0 ? `, {\n${given.join('')}}` : ''
  return ask === 'at'
    ? `${begin}const found = await reader.at(${text(path)}${options})`
    : `${begin}const { entries, next } = await reader.entries(${text(type)}${options})`
}

const text = (value: string): string =>
  `'${value.replaceAll('\\', '\\\\').replaceAll("'", "\\'").replaceAll('\n', ' ')}'`

/** The variables of a query; none where they are no object. */
export function variablesOf({ variables }: GraphqlQuestion): { variables?: unknown } {
  if (variables.trim() === '') return {}
  try {
    const read: unknown = JSON.parse(variables)
    return typeof read === 'object' && read !== null ? { variables: read } : {}
  } catch {
    return {}
  }
}

/** A question as a part of an address of the console, and back; undefined where it is none. */
export const packed = (question: Question): string => JSON.stringify(question)
export function unpacked(written: unknown): Question | undefined {
  if (typeof written !== 'string') return undefined
  try {
    const read = JSON.parse(written) as Partial<Question>
    if (read.api === 'graphql') return { ...emptyGraphql, ...read }
    if (read.api === 'rest') return { ...emptyRest, ...read }
  } catch {
    return undefined
  }
  return undefined
}
