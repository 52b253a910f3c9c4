import { choiceForms } from '../fields/choice.js'
import { richTextForms } from '../richtext/print.js'

export const renditionFits = ['inside', 'cover'] as const
export const renditionFormats = ['webp', 'avif', 'jpeg', 'png'] as const

/** A form of a picture: the largest sides in pixels, how it fits into them, and the format of its file. */
export interface Rendition {
  readonly w?: number | undefined
  readonly h?: number | undefined
  readonly fit?: (typeof renditionFits)[number] | undefined
  readonly format?: (typeof renditionFormats)[number] | undefined
}

/** The longest side that a rendition may have, in pixels. */
export const maxSide = 4000

/** The sides of renditions, in pixels: a requested size is rounded up to one of them, so that there are not too many. */
export const renditionSides = [
  16, 32, 48, 64, 96, 128, 160, 240, 320, 400, 480, 640, 800, 960, 1120, 1280, 1440, 1600, 1920, 2240, 2560, 3200, 4000,
] as const

/** Proportions of `cover` are kept to so fine a part. */
const proportions = 240

const sideFor = (asked: number): number => renditionSides.find((side) => side >= asked) ?? maxSide

/** The rendition for a requested size: each side the next of `renditionSides`; `cover` keeps its proportions. */
export function renditionFor(asked: Rendition): Rendition {
  const { w, h, fit } = asked
  if (fit !== 'cover' || w === undefined || h === undefined)
    return { ...asked, ...(w === undefined ? {} : { w: sideFor(w) }), ...(h === undefined ? {} : { h: sideFor(h) }) }
  const width = sideFor(w)
  const height = Math.max(1, Math.round((width * Math.max(1, Math.round((h / w) * proportions))) / proportions))
  const scale = Math.min(1, maxSide / height)
  return { ...asked, w: Math.max(1, Math.round(width * scale)), h: Math.round(height * scale) }
}

export const isRendition = ({ w, h, fit, format }: Rendition): boolean =>
  [w, h, fit, format].some((option) => option !== undefined)

/** The size of a rendition of a picture, in pixels; nothing is made larger than it is. */
export function renditionSize(
  width: number | null,
  height: number | null,
  asked: Rendition,
): { width: number | null; height: number | null } {
  const { w, h, fit } = renditionFor(asked)
  if (width === null || height === null) return { width, height }
  if (fit === 'cover' && w !== undefined && h !== undefined) {
    const scale = Math.min(1, width / w, height / h)
    return { width: Math.round(w * scale), height: Math.round(h * scale) }
  }
  const scale = Math.min(1, (w ?? Infinity) / width, (h ?? Infinity) / height)
  return { width: Math.round(width * scale), height: Math.round(height * scale) }
}

/** The address of a rendition, from that of its picture: `…?v=…&w=640&format=webp`. */
export function renditionAddress(address: string, asked: Rendition): string {
  const { w, h, fit, format } = renditionFor(asked)
  const said = Object.entries({ w, h, fit, format }).filter(([, option]) => option !== undefined)
  if (said.length === 0) return address
  return `${address}${address.includes('?') ? '&' : '?'}${said.map(([name, option]) => `${name}=${option}`).join('&')}`
}

/** The possible values of an option of a selected field. */
interface OptionForm {
  readonly says: string
  readonly read: (text: string) => unknown
  readonly wants: string
}

const oneOf = (allowed: readonly string[], says: string): OptionForm => ({
  says,
  read: (text) => (allowed.includes(text) ? text : undefined),
  wants: `one of ${allowed.join(', ')}`,
})

const wholeFrom1 = (max: number, says: string): OptionForm => ({
  says,
  read: (text) => (/^[1-9]\d{0,5}$/.test(text) && Number(text) <= max ? Number(text) : undefined),
  wants: `a whole number from 1 to ${max}`,
})

/** The options of selected fields, by the fields that they fit. */
export const selectionOptions = {
  richText: { as: oneOf(richTextForms, 'The form in which the text is printed.') },
  choice: { as: oneOf(choiceForms, 'The value, its label in the locale, or both as `{ value, label }`.') },
  asset: {
    w: wholeFrom1(maxSide, 'The largest width, in pixels, rounded up to a size that is made.'),
    h: wholeFrom1(maxSide, 'The largest height, in pixels, rounded up likewise.'),
    fit: oneOf(renditionFits, '`inside` keeps the whole picture, `cover` fills both sides around what matters in it.'),
    format: oneOf(renditionFormats, 'The format of the file.'),
  },
  list: { first: wholeFrom1(1000, 'At most this many items of a list, from its start.') },
} as const satisfies Record<string, Record<string, OptionForm>>

export type { OptionForm }
