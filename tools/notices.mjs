/**
 * Gathers the licences of what ships inside the program: the crates that are linked, the packages that the pages
 * are built from, and the typeface. Writes web/public/notices.json; with --check says whether that is in step.
 */
import { execFileSync } from 'node:child_process'
import { readdirSync, readFileSync, writeFileSync } from 'node:fs'
import { dirname, join } from 'node:path'
import { fileURLToPath } from 'node:url'

const root = join(dirname(fileURLToPath(import.meta.url)), '..')
const target = join(root, 'web/public/notices.json')
const run = (command, args, cwd = root) =>
  execFileSync(command, args, { cwd, encoding: 'utf8', maxBuffer: 1 << 28, stdio: ['ignore', 'pipe', 'ignore'] })

/** The licence files of a package, as they ship with it. */
function textsOf(folder) {
  const files = readdirSync(folder).filter((name) => /^(licen[cs]e|copying|notice|unlicense|copyright)/i.test(name))
  const read = (name) => {
    try {
      return readFileSync(join(folder, name), 'utf8').replace(/\r\n/g, '\n').trim()
    } catch {
      return ''
    }
  }
  return files.sort().map(read).filter(Boolean)
}

function crates() {
  const linked = new Set(
    run('cargo', ['tree', '--locked', '-e', 'normal', '-p', 'mopsel', '--prefix', 'none', '--format', '{p}'])
      .split('\n')
      .map((line) => line.trim().split(' ').slice(0, 2).join(' ').replace(' v', ' '))
      .filter((line) => line && !line.startsWith('mopsel')),
  )
  const { packages } = JSON.parse(run('cargo', ['metadata', '--locked', '--format-version', '1']))
  return packages
    .filter((one) => linked.has(`${one.name} ${one.version}`))
    .map(({ name, version, license, manifest_path }) => ({
      kind: 'crate',
      name,
      version,
      licence: license ?? 'see its text',
      texts: textsOf(dirname(manifest_path)),
    }))
}

/** What the bundler really takes in, and the typeface. */
async function packages() {
  const web = join(root, 'web')
  const { build } = await import(join(web, 'node_modules/vite/dist/node/index.js'))
  const built = await build({ root: web, logLevel: 'silent', build: { write: false } })
  const folders = new Set()
  for (const piece of [built].flat().flatMap((one) => one.output))
    for (const path of piece.type === 'chunk' ? Object.keys(piece.modules) : (piece.originalFileNames ?? [])) {
      // A package may bring its own copy of another: node_modules/a/node_modules/b.
      const found = /^((?:.*\/)?node_modules\/(?:@[^/]+\/)?[^/]+)\//.exec(path.replace(/^\0/, ''))
      if (found) folders.add(found[1].slice(found[1].indexOf('node_modules/')))
    }
  folders.add('node_modules/@fontsource-variable/sofia-sans')
  return [...folders].map((folder) => {
    const { name, version, license } = JSON.parse(readFileSync(join(web, folder, 'package.json'), 'utf8'))
    const font = name.startsWith('@fontsource')
    const [kind, said] = font ? ['typeface', 'Sofia Sans'] : ['package', name]
    return { kind, name: said, version, licence: license ?? 'see its text', texts: textsOf(join(web, folder)) }
  })
}

const once = new Map()
for (const one of [...(await packages()), ...crates()]) once.set(`${one.kind} ${one.name} ${one.version}`, one)
const all = [...once.values()].sort((a, b) => a.name.localeCompare(b.name) || a.version.localeCompare(b.version))
const list = (entries) => entries.map(({ kind, name, version, licence }) => `${kind} ${name} ${version} ${licence}`).join('\n')

if (process.argv.includes('--check')) {
  const kept = JSON.parse(readFileSync(target, 'utf8')).parts
  if (list(kept) !== list(all)) {
    console.error('web/public/notices.json is out of step: run make notices')
    process.exit(1)
  }
} else {
  // Many ship the same text: each stands once.
  const plain = (text) => text.replace(/\s+/g, ' ')
  const texts = new Map()
  for (const one of all) for (const text of one.texts) if (!texts.has(plain(text))) texts.set(plain(text), { n: texts.size, text })
  const parts = all.map(({ texts: own, ...one }) => ({ ...one, texts: own.map((text) => texts.get(plain(text)).n) }))
  writeFileSync(target, `${JSON.stringify({ parts, texts: [...texts.values()].map(({ text }) => text) })}\n`)
  console.log(`${parts.length} parts, ${texts.size} texts, ${parts.filter((one) => !one.texts.length).length} without one`)
}
