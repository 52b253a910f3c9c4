/** The members of a picture that are needed: every answer that shows one has them. */
export interface Picture {
  readonly address: string
  readonly width: number | null
  readonly height: number | null
  readonly alt?: string | null
}

export interface PictureOptions {
  /** Widths to offer, in pixels; those beyond the picture's own are left out. */
  readonly widths?: readonly number[]
  readonly format?: 'webp' | 'avif' | 'jpeg' | 'png'
  /** Width to height, such as `16 / 9`: the picture is cropped around its focal point. */
  readonly ratio?: number
  /** As HTML has it: `(min-width: 60rem) 50vw, 100vw`. */
  readonly sizes?: string
}

/** The attributes of an `img`. */
export interface PictureAttributes {
  readonly src: string
  readonly srcset: string
  readonly sizes?: string
  readonly width?: number
  readonly height?: number
  readonly alt: string
}

const usual = [320, 480, 640, 960, 1280, 1920]

/** The attributes of an `img` that shows a picture in the sizes that a page needs. */
export function pictureAttributes(picture: Picture, options: PictureOptions = {}): PictureAttributes {
  const { widths = usual, format, ratio, sizes } = options
  const fullWidth = picture.width ?? Infinity
  const fitting = [...new Set(widths.filter((width) => width < fullWidth))].sort((a, b) => a - b)
  if (Number.isFinite(fullWidth) && fitting.length < widths.length) fitting.push(fullWidth)
  const offered = fitting.length > 0 ? fitting : [widths.at(-1) ?? 640]
  const at = (width: number): string => {
    const [base, said] = picture.address.split('?') as [string, string?]
    // The address of a rendition is one of the same picture: its version stays, its size differs.
    const version = new URLSearchParams(said).get('v')
    const query = new URLSearchParams({ w: String(width), ...(version === null ? {} : { v: version }) })
    if (ratio !== undefined) {
      query.set('h', String(Math.round(width / ratio)))
      query.set('fit', 'cover')
    }
    if (format) query.set('format', format)
    return `${base}?${query}`
  }
  const largest = offered.at(-1)!
  const height = ratio === undefined ? scaled(picture, largest) : Math.round(largest / ratio)
  return {
    src: at(largest),
    srcset: offered.map((width) => `${at(width)} ${width}w`).join(', '),
    ...(sizes === undefined ? {} : { sizes }),
    ...(height === undefined ? {} : { width: largest, height }),
    alt: picture.alt ?? '',
  }
}

const scaled = ({ width, height }: Picture, to: number): number | undefined =>
  width && height ? Math.round((height * to) / width) : undefined
