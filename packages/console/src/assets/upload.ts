import type { Asset, Editor } from '@wisteria/client'
import { reactive } from 'vue'
import { recordAct } from '../lastActs/lastActs'
import { signInAgain } from '../session'
import { messageOf, t } from '../messages'

/** A file on its way. */
export interface Upload {
  readonly name: string
  /** From 0 to 1. */
  share: number
  /** Why it was refused. */
  failure: string
  asset: Asset | undefined
}

/** Uploads at a time; the others wait. */
const atOnce = 3

/**
 * Uploads a file with progress: `fetch` has none, so it is sent in the older way, with the session's cookie.
 * @throws Error in a sentence.
 */
async function send(
  site: string,
  path: string,
  method: 'POST' | 'PUT',
  file: Blob,
  onShare: (share: number) => void,
): Promise<Asset> {
  const address = `/edit/v1/sites/${encodeURIComponent(site)}/assets${path}`
  const sendOnce = () => sendFile(address, method, file, onShare)
  const answer = await sendOnce()
  const { status, body } = answer.status === 401 && (await signInAgain()) ? await sendOnce() : answer
  if (status < 300) {
    const { pathname, searchParams } = new URL(address, location.origin)
    recordAct({ method, path: pathname, query: Object.fromEntries(searchParams), file }, answer)
    return body
  }
  throw new Error(body.detail ?? t('assets.serviceAnswered', { status }))
}

function sendFile(
  address: string,
  method: 'POST' | 'PUT',
  file: Blob,
  onShare: (share: number) => void,
): Promise<{ status: number; body: Asset & { detail?: string } }> {
  return new Promise((resolve, reject) => {
    const request = new XMLHttpRequest()
    request.open(method, address)
    request.setRequestHeader('Content-Type', 'application/octet-stream')
    request.upload.onprogress = (event) => event.lengthComputable && onShare(event.loaded / event.total)
    request.onerror = () => reject(new Error(t('assets.connectionLost')))
    request.onload = () =>
      resolve({ status: request.status, body: parse(request.responseText) as Asset & { detail?: string } })
    request.send(file)
  })
}

const parse = (text: string): unknown => {
  try {
    return JSON.parse(text)
  } catch {
    return {}
  }
}

/** Files that are being added, and the result of each. */
export function createUploads(
  site: { readonly name: string; readonly editor: Editor },
  onAdded: (asset: Asset) => void,
) {
  const uploads = reactive<Upload[]>([])
  const waiting: { upload: Upload; file: File }[] = []
  let running = 0
  let limit: number | undefined

  async function next(): Promise<void> {
    const one = waiting.shift()
    if (!one || running >= atOnce) return void (one && waiting.unshift(one))
    running++
    const { upload, file } = one
    try {
      limit ??= (await site.editor.assets({ first: 1 })).maxUpload
      // Checked before it is sent, and not after minutes of sending.
      if (file.size > limit * 1_000_000) throw new Error(t('assets.tooLarge', { limit }))
      if (file.size === 0) throw new Error(t('assets.isEmpty'))
      const path = `/upload?name=${encodeURIComponent(file.name || 'pasted')}`
      upload.asset = await send(site.name, path, 'POST', file, (share) => (upload.share = share))
      upload.share = 1
      onAdded(upload.asset)
    } catch (error) {
      upload.failure = messageOf(error)
    } finally {
      running--
      void next()
    }
  }

  return {
    uploads,
    add(files: Iterable<File>): void {
      for (const file of files) {
        uploads.push({ name: file.name || 'pasted', share: 0, failure: '', asset: undefined })
        waiting.push({ upload: uploads.at(-1)!, file })
      }
      for (let turn = running; turn < atOnce; turn++) void next()
    },
    /** Removes ended uploads from the list. */
    clear(): void {
      for (let index = uploads.length - 1; index >= 0; index--)
        if (uploads[index]!.asset || uploads[index]!.failure) uploads.splice(index, 1)
    },
  }
}

/** Replaces a file. */
export const replaceFile = (site: string, id: string, file: Blob, onShare: (share: number) => void): Promise<Asset> =>
  send(site, `/${encodeURIComponent(id)}/file`, 'PUT', file, onShare)

/** The files of a drop or a paste. */
export const filesOf = (from: DataTransfer | null): File[] => [...(from?.files ?? [])]
