import sanitize from 'sanitize-html'

/** What draws. Nothing that runs, fetches, or holds other documents is among it. */
const elements = [
  'svg', 'g', 'defs', 'symbol', 'use', 'title', 'desc', 'path', 'rect', 'circle', 'ellipse', 'line', 'polyline', 'polygon', 'text', 'tspan',
  'textPath', 'linearGradient', 'radialGradient', 'stop', 'clipPath', 'mask', 'pattern', 'marker', 'filter', 'feBlend', 'feColorMatrix',
  'feComponentTransfer', 'feComposite', 'feDropShadow', 'feFlood', 'feFuncA', 'feFuncB', 'feFuncG', 'feFuncR', 'feGaussianBlur', 'feMerge',
  'feMergeNode', 'feMorphology', 'feOffset', 'feTurbulence',
] // prettier-ignore

/** A reference to another place in the same drawing, or a value that refers to none. */
const isWithin = (value: string): boolean => {
  const urls = [...value.matchAll(/url\(\s*(['"]?)(.*?)\1\s*\)/gi)].map((found) => found[2]!)
  return urls.every((url) => url.startsWith('#')) && !/javascript:|expression\(|@import/i.test(value)
}

/** An SVG with nothing in it but the drawing: no scripts, no handlers, nothing fetched from elsewhere, no other documents. */
export function harmlessSvg(text: string): string {
  const clean = sanitize(text, {
    allowedTags: elements,
    allowedAttributes: false,
    allowedSchemes: [],
    allowVulnerableTags: false,
    // Of what is left out, the words are left out too.
    nonTextTags: ['script', 'style', 'foreignObject', 'iframe', 'object', 'embed', 'metadata', 'animate', 'set', 'a'],
    parser: { xmlMode: true, lowerCaseTags: false, lowerCaseAttributeNames: false },
    exclusiveFilter: undefined,
    transformTags: {
      '*': (tagName, attributes) => ({
        tagName,
        attribs: Object.fromEntries(
          Object.entries(attributes).filter(([name, value]) => {
            const bare = name.toLowerCase()
            if (bare.startsWith('on')) return false
            if (bare === 'href' || bare === 'xlink:href') return value.trim().startsWith('#')
            return isWithin(value)
          }),
        ),
      }),
    },
  })
  return clean.trim() + '\n'
}
