/** How Chromium is started everywhere here: Debian's own, with no traffic of its own. */
import { existsSync } from 'node:fs'

export const executablePath = process.env.CHROMIUM ?? '/usr/bin/chromium'
export const args = [
  '--no-sandbox',
  '--disable-gpu',
  '--disable-quic',
  '--no-first-run',
  '--disable-background-networking',
  '--disable-component-update',
  '--disable-sync',
]

if (!existsSync(executablePath))
  throw new Error(
    `Chromium is not at ${executablePath}. \`make setup\` installs Debian's; CHROMIUM=path names another.`,
  )
