/**
 * Something half done that is kept on the server while it is typed: a visit, a change. One save at a time,
 * the newest state after it, each on top of the version that the one before it made. What is not yet on
 * the server stands on this device too, so that a reload loses nothing.
 */
import { ApiError, nowThere } from '../api/client'
import { beyond, merge, same } from './merge'
import { learnVersion, unsent } from './queue'
import { letGo } from './refused'

export interface Stored<T> {
  id: string
  version: number
  doc: T
}
interface Mirror<T> extends Stored<T> {
  /** What the server had when this device last heard of it. */
  base: T | null
  /** What was on its way. */
  sent: T | null
  /** When it was last changed here; what an earlier release kept does not say. */
  at?: string
}
export interface Keeping<T> {
  /** Where it stands on this device. */
  mirror: string
  /** Sends a state on top of a version. */
  send: (id: string, version: number, doc: T) => Promise<Stored<T>>
  /** What stands on the server, out of a refusal. */
  standing: (error: ApiError) => Stored<T> | null
  /** The state as it stands on the page now. */
  now: () => T
  /** Puts a state on the page. */
  put: (doc: T) => void
  /** Told of each turn. */
  told: (news: 'saving' | 'saved' | 'waiting' | 'failed', error?: ApiError) => void
  /** Somebody else changed the same part; nothing is sent until it is settled. */
  met?: (theirs: Stored<T>) => void
  /** It ended elsewhere: what was typed here and is in nothing that was saved, and how it ended. Nothing is sent after it;
   *  what is typed belongs to another one. */
  ended?: (late: Partial<T>, how: Ending) => void
  /** It ended elsewhere, and what was typed here since goes into no other: what it is, and when it was typed. */
  apart?: (late: Partial<T>, at: string) => void
  /** How long typing may go on before it is saved, in milliseconds. */
  pause?: number
}

/** How something half done ended on another device: in an entry, or thrown away; `unknown` where that was not heard. */
export type Ending = 'closed' | 'put_away' | 'unknown'
const ENDINGS: Record<string, Ending> = { visit_closed: 'closed', visit_put_away: 'put_away', id_taken: 'closed' }
/** How it ended, where a refusal says that it did. */
export const endingOf = (error: ApiError) => error.fields.map((fault) => ENDINGS[fault.code]).find((how) => how)

const now = () => nowThere().toISOString()
const copy = <T>(doc: T): T => JSON.parse(JSON.stringify(doc)) as T

export class Keeper<T extends object> {
  version = 0
  /** What the server had when it was last heard of. */
  private base: T | null = null
  private sent: T | null = null
  private dirty = false
  private running: Promise<void> | null = null
  private timer: ReturnType<typeof setTimeout> | undefined
  private over = false
  private resting = false
  private held: Stored<T> | null = null

  constructor(
    public id: string,
    private readonly with_: Keeping<T>,
  ) {}

  /** Whether there is something that the server has not acknowledged. */
  get unsaved() {
    return this.dirty || this.sent !== null
  }

  /** Begins from what the server has and what this device still has of it. Gives the state to be shown. */
  take(stored: Stored<T> | null, empty: T): T {
    const mirror = this.mirrored()
    if (stored) {
      ;[this.id, this.version, this.base] = [stored.id, stored.version, copy(stored.doc)]
      learnVersion(stored.id, stored.version)
    }
    // What was typed here before it was known that there is another: both are put together.
    const unknown = mirror && stored && mirror.id !== stored.id && mirror.version === 0
    if (unknown) {
      this.dirty = true
      return { ...copy(stored.doc), ...copy(mirror.doc) }
    }
    // What was kept of one that has ended since is over, but for what was typed after it was last saved.
    if (!mirror || (stored ? mirror.id !== stored.id : mirror.version > 0)) {
      const late = mirror ? beyond(mirror.base, mirror.doc) : {}
      if (mirror) letGo(mirror.id)
      // Beside another one that is half done it is kept apart: two looks are not put together unasked. So is what can go
      // into no other.
      if (!Object.keys(late).length || !this.with_.ended || stored) {
        if (Object.keys(late).length) this.with_.apart?.(copy(late), mirror!.at ?? now())
        this.forget()
        return stored ? copy(stored.doc) : empty
      }
      this.dirty = true
      this.with_.ended(copy(late), 'unknown')
      return { ...empty, ...copy(late) }
    }
    this.id = mirror.id
    // A save whose answer was lost may have arrived: what stands there is then this device's own.
    const own = !stored || same(stored.doc, mirror.sent) || stored.version === mirror.version
    const base = own ? (stored?.doc ?? null) : mirror.base
    const { merged } = merge<T | null>(base, mirror.doc, stored?.doc ?? null)
    const doc = own ? copy(mirror.doc) : copy(merged ?? mirror.doc)
    if (!stored || !same(doc, stored.doc)) this.dirty = true
    return doc
  }

