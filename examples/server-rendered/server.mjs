// Renders pages on request, caches them, and drops those that a webhook names as stale. Usage: WISTERIA_URL=… WISTERIA_TOKEN=…
// WISTERIA_WEBHOOK_SECRET=… PORT=… node server.mjs
import { createServer } from 'node:http'
import { isAffected, pictureAttributes, Reader, verifyWebhook } from '@wisteria/client'

let reader = new Reader({
  baseUrl: process.env.WISTERIA_URL,
  site: process.env.WISTERIA_SITE ?? 'marram',
  token: process.env.WISTERIA_TOKEN,
})
const escaped = (text) =>
  String(text ?? '')
    .replaceAll('&', '&amp;')
    .replaceAll('<', '&lt;')
    .replaceAll('"', '&quot;')
const attributes = (object) =>
  Object.entries(object)
    .map(([name, value]) => `${name}="${escaped(value)}"`)
    .join(' ')

/** Pages by their path, each with its cache groups. */
const kept = new Map()

async function pageAt(path) {
  const known = kept.get(path)
  if (known) return known
  // A reader for each page: it remembers the cache groups of everything read through it.
  const own = reader.forPage()
  const found = await own.at(path, { follow: 1, richText: 'html' })
  if (found && 'moved' in found) return { status: found.moved.permanent ? 301 : 302, location: found.moved.path }
  if (!found) return { status: 404, html: '<h1>Nothing here</h1>' }
  const { title, name, summary, cover, picture } = found.entry.values
  const image = [cover, picture].find((one) => one?.address)
  const page = {
    status: 200,
    groups: own.groups,
    html: `<!doctype html><html lang="${found.entry.contentLocale}"><meta charset="utf-8"><title>${escaped(title ?? name)}</title>
<h1>${escaped(title ?? name)}</h1>
${image ? `<img ${attributes(pictureAttributes(image, { sizes: '100vw', format: 'webp' }))}>` : ''}
<p>${escaped(summary)}</p>`,
  }
  kept.set(path, page)
  return page
}

async function bodyOf(request) {
  const pieces = []
  for await (const piece of request) pieces.push(piece)
  return Buffer.concat(pieces).toString()
}

const server = createServer(async (request, response) => {
  try {
    const { pathname } = new URL(request.url, 'http://localhost')
    if (request.method === 'POST' && pathname === '/webhook') {
      const event = await verifyWebhook(process.env.WISTERIA_WEBHOOK_SECRET, request.headers, await bodyOf(request))
      for (const [path, { groups }] of kept) if (isAffected(groups, event)) kept.delete(path)
      // Reads from now on are no older than the event.
      reader = reader.after(event)
      return response.writeHead(204).end()
    }
    const { status, html, location } = await pageAt(pathname)
    response.writeHead(status, location ? { Location: location } : { 'Content-Type': 'text/html; charset=utf-8' })
    response.end(html)
  } catch (error) {
    response.writeHead(error.status >= 500 || error.code === 'network' ? 503 : 400).end(error.message)
  }
})
server.listen(Number(process.env.PORT ?? 8080), '127.0.0.1', () =>
  console.log(`http://127.0.0.1:${server.address().port}/`),
)
