// Keeps the open scene together with the server: sends what was done here one
// after the other, takes in what others have done, and outlives lost answers,
// restarts and sleep. What fits and what does not is decided by the core.
import { api, ask, RequestFailed, type SceneEvent } from '@/api/client'
import { core, type Document, type Edit, type Outcome } from '@/core/bridge'
import { forget, Keeper, leftBehind, leftIn, post } from './keeping'
import { Line } from './line'

const firstRetry = 500
const lastRetry = 5000
/** Events that come at once are taken in together. */
const gather = 8
/** How often it is looked whether a tab has ended and left something. */
const lookAfter = 10_000

interface Who {
  tab: string
  person: string
  author: () => string
}
interface Ears {
  /** The scene has changed in some things, or stands differently to the server's. */
  taken(o: Outcome, foreign: boolean): void
  /** The scene was read anew. */
  opened(d: Document, o: Outcome): void
  /** Nothing can be sent now, or it can again. */
  waits(waits: boolean): void
  /** Whether what waits is written where it outlives the tab; undefined while it is being written. */
  keeps(kept?: boolean): void
  heard(e: SceneEvent): void
}

/** One opening of one scene: nothing of it reaches another one. */
export class Sync {
  private line?: Line
  private keeper: Keeper
  private ended = false
  private posting = false
  private inbox: Edit[] = []
  private looking?: ReturnType<typeof setInterval>
  private draining?: ReturnType<typeof setTimeout>
  private catching?: Promise<void>
  private newest = 0 // the newest revision that was heard of
  private clashes = { id: '', count: 0 }
  private wake?: () => void

  constructor(
    readonly scene: string,
    private who: Who,
    private ears: Ears,
  ) {
    this.keeper = new Keeper(scene, who.tab, who.author)
  }

  /** Reads the scene and lays what waits here on top. */
  async open() {
    await this.read(await leftIn(this.scene, this.who.tab), true)
    if (this.ended) return
    this.line = new Line(
      this.scene,
      this.who.tab,
      (e) => this.hear(e),
      (up) => {
        if (up) this.wake?.()
      },
    )
    this.looking = setInterval(() => void this.adopt(), lookAfter)
    void this.send()
  }
  /** Takes over what tabs have left in this scene that have ended since it was opened. */
  private async adopt() {
    if (this.catching) return
    const left = await leftBehind(this.scene)
    if (left.length && !this.ended) await this.readAnew(left)
  }
  /** Nothing is taken in any more; what waits stays kept. */
  end() {
    this.ended = true
    this.line?.end()
    clearTimeout(this.draining)
    clearInterval(this.looking)
    this.wake?.()
  }
  say(what: object) {
    this.line?.say(what)
  }
  /** Resolves when what waits is written where it outlives the tab. */
  written() {
    return this.keeper.written()
  }
  get keeps() {
    return this.keeper.works
  }

  /** Reads the scene and lays what waits on top: what was left, and when it is open already what has been done here. */
  private async read(left: Edit[], first: boolean) {
    const path = { scene: this.scene }
    const waits = () => [...(first ? [] : core.pending()), ...left]
    const ids = waits().map((e) => e.id)
    const [scene, mine] = await Promise.all([
      ask(api.GET('/scenes/{scene}', { params: { path } })),
      ask(api.GET('/scenes/{scene}/edits', { params: { path, query: { limit: 300, person: this.who.person } } })),
    ])
    // Asked after the scene was read: whatever is in it is known.
    const known = ids.length ? await ask(api.POST('/scenes/{scene}/known', { params: { path }, body: ids })) : []
    if (this.ended) return
    const waiting = waits() // more may have been done meanwhile
    const opened = core.open(scene.document)
    if (opened.error) throw new Error(opened.error)
    const { revision } = scene
    const o = core.join({
      revision,
      tab: this.who.tab,
      person: this.who.person,
      mine: (mine as Edit[]).filter((e) => e.revision! <= revision).reverse(),
      waiting: waiting.filter((e) => !known.includes(e.id)),
    })
    // What is in the log, was set aside or had nothing left to do waits no more.
    const gone = ids.filter((id) => !o.synced?.waiting.includes(id))
    if (gone.length) void forget(gone)
    this.note(o, true)
    this.ears.opened(core.document(), o)
  }

