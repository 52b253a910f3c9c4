import sharp from 'sharp'

/** A picture that is red on its left and blue on its right. */
export const picture = async (width = 400, height = 200, format: 'png' | 'jpeg' | 'webp' = 'png') => {
  const right = await sharp({ create: { width: width / 2, height, channels: 3, background: '#0000ff' } })
    .png()
    .toBuffer()
  const left = sharp({ create: { width, height, channels: 3, background: '#ff0000' } })
  return new Blob([
    new Uint8Array(
      await left
        .composite([{ input: right, left: width / 2, top: 0 }])
        .toFormat(format)
        .toBuffer(),
    ),
  ])
}
