import type { Act } from './lastActs'
import { withInput, word } from '../shellWords'

/** An act as HTTP requests, each as a line for curl. */
export function asRequest(act: Act, baseUrl: string): string {
  if (!act.first) return requestOf(act, baseUrl, act.sent.path)
  // The proposal gets an id of its own each time.
  const adopted = act.sent.path.replace(/[^/]+\/adopt$/, '')
  return `${requestOf(act.first, baseUrl, act.first.sent.path)}\n\n${requestOf(act, baseUrl, `${adopted}PROPOSAL/adopt`)}`
}

function requestOf({ sent }: Act, baseUrl: string, path: string): string {
  const { method = 'GET', query = {}, body, headers = {} } = sent
  const parameters = new URLSearchParams()
  for (const [name, value] of Object.entries(query)) if (value !== undefined) parameters.set(name, String(value))
  // A merge patch needs a version. Other actions work on the version of the moment.
  const kept = Object.entries(headers).filter(
    ([name]) => method === 'PATCH' && ['if-match', 'content-type'].includes(name.toLowerCase()),
  )
  const type = sent.file ? 'application/octet-stream' : body === undefined ? undefined : 'application/json'
  const all = new Map(kept.map(([name, value]) => [name, value] as const))
  if (type !== undefined && !all.has('Content-Type')) all.set('Content-Type', type)
  const lines = [
    `curl -X ${method} ${word(baseUrl + path + (parameters.size > 0 ? `?${parameters}` : ''))}`,
    '-H "Authorization: Bearer $WISTERIA_TOKEN"',
    ...[...all].map(([name, value]) => `-H '${name}: ${value}'`),
    ...(sent.file ? [`--data-binary @${word(fileName(sent.file))}`] : body === undefined ? [] : ['--data-binary @-']),
  ]
  const command = lines.join(' \\\n  ')
  return body === undefined ? command : withInput(command, JSON.stringify(body, null, 2))
}

/** Its name; `FILE` for content without one, such as a pasted picture. */
export const fileName = (file: Blob): string => (file instanceof File && file.name ? file.name : 'FILE')
