/**
 * A server that is slow, answers out of order and loses requests and answers, and that keeps the gate's
 * promises: what was saved on top of something else is refused with what stands, and a repeated request
 * gets its first answer.
 */
import { same } from '../../src/writes/merge'

type Doc = Record<string, unknown>
interface Half {
  id: string
  version: number
  doc: Doc
}
export interface Weather {
  /** The longest wait before a request arrives, and before its answer does, in milliseconds. */
  slow: number
  /** How often one of the two is lost. */
  lost: number
}

/** A repeatable stream of numbers from 0 to 1. */
export function dice(seed: number) {
  let state = seed * 2654435761 + 1
  return () => {
    state ^= state << 13
    state ^= state >>> 17
    state ^= state << 5
    return (state >>> 0) / 4294967296
  }
}

export class Server {
  draft: Half | null = null
  run: Half | null = null
  entries = new Map<string, Doc>()
  /** Every state that was acknowledged, by what it was of. */
  acknowledged: { what: string; doc: Doc }[] = []
  asked = 0
  refused = 0
  /** The system was put away: nothing is taken. */
  shut = false
  /** Half done ones that were thrown away. */
  gone = new Set<string>()
  private pending = new Set<() => void>()
  private page = 0

  constructor(
    readonly roll: () => number,
    readonly weather: Weather,
  ) {}

  /** The page is gone: what it had sent may still arrive, and it hears of nothing any more. */
  reload() {
    this.page++
    for (const arrive of [...this.pending]) if (this.roll() < 0.5) arrive()
    this.pending.clear()
  }

  fetch(request: Request): Promise<Response> {
    const { page } = this
    return new Promise((resolve, reject) => {
      const lost = () => this.roll() < this.weather.lost
      const wait = () => this.roll() * this.weather.slow
      request.signal?.addEventListener('abort', () => reject(new DOMException('gone', 'AbortError')))
      if (lost()) return void setTimeout(() => page === this.page && reject(new TypeError('lost')), wait())
      void request.text().then((body) => {
        let answer: Response | null = null
        const arrive = () => {
          this.pending.delete(arrive)
          answer ??= this.answer(request, body)
        }
        this.pending.add(arrive)
        setTimeout(() => {
          arrive()
          const gone = lost()
          setTimeout(() => {
            if (page !== this.page) return
            if (gone) reject(new TypeError('lost'))
            else resolve(answer!)
          }, wait())
        }, wait())
      })
    })
  }