  /** The device's copy, until the server can be asked. */
  glance(): T | null {
    const mirror = this.mirrored()
    return mirror && copy(mirror.doc)
  }

  /** When the device's copy was last changed. */
  get changedAt(): string | null {
    return this.mirrored()?.at ?? null
  }

  /** Keeps what is typed before it is known what the server has. */
  note() {
    const mirror = this.mirrored()
    const before: Omit<Mirror<T>, 'doc'> = mirror ?? { id: this.id, version: 0, base: null, sent: null }
    localStorage.setItem(this.with_.mirror, JSON.stringify({ ...before, doc: this.with_.now(), at: now() }))
  }

  /** The page was changed: kept here at once, and on the server in a moment. */
  changed(soon = false) {
    if (this.over) return
    this.resting = false
    this.dirty = true
    this.keep()
    clearTimeout(this.timer)
    this.timer = setTimeout(() => void this.flush(), soon ? 0 : (this.with_.pause ?? 350))
  }

  /** Sends what is not sent yet; resolves when the server has all of it, or has refused it. */
  flush(): Promise<void> {
    clearTimeout(this.timer)
    this.running ??= this.run().finally(() => (this.running = null))
    return this.running
  }

  private async run() {
    while (this.dirty && !this.over && !this.held && !this.resting) {
      this.dirty = false
      const sent = (this.sent = copy(this.with_.now()))
      this.keep()
      this.with_.told('saving')
      try {
        const stored = await this.with_.send(this.id, this.version, sent)
        this.sent = null
        ;[this.version, this.base] = [stored.version, copy(stored.doc)]
        if (this.over) return
        if (this.dirty) this.keep()
        else this.forget()
        this.with_.told('saved')
      } catch (error) {
        this.sent = null
        if (!(error instanceof ApiError)) throw error
        if (this.over) return
        const theirs = this.with_.standing(error)
        const how = endingOf(error)
        if (how && this.with_.ended) return this.endedElsewhere(how)
        if (theirs) this.meet(theirs)
        else {
          // Refused for what it says: it stays on this device, and goes again when it was changed.
          this.dirty = false
          this.keep()
          this.with_.told(unsent(error) ? 'waiting' : 'failed', error)
          return
        }
      }
    }
  }

  /** Somebody else was faster: what both did is put together; the same part done twice is asked about. */
  private meet(theirs: Stored<T>) {
    const mine = this.with_.now()
    const { merged, clashes } = merge<T | null>(this.base, mine, theirs.doc)
    if (clashes.length && this.with_.met) {
      this.held = theirs
      this.dirty = true
      this.keep()
      this.with_.met(theirs)
      return
    }
    ;[this.id, this.version, this.base] = [theirs.id, theirs.version, copy(theirs.doc)]
    learnVersion(theirs.id, theirs.version)
    if (!same(merged, mine)) this.with_.put(copy(merged as T))
    this.dirty = !same(merged, theirs.doc)
    if (this.dirty) this.keep()
    else this.forget()
    this.with_.told('saved')
  }

  /** After two met on one part: this device's state goes on top of the other, or the other is taken. */
  settle(mine: boolean) {
    const theirs = this.held
    if (!theirs) return
    this.held = null
    ;[this.id, this.version, this.base] = [theirs.id, theirs.version, copy(theirs.doc)]
    learnVersion(theirs.id, theirs.version)
    this.dirty = mine
    if (mine) void this.flush()
    else {
      this.forget()
      this.with_.put(copy(theirs.doc))
    }
  }

  /** The page goes on to something else: this is how it left it. */
  leave(doc: T) {
    const left = copy(doc)
    this.with_.now = () => left
    this.keep()
  }

  /** What makes an entry of it is on its way: nothing goes after it, until it is changed again. */
  rest() {
    this.resting = true
    clearTimeout(this.timer)
  }

  /** It ended on another device; what was typed here since goes to another one. */
  endedElsewhere(how: Ending) {
    const doc = copy(this.with_.now())
    // What was thrown away elsewhere stands in no entry: all of it is here still.
    const late = how === 'put_away' ? beyond(null, doc) : beyond(this.base, doc)
    this.end()
    this.with_.ended?.(late, how)
  }

  /** It ended in an entry, or was given up: nothing of it is sent or kept any more. */
  end() {
    this.over = true
    this.dirty = false
    clearTimeout(this.timer)
    this.forget()
  }

  private mirrored(): Mirror<T> | null {
    try {
      return JSON.parse(localStorage.getItem(this.with_.mirror) ?? 'null') as Mirror<T> | null
    } catch {
      return null
    }
  }
  private keep() {
    const { id, version, base, sent } = this
    const mirror: Mirror<T> = { id, version, base, sent, doc: this.with_.now(), at: now() }
    localStorage.setItem(this.with_.mirror, JSON.stringify(mirror))
  }
  private forget() {
    localStorage.removeItem(this.with_.mirror)
  }
}
