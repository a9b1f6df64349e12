/** Makes the demo's file once; every trial begins from a copy of it. */
import { once } from 'node:events'
import { rmSync } from 'node:fs'
import { join } from 'node:path'
import { folder, start, TODAY } from './garden'

export default async function ready() {
  const own = folder('ready')
  const file = join(own, 'demo.db')
  const { child } = await start(['demo', '--today', TODAY, '--db', file])
  const ended = once(child, 'exit')
  // Asked to stop, it puts everything into the one file.
  child.kill('SIGTERM')
  await ended
  process.env.MOPSEL_READY = file
  return () => rmSync(own, { recursive: true, force: true })
}