  private answer(request: Request, body: string): Response {
    this.asked++
    const url = new URL(request.url)
    const sent = (body ? JSON.parse(body) : {}) as Doc
    const path = url.pathname.replace(/^\/api\/(systems\/[^/]+\/)?/, '')
    const json = (status: number, value: unknown) =>
      new Response(status === 204 ? null : JSON.stringify(value), {
        status,
        headers: { 'content-type': 'application/json' },
      })
    const refuse = (code: string, field: string) => {
      this.refused++
      const fields = [{ code, field, found: code, allowed: '', mend: '' }]
      return json(422, { title: code, detail: code, status: 422, fields })
    }
    const meets = (current: unknown, yours: unknown) =>
      json(409, { title: 'Changed meanwhile', detail: 'changed', status: 409, current, yours })
    if (this.shut && request.method !== 'GET' && path !== 'judge') return refuse('system_put_away', 'system')
    const seen = { id: url.searchParams.get('id'), version: Number(url.searchParams.get('version')) }
    switch (`${request.method} ${path}`) {
      case 'GET draft':
        return json(200, { draft: this.draft && this.drafted(this.draft) })
      case 'PUT draft': {
        if (this.entries.has(String(sent.id))) return refuse('visit_closed', 'id')
        if (this.gone.has(String(sent.id))) return refuse('visit_put_away', 'id')
        const [doc, there] = [sent.visit as Doc, this.draft]
        if (there?.id === sent.id && same(there?.doc, doc)) return json(200, this.drafted(there!))
        if (there && (there.id !== sent.id || there.version !== sent.version))
          return meets(this.drafted(there), this.drafted({ id: String(sent.id), version: 0, doc }))
        this.draft = { id: String(sent.id), version: Number(sent.version) + 1, doc }
        this.acknowledged.push({ what: 'draft', doc })
        return json(200, this.drafted(this.draft))
      }
      case 'DELETE draft':
        if (this.draft?.id === seen.id && this.draft?.version !== seen.version) return meets(null, null)
        if (this.draft?.id === seen.id) this.draft = null
        this.gone.add(String(seen.id))
        return json(204, null)
      case 'POST entries': {
        const { closes, ...entry } = sent
        delete entry.saved
        const there = this.entries.get(String(sent.id))
        const taken = { code: 'id_taken', field: 'id', found: '', allowed: '', mend: '' }
        if (there)
          return same(there, entry) ? json(200, entry) : json(409, { detail: 'id taken', status: 409, fields: [taken] })
        const said = { ...(sent.body as Doc) }
        delete said.kind
        const half = this.draft?.id === sent.id ? this.draft : null
        if (half && closes !== half!.version && !same(said, half!.doc)) return meets(this.drafted(half!), null)
        this.entries.set(String(sent.id), entry)
        if (half) this.draft = null
        return json(201, entry)
      }
      case 'POST judge':
        return this.judged(sent.visit as Doc, json)
      case 'GET change':
        return json(200, { under_way: this.run && this.changed(this.run), guide: this.guide({}) })
      case 'POST change/guide':
        return json(200, this.guide(sent.run as Doc))
      case 'PUT change': {
        if (this.entries.has(String(sent.id))) return refuse('change_closed', 'id')
        const [doc, there] = [sent.run as Doc, this.run]
        const answer = (half: Half) => json(200, { under_way: this.changed(half), guide: this.guide(half.doc) })
        if (there?.id === sent.id && same(there?.doc, doc)) return answer(there!)
        if (there && (there.id !== sent.id || there.version !== sent.version)) return meets(this.changed(there), null)
        if (!there && Number(sent.version) > 0) return refuse('change_given_up', 'version')
        this.run = { id: String(sent.id), version: Number(sent.version) + 1, doc }
        this.acknowledged.push({ what: 'run', doc })
        return answer(this.run)
      }
      case 'DELETE change':
        if (this.run?.id === seen.id && this.run?.version !== seen.version) return meets(null, null)
        if (this.run?.id === seen.id) this.run = null
        return json(204, null)
      case 'POST change/finish': {
        const there = this.entries.get(String(sent.id))
        if (there) return json(200, there)
        if (this.run?.id !== sent.id) return json(404, { detail: 'no change', status: 404 })
        const entry = { id: sent.id, body: this.run!.doc }
        this.entries.set(String(sent.id), entry)
        this.run = null
        return json(201, entry)
      }
      case 'POST bench/plan': {
        const ask = sent.ask as { purpose: { litres?: number } }
        return json(200, { title: 'plan', answer: String(ask.purpose.litres), doses: [], steps: [] })
      }
      default:
        throw new Error(`nobody answers ${request.method} ${path}`)
    }
  }

  private judged(visit: Doc, json: (status: number, value: unknown) => Response) {
    const ph = visit.ph as { value: number } | undefined
    const wrong = !!ph && ph!.value > 14
    const fault = { code: 'quantity_out_of_bounds', field: 'visit.ph', found: '', allowed: '', mend: '' }
    const about = (subject: string) => ({ subject, tone: 'fine', finding: JSON.stringify(visit[subject]) })
    const parts = Object.keys(visit).filter((part) => part !== 'ph' || !wrong)
    return json(200, {
      verdicts: parts.map(about),
      doubts: [],
      fine: false,
      volume: null,
      faults: wrong ? [fault] : [],
    })
  }
  private guide(run: Doc) {
    const finding = String(run.volume_after ?? '')
    const step = (key: string) => ({ step: key, name: key, doing: '', done: false, finding, tone: 'fine' })
    return { steps: [step('drain'), step('refill')], done: 0, missing: [], fill_to: 20 }
  }
  private drafted(half: Half) {
    return { id: half.id, version: half.version, visit: half.doc, who: 'wren', lines: [] }
  }
  private changed(half: Half) {
    return { id: half.id, version: half.version, run: half.doc, who: 'wren', who_name: 'Wren', started: '', saved: '' }
  }
}

export const servers: { now: Server | null } = { now: null }
