/** What a file is, by its content: names and claims are not asked. */
export interface Sniffed {
  readonly mediaType: string
  readonly width?: number
  readonly height?: number
}

/** Finds out what a file is; undefined for what is not taken. Sizes are in pixels. */
export function sniff(content: Buffer): Sniffed | undefined {
  const ascii = (from: number, to: number): string => content.toString('latin1', from, to)
  if (
    content.length > 24 &&
    content.subarray(0, 8).equals(Buffer.from([0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a]))
  )
    return { mediaType: 'image/png', width: content.readUInt32BE(16), height: content.readUInt32BE(20) }
  if (content.length > 10 && /^GIF8[79]a/.test(ascii(0, 6)))
    return { mediaType: 'image/gif', width: content.readUInt16LE(6), height: content.readUInt16LE(8) }
  if (content.length > 30 && ascii(0, 4) === 'RIFF' && ascii(8, 12) === 'WEBP')
    return { mediaType: 'image/webp', ...webpSize(content) }
  if (content.length > 4 && content[0] === 0xff && content[1] === 0xd8)
    return { mediaType: 'image/jpeg', ...jpegSize(content) }
  if (ascii(0, 5) === '%PDF-') return { mediaType: 'application/pdf' }
  const text = utf8(content)
  if (text === undefined) return undefined
  if (/^\s*(<\?xml[^>]*>\s*)?(<!--[\s\S]*?-->\s*)*<svg[\s>]/.test(text))
    return { mediaType: 'image/svg+xml', ...svgSize(text) }
  return { mediaType: 'text/plain' }
}

function utf8(content: Buffer): string | undefined {
  try {
    const text = new TextDecoder('utf-8', { fatal: true }).decode(content)
    return text.includes('\0') ? undefined : text
  } catch {
    return undefined
  }
}

/** The frame header of a JPEG says its size; segments before it are stepped over. */
function jpegSize(content: Buffer): { width: number; height: number } | undefined {
  for (let at = 2; at + 9 < content.length && content[at] === 0xff; at += 2 + content.readUInt16BE(at + 2)) {
    const marker = content[at + 1]!
    if (marker >= 0xc0 && marker <= 0xcf && ![0xc4, 0xc8, 0xcc].includes(marker))
      return { height: content.readUInt16BE(at + 5), width: content.readUInt16BE(at + 7) }
  }
  return undefined
}

function webpSize(content: Buffer): { width: number; height: number } | undefined {
  switch (content.toString('latin1', 12, 16)) {
    case 'VP8 ':
      return { width: content.readUInt16LE(26) & 0x3fff, height: content.readUInt16LE(28) & 0x3fff }
    case 'VP8L': {
      const bits = content.readUInt32LE(21)
      return { width: (bits & 0x3fff) + 1, height: ((bits >> 14) & 0x3fff) + 1 }
    }
    case 'VP8X':
      return { width: content.readUIntLE(24, 3) + 1, height: content.readUIntLE(27, 3) + 1 }
    default:
      return undefined
  }
}

function svgSize(text: string): { width: number; height: number } | undefined {
  const root = /<svg[^>]*>/.exec(text)?.[0] ?? ''
  const number = (name: string): number | undefined => {
    const found = new RegExp(`\\s${name}="([\\d.]+)(?:px)?"`).exec(root)?.[1]
    return found === undefined ? undefined : Math.round(Number(found))
  }
  const box = /\sviewBox="\s*[-\d.]+[\s,]+[-\d.]+[\s,]+([\d.]+)[\s,]+([\d.]+)/.exec(root)
  const [width, height] = [
    number('width') ?? (box ? Math.round(Number(box[1])) : undefined),
    number('height') ?? (box ? Math.round(Number(box[2])) : undefined),
  ]
  return width !== undefined && height !== undefined ? { width, height } : undefined
}
