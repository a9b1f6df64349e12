/** Writes down what failed and what was expected, for whoever sees only the end of a long output. */
import { mkdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { dirname } from 'node:path'
import type { Reporter, TestCase, TestResult } from '@playwright/test/reporter'

/** Of what is written for whoever asks why: what the page held. */
const held = (text: string) =>
  text
    .slice(Math.max(0, text.indexOf('```yaml')))
    .split('\n')
    .slice(0, 70)
    .join('\n')
const plain = (text: string) => text.replace(/\u001b\[[0-9;]*m/g, '')

export default class Failed implements Reporter {
  private told: string[] = []
  constructor(private options: { file: string }) {}

  onTestEnd(test: TestCase, result: TestResult) {
    if (test.outcome() !== 'unexpected') return
    const why = result.errors.map((error) =>
      plain(error.message ?? error.stack ?? '')
        .split('\n')
        .slice(0, 14)
        .join('\n'),
    )
    // What the page showed then, and what it had been refused: the moment does not come back.
    const shown = result.attachments
      .filter(({ name }) => name === 'error-context' || name === 'refused')
      .map(({ name, path, body }) => `${name}:\n${held(body?.toString() ?? (path ? readFileSync(path, 'utf8') : ''))}`)
    this.told.push([test.titlePath().filter(Boolean).join(' › '), ...why, ...shown].join('\n'))
  }

  onEnd() {
    rmSync(this.options.file, { force: true })
    if (!this.told.length) return
    mkdirSync(dirname(this.options.file), { recursive: true })
    writeFileSync(this.options.file, this.told.join('\n\n'))
  }
}
