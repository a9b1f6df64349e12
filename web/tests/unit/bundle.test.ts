// @vitest-environment node
import { readdirSync, readFileSync } from 'node:fs'
import { join } from 'node:path'
import { gzipSync } from 'node:zlib'
import { expect, test } from 'vitest'

const dist = join(import.meta.dirname, '../../dist')
const page = () => readFileSync(join(dist, 'index.html'), 'utf8')

test('the first load brings less than 100 KB of script, gzipped', () => {
  const scripts = [...page().matchAll(/(?:src|href)="\/(assets\/[^"]+\.js)"/g)].map((found) => found[1]!)
  expect(scripts.length, 'built by `npm run build`').toBeGreaterThan(0)
  const sizes = scripts.map((file) => gzipSync(readFileSync(join(dist, file))).length)
  expect(sizes.reduce((sum, size) => sum + size, 0)).toBeLessThan(100 * 1024)
})

test('no development tools ship, and nothing is asked of another host', () => {
  for (const file of readdirSync(join(dist, 'assets')).filter((name) => /\.(js|css)$/.test(name))) {
    const text = readFileSync(join(dist, 'assets', file), 'utf8')
    expect(text, file).not.toMatch(/setupDevtoolsPlugin|@vue\/devtools|vue-query-devtools/)
    expect(text, file).not.toMatch(/(?:src|href|url)\s*[=(]\s*["']?https?:\/\//)
  }
  expect(page()).not.toMatch(/https?:\/\//)
})
