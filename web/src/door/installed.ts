/** What a device keeps of the pages, so that they open without a connection; and a newer version of them. */
import { shallowRef } from 'vue'

/** Loads the newer version, where one is here. */
export const renewed = shallowRef<() => void>()

/** Once the page stands: what is kept comes after what is wanted now. */
export async function keepPages() {
  if (!('serviceWorker' in navigator) || import.meta.env.DEV) return
  const { Workbox } = await import('workbox-window')
  const worker = new Workbox('/sw.js')
  worker.addEventListener('waiting', () => {
    renewed.value = () => {
      worker.addEventListener('controlling', () => location.reload())
      worker.messageSkipWaiting()
    }
  })
  // A phone keeps a page open for days: whenever it is looked at again, it asks for a newer one.
  document.addEventListener('visibilitychange', () => {
    if (document.visibilityState === 'visible') void worker.update().catch(() => {})
  })
  // Where the certificate is not trusted the pages work while there is a connection; People and phones says so.
  await worker.register().catch(() => {})
}

/** Forgets what was read on this device: somebody else signs in, or nobody. */
export const forgetRead = () => void globalThis.caches?.delete('mopsel-read').catch(() => {})
