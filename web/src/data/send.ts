/** Sends an archive, and tells how far it is. A request of the ordinary kind does not say. */
import { ApiError, type Problem, type Schemas } from '../api/client'
import { lastPicked } from '../parts/recorder'

export interface Sending {
  done: Promise<Schemas['BroughtView']>
  cancel: () => void
}

export class Cancelled extends Error {}

export function sendArchive(file: Blob, tell: (share: number) => void): Sending {
  const request = new XMLHttpRequest()
  const done = new Promise<Schemas['BroughtView']>((ready, fail) => {
    const read = <T>(): T | null => {
      try {
        return JSON.parse(request.responseText) as T
      } catch {
        return null
      }
    }
    request.upload.onprogress = ({ loaded, total }) => tell(total ? loaded / total : 0)
    request.onload = () => {
      const came = request.status === 200 ? read<Schemas['BroughtView']>() : null
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
  request.open('POST', '/api/archive')
  request.setRequestHeader('Content-Type', 'application/zip')
  if (lastPicked.value) request.setRequestHeader('Mopsel-Person', lastPicked.value)
  request.send(file)
  return { done, cancel: () => request.abort() }
}
