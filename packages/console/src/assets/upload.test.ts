import type { Asset, Editor } from '@wisteria/client'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { fileOf, isPicture, sizeWords } from './address'
import { createUploads, filesOf } from './upload'

const asset = {
  id: 'a',
  name: 'lamp.png',
  address: 'http://else.example/assets/marram/a/lamp.png',
  mediaType: 'image/png',
  updatedAt: '2031',
} as Asset

/** The browser's older way of sending, with answers from the test. */
class Sending {
  static all: Sending[] = []
  status = 0
  responseText = ''
  upload: { onprogress?: (event: { lengthComputable: boolean; loaded: number; total: number }) => void } = {}
  onload?: () => void
  onerror?: () => void
  address = ''
  open(_: string, address: string): void {
    this.address = address
  }
  setRequestHeader(): void {
    Sending.all.push(this)
  }
  send(): void {
    this.upload.onprogress?.({ lengthComputable: true, loaded: 1, total: 4 })
  }
  answer(status: number, body: unknown): void {
    this.status = status
    this.responseText = JSON.stringify(body)
    this.onload?.()
  }
}

beforeEach(() => {
  Sending.all = []
  vi.stubGlobal('XMLHttpRequest', Sending)
})
afterEach(() => void vi.unstubAllGlobals())

const site = {
  name: 'marram',
  editor: { assets: () => Promise.resolve({ assets: [], next: null, maxUpload: 1 }) } as unknown as Editor,
}
const file = (name: string, size = 10) => new File([new Uint8Array(size)], name)

describe('adding files', () => {
  it('sends a few at a time, and says how far each is', async () => {
    const added: string[] = []
    const { uploads, add, clear } = createUploads(site, (upload) => added.push(upload.name))
    add(['a', 'b', 'c', 'd'].map((name) => file(`${name}.png`)))
    await vi.waitFor(() => expect(Sending.all.length).toBe(3))
    expect(uploads.map((upload) => upload.share)).toEqual([0.25, 0.25, 0.25, 0])
    expect(Sending.all[0]!.address).toBe('/edit/v1/sites/marram/assets/upload?name=a.png')
    Sending.all[0]!.answer(201, asset)
    await vi.waitFor(() => expect(Sending.all.length).toBe(4))
    for (const sending of Sending.all.slice(1)) sending.answer(201, asset)
    await vi.waitFor(() => expect(added.length).toBe(4))
    clear()
    expect(uploads.length).toBe(0)
  })
  it('says why one was not taken, before it is sent where that is known', async () => {
    const { uploads, add } = createUploads(site, () => undefined)
    add([file('big.png', 1_000_001), file('empty.png', 0), file('exe.png'), file('lost.png')])
    await vi.waitFor(() => expect(Sending.all.length).toBe(2))
    const to = (name: string) => Sending.all.find((sending) => sending.address.endsWith(`name=${name}`))!
    to('exe.png').answer(415, { detail: 'exe.png is of a kind that is not accepted.' })
    to('lost.png').onerror?.()
    await vi.waitFor(() => expect(uploads.every((upload) => upload.failure !== '')).toBe(true))
    expect(uploads.map((upload) => upload.failure)).toEqual([
      'Too large: a file has at most 1 MB.',
      'The file is empty.',
      'exe.png is of a kind that is not accepted.',
      'The connection was lost. Try again.',
    ])
  })
  it('takes the files of a drop, and nothing of none', () => {
    expect(filesOf(null)).toEqual([])
  })
})

describe('where a file is', () => {
  it('is said from the console’s own place, in the form that is asked for', () => {
    expect(fileOf(asset)).toBe('/assets/marram/a/lamp.png#2031')
    expect(fileOf(asset, { w: 640, h: 10 })).toBe('/assets/marram/a/lamp.png?h=10&w=640#2031')
    expect([isPicture(asset), isPicture({ mediaType: 'text/plain' })]).toEqual([true, false])
    expect([999, 22_400, 3_210_000].map(sizeWords)).toEqual(['999 B', '22 kB', '3.2 MB'])
  })
})
