/** Sends a file, and tells how far it is. A request of the ordinary kind does not say. */
import { ApiError, type Problem } from '../api/client'
import { lastPicked } from '../parts/recorder'

export interface Sending<T> {
  done: Promise<T>
  cancel: () => void
}

export class Cancelled extends Error {}

/** Sends a file to an address. `type` is what it is. */
export function sendFile<T>(path: string, type: string, file: Blob, tell: (share: number) => void): Sending<T> {
  const request = new XMLHttpRequest()
  const done = new Promise<T>((ready, fail) => {
    const read = <A>(): A | null => {
      try {
        return JSON.parse(request.responseText) as A
      } catch {
        return null
      }
    }
    request.upload.onprogress = ({ loaded, total }) => tell(total ? loaded / total : 0)
    request.onload = () => {
      const came = request.status === 200 ? read<T>() : null
      if (came) ready(came)
      else fail(new ApiError(read<Problem>() ?? { title: 'It could not be brought in.' }))
    }
    let whole = false
    request.upload.onload = () => {
      whole = true
      tell(1)
    }
    const lost = () =>
      whole
        ? 'The connection broke after it was sent: it may have been brought in. Send it again; what is there is passed over.'
        : 'Not connected. Nothing was brought in; send it again.'
    request.onerror = () => fail(new ApiError({ detail: lost() }, true))
    request.onabort = () => fail(new Cancelled())
  })
  request.open('POST', path)
  request.setRequestHeader('Content-Type', type)
  if (lastPicked.value) request.setRequestHeader('Mopsel-Person', lastPicked.value)
  request.send(file)
  return { done, cancel: () => request.abort() }
}

/** A file's size, said in short. */
export const size = (bytes: number) =>
  bytes < 1e6 ? `${Math.max(1, Math.round(bytes / 1e3))} kB` : `${(bytes / 1e6).toFixed(1)} MB`
export const counted = (n: number, one: string, many: string) => `${n.toLocaleString('en-GB')} ${n === 1 ? one : many}`
