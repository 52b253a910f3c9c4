/**
 * The locale that fits a reader best, by `Accept-Language` (RFC 9110, looked up by RFC 4647): a requested tag is shortened until it
 * is an offered one; an offered one that is more precise fits too.
 * @param offered tags, the default first where nothing else fits.
 */
export function negotiateLocale(header: string | undefined, offered: readonly string[], otherwise: string): string {
  const wanted = (header ?? '')
    .slice(0, 500)
    .split(',')
    .map((part, order) => {
      const [tag = '', ...parameters] = part.trim().split(/\s*;\s*/)
      const weight = parameters.map((parameter) => /^q=([01](?:\.\d{0,3})?)$/i.exec(parameter)?.[1]).find(Boolean)
      return { tag: tag.toLowerCase(), weight: Number(weight ?? 1), order }
    })
    .filter(({ tag, weight }) => tag !== '' && weight > 0)
    .sort((a, b) => b.weight - a.weight || a.order - b.order)
  const lower = offered.map((tag) => tag.toLowerCase())
  for (const { tag } of wanted) {
    if (tag === '*') return otherwise
    for (let parts = tag.split('-'); parts.length > 0; parts = parts.slice(0, -1)) {
      const at = lower.indexOf(parts.join('-'))
      if (at >= 0) return offered[at]!
    }
    const near = lower.findIndex((offer) => offer.startsWith(tag.split('-')[0]! + '-'))
    if (near >= 0) return offered[near]!
  }
  return otherwise
}
