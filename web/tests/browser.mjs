/** How Chromium is started everywhere here: Debian's own, with no traffic of its own. */
import { existsSync } from 'node:fs'

const DEBIANS = ['/usr/bin/chromium-headless-shell', '/usr/bin/chromium']
export const executablePath = process.env.CHROMIUM ?? DEBIANS.find(existsSync) ?? DEBIANS[0]
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
