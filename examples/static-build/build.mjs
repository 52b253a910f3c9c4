// Writes every public page of a site into a folder, and a site map.
// Usage: WISTERIA_URL=… WISTERIA_TOKEN=… node build.mjs FOLDER
import { mkdirSync, writeFileSync } from 'node:fs'
import { dirname, join } from 'node:path'
import { Reader } from '@wisteria/client'

const reader = new Reader({
  baseUrl: process.env.WISTERIA_URL,
  site: process.env.WISTERIA_SITE ?? 'marram',
  token: process.env.WISTERIA_TOKEN,
})
const folder = process.argv[2] ?? 'out'
const escaped = (text) =>
  String(text ?? '')
    .replaceAll('&', '&amp;')
    .replaceAll('<', '&lt;')
    .replaceAll('"', '&quot;')

const written = []
for await (const { path, locale, contentLocale, hidden, updatedAt } of reader.paths()) {
  // Rich text comes as HTML, with the entries that it refers to.
  const found = await reader.at(path, { follow: 1, richText: 'html' })
  if (!found || !('entry' in found)) continue
  const { title, name, summary } = found.entry.values
  const file = join(folder, path, 'index.html')
  mkdirSync(dirname(file), { recursive: true })
  writeFileSync(
    file,
    `<!doctype html>
<html lang="${contentLocale}">${hidden ? '\n<meta name="robots" content="noindex">' : ''}
<meta charset="utf-8">
<title>${escaped(title ?? name)}</title>
<h1>${escaped(title ?? name)}</h1>
<p>${escaped(summary)}</p>
`,
  )
  // A site map lists translations, and no page twice: not those that fall back to another locale, or ask to be left out.
  written.push({ path, updatedAt, isListed: !hidden && contentLocale === locale })
}
writeFileSync(
  join(folder, 'sitemap.xml'),
  `<?xml version="1.0" encoding="UTF-8"?>
<urlset xmlns="http://www.sitemaps.org/schemas/sitemap/0.9">
${written
  .filter(({ isListed }) => isListed)
  .map(
    ({ path, updatedAt }) =>
      `  <url><loc>https://site.example${encodeURI(path)}</loc><lastmod>${updatedAt}</lastmod></url>`,
  )
  .join('\n')}
</urlset>
`,
)
console.log(`${written.length} pages in ${folder}`)
