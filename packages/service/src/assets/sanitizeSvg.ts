import sanitize from 'sanitize-html'

/** Elements that draw. None of them runs code, fetches, or embeds other documents. */
const elements = [
  'svg', 'g', 'defs', 'symbol', 'use', 'title', 'desc', 'path', 'rect', 'circle', 'ellipse', 'line', 'polyline', 'polygon', 'text', 'tspan',
  'textPath', 'linearGradient', 'radialGradient', 'stop', 'clipPath', 'mask', 'pattern', 'marker', 'filter', 'feBlend', 'feColorMatrix',
  'feComponentTransfer', 'feComposite', 'feDropShadow', 'feFlood', 'feFuncA', 'feFuncB', 'feFuncG', 'feFuncR', 'feGaussianBlur', 'feMerge',
  'feMergeNode', 'feMorphology', 'feOffset', 'feTurbulence',
] // prettier-ignore

/** Functions that values may call: they compute, and fetch nothing. `url` is checked separately. */
const functions = new Set([
  'rgb', 'rgba', 'hsl', 'hsla', 'hwb', 'lab', 'lch', 'oklab', 'oklch', 'color', 'matrix', 'matrix3d', 'translate', 'translatex', 'translatey',
  'scale', 'scalex', 'scaley', 'rotate', 'skew', 'skewx', 'skewy', 'calc', 'min', 'max', 'clamp', 'var', 'blur', 'brightness', 'contrast',
  'drop-shadow', 'grayscale', 'hue-rotate', 'invert', 'opacity', 'saturate', 'sepia', 'circle', 'ellipse', 'inset', 'polygon', 'path', 'url',
]) // prettier-ignore

/**
 * Whether a value refers only to parts of the drawing: one pass over its brackets. Escapes and at-rules could evade the other
 * checks, so values with them are removed.
 */
function isWithin(value: string): boolean {
  if (/[\\@]|javascript:|<|&#/i.test(value)) return false
  for (let open = value.indexOf('('); open >= 0; open = value.indexOf('(', open + 1)) {
    let start = open
    while (start > 0 && /[a-z0-9-]/i.test(value[start - 1]!)) start--
    const name = value.slice(start, open).toLowerCase()
    if (name !== '' && !functions.has(name)) return false
    if (
      name === 'url' &&
      !/^\s{0,9}["']?\s{0,9}#[^()"'\s]{1,200}["']?\s{0,9}\)/.test(value.slice(open + 1, open + 300))
    )
      return false
  }
  return true
}

/** An SVG with nothing in it but the drawing: no scripts, no handlers, nothing fetched from elsewhere, no other documents. */
export function sanitizeSvg(text: string): string {
  const clean = sanitize(text, {
    allowedTags: elements,
    allowedAttributes: false,
    allowedSchemes: [],
    allowVulnerableTags: false,
    // The text inside a removed element is removed too.
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
