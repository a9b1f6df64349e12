/** The client takes hold of `fetch` when it is made: here it is whichever server a test has put up. */
import { servers } from './server'

globalThis.fetch = ((request: Request) => servers.now!.fetch(request)) as typeof fetch
