/** Makes the demo's file once; every trial begins from a copy of it. */
import { once } from 'node:events'
import { rmSync } from 'node:fs'
import { join } from 'node:path'
import { folder, start, TODAY } from './garden'

export default async function ready() {
  const own = folder('ready')
  const file = join(own, 'demo.db')
  const { child, base } = await start(['demo', '--today', TODAY, '--db', file])
  // Once it answers, it can be asked to stop, and puts everything into the one file.
  await fetch(`${base}/healthz`)
  const ended = once(child, 'exit')
  child.kill('SIGTERM')
  const [code] = await ended
  if (code !== 0) throw new Error(`The demo's file was not closed: it ended with ${code}`)
  process.env.MOPSEL_READY = file
  return () => rmSync(own, { recursive: true, force: true })
}