  /** Says what an outcome of the core means for sending and keeping. */
  note(o: Outcome, anew = false) {
    if (!o.synced) return
    this.keeper.note(o.synced.waiting, core.pending, anew)
    const writing = this.keeper.written()
    this.ears.keeps()
    void writing.then(() => writing === this.keeper.written() && this.ears.keeps(this.keeper.works))
    if (o.synced.waiting.length && !this.posting && !this.ended) void this.send()
  }
  private take(o: Outcome, foreign: boolean) {
    this.note(o, true)
    this.ears.taken(o, foreign)
    if (o.synced?.astray) return this.readAnew()
    if (o.synced?.behind) return this.catchUp()
  }

  private async send() {
    if (this.posting) return
    this.posting = true
    let wait = firstRetry
    try {
      while (!this.ended) {
        const e = core.next()
        if (!e) break
        try {
          const answer = await post(this.scene, e, this.who.author())
          if (this.ended) return
          wait = firstRetry
          this.ears.waits(false)
          await this.take(core.receive([answer]), false)
          if (core.next()?.id === e.id) await this.sleep(lastRetry) // it was taken, and still waits: not in a hurry
        } catch (failed) {
          if (this.ended) return
          if (!(failed instanceof RequestFailed)) throw failed
          if (failed.status === 409) {
            await this.clash(e, failed.message)
          } else if (failed.status === 0 || failed.status >= 500 || failed.status === 429 || failed.status === 404) {
            this.ears.waits(true)
            await this.sleep(wait)
            wait = Math.min(lastRetry, wait * 2)
          } else {
            await this.take(core.refused(e.id, failed.message), false)
          }
        }
      }
    } finally {
      this.posting = false
    }
    this.ears.waits(false)
  }
  /** An edit does not fit: what came between is taken in, and it is done again. */
  private async clash(e: Edit, why: string) {
    const count = this.clashes.id === e.id ? this.clashes.count + 1 : 1
    this.clashes = { id: e.id, count }
    const known = core.synced().revision
    await this.catchUp()
    if (count > 1 && known === core.synced().revision && core.next()?.id === e.id) {
      // Nothing came between, and still it does not fit.
      if (count === 2) await this.readAnew()
      else await this.take(core.refused(e.id, why), false)
    }
  }
  private sleep(ms: number) {
    return new Promise<void>((done) => {
      const timer = setTimeout(done, ms)
      this.wake = () => {
        clearTimeout(timer)
        done()
      }
    })
  }

  private hear(e: SceneEvent) {
    if (this.ended) return
    if (e.kind === 'edit' && e.edits) {
      this.inbox.push(...(e.edits as Edit[]))
      this.draining ??= setTimeout(() => this.drain(), gather)
    } else if (e.revision !== undefined && e.kind !== 'delivery') void this.compare(e.revision)
    this.ears.heard(e)
  }
  private drain() {
    this.draining = undefined
    const edits = this.inbox.splice(0)
    if (edits.length && !this.ended) void this.take(core.receive(edits), true)
  }
  private compare(revision: number) {
    const mine = core.synced().revision
    this.newest = revision
    // Less may be an old word that comes late, or a server that has been set back.
    if (revision !== mine) return this.catchUp()
  }

  /** Asks for the edits since; where they are too many, the scene is read anew. */
  catchUp(): Promise<void> {
    this.catching ??= this.ask().finally(() => (this.catching = undefined))
    return this.catching
  }
  private async ask() {
    let revision: number
    do {
      revision = core.synced().revision
      await this.askSince(revision)
      // More may have come while the answer was on its way.
    } while (!this.ended && core.synced().revision > revision && this.newest > core.synced().revision)
  }
  private async askSince(revision: number) {
    try {
      const path = { scene: this.scene, revision }
      const since = await ask(api.GET('/scenes/{scene}/since/{revision}', { params: { path } }))
      if (this.ended) return
      if (since.edits.length) {
        const o = core.receive(since.edits as Edit[])
        this.note(o, true)
        this.ears.taken(o, true)
        if (o.synced?.astray) await this.anew()
      } else if (since.revision !== revision) await this.anew() // too many, or the server has been set back
    } catch (e) {
      if (!(e instanceof RequestFailed)) throw e
      this.ears.waits(true) // the line tells when there is something again
    }
  }
  private readAnew(left: Edit[] = []): Promise<void> {
    this.catching ??= this.anew(left).finally(() => (this.catching = undefined))
    return this.catching
  }
  private async anew(left: Edit[] = []) {
    try {
      await this.read(left, false)
    } catch (e) {
      if (!(e instanceof RequestFailed)) throw e
      this.ears.waits(true)
    }
  }
}
