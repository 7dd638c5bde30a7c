// A small server in memory that keeps the contract of the API for scenes: edits
// that are taken by id and fit, history, the line; it can be made to fail.
import { vi } from 'vitest'
import type { Document, Edit, Patch } from '@/core/bridge'
import { smallScene } from './scenes'

export class FakeSocket {
  static all: FakeSocket[] = []
  static OPEN = 1
  readyState = 1
  said: Record<string, unknown>[] = []
  onmessage?: (m: { data: string }) => void
  onclose?: () => void
  constructor(public url: URL) {
    FakeSocket.all.push(this)
  }
  close() {
    this.readyState = 3
  }
  send(text: string) {
    this.said.push(JSON.parse(text) as Record<string, unknown>)
  }
  say(event: object) {
    this.onmessage?.({ data: JSON.stringify(event) })
  }
}

type Stored = Edit & { revision: number; author: string; at: string }

export class FakeServer {
  document: Document = smallScene()
  revision = 0
  edits: Stored[] = []
  deliveries: object[] = []
  versions: { id: string; revision: number; name: string; author: string; at: string }[] = []
  /** What was posted and stored for the first time. */
  posts: Stored[] = []
  /** The paths of what was asked for. */
  paths: string[] = []
  /** Requests that came for edits, also those that were refused or repeated. */
  asked = 0
  away = false
  /** Stores what is posted, but the answer is lost. */
  deaf = false
  /** Leaves the patches out of the history, as the server does when they are many. */
  lean = false
  refuse?: { status: number; title: string }
  /** Answers for the scene "other", when there is one. */
  other?: FakeServer
  private states: Document[] = []

  /** Takes the place of fetch and WebSocket. */
  install() {
    FakeSocket.all = []
    vi.stubGlobal('WebSocket', FakeSocket)
    vi.stubGlobal('fetch', (input: Request) => this.answer(input))
  }
  socket() {
    return FakeSocket.all.at(-1)!
  }
  private store(e: Omit<Stored, 'revision' | 'at'>): Stored {
    this.states[this.revision] = structuredClone(this.document)
    this.revision++
    for (const c of e.patch ?? []) {
      const all = this.document as unknown as Record<string, Record<string, unknown>>
      if (c.collection === 'settings') all.settings = c.after as Record<string, unknown>
      else if (c.after === undefined || c.after === null) delete all[c.collection]![c.id]
      else all[c.collection]![c.id] = c.after
    }
    const stored = { ...e, revision: this.revision, at: '2026-01-01T00:00:00Z' }
    this.edits.push(stored)
    return stored
  }
  /** An edit made by somebody else; it is told when the page is to hear of it. */
  elsewhere(collection: string, id: string, change: (entity: Record<string, unknown>) => void, tell = false): Stored {
    const before = (this.document as unknown as Record<string, Record<string, Record<string, unknown>>>)[collection]![
      id
    ]!
    const after = structuredClone(before)
    change(after)
    const n = this.revision + 1
    const e = this.store({
      id: `other-${n}`,
      base: this.revision,
      kind: 'do',
      label: 'elsewhere',
      patch: [{ collection, id, before, after }],
      tab: 'other',
      person: 'other',
      author: 'Mara',
    })
    if (tell) this.socket().say({ kind: 'edit', revision: e.revision, edits: [e] })
    return e
  }
  private fits(patch: Patch): boolean {
    const all = this.document as unknown as Record<string, Record<string, unknown>>
    return patch.every((c) => same(all[c.collection]![c.id], c.before))
  }

  /** A page of deliveries, or only those with the newest output of a shot. */
  private delivered(query: URLSearchParams) {
    const all = this.deliveries as { number?: number; outputs: unknown[] }[]
    if (query.get('newest')) return all.filter((d) => d.outputs.length)
    const before = Number(query.get('before') ?? Infinity)
    return all.filter((d) => (d.number ?? 0) < before).slice(0, Number(query.get('limit') ?? 50))
  }

  private async answer(r: Request): Promise<Response> {
    if (this.away) throw new TypeError('Failed to fetch')
    const url = new URL(r.url, 'http://here')
    const path = url.pathname
    this.paths.push(path)
    if (this.other && path.includes('/scenes/other')) return this.other.answer(r)
    const json = (body: unknown, status = 200) =>
      new Response(status === 204 ? null : JSON.stringify(body), {
        status,
        headers: { 'Content-Type': 'application/json' },
      })
    const bare = (e: Stored) => (this.lean ? { ...e, patch: undefined } : e)
    if (path.endsWith('/deliveries')) {
      if (r.method === 'GET') return json(this.delivered(url.searchParams))
      const asked = (await r.json()) as { sheet?: string }
      const made = {
        id: `d${this.deliveries.length + 1}`,
        number: this.deliveries.length + 1,
        revision: this.revision,
        outputs: asked.sheet
          ? [{ id: 'sheet', kind: asked.sheet, file: 'x/list.pdf', state: 'waiting', frames: 3, framesDone: 0 }]
          : [],
        ...asked,
      }
      this.deliveries.unshift(made)
      return json(made, 201)
    }
    if (path.endsWith('/edits') && r.method === 'GET') {
      const person = url.searchParams.get('person')
      return json(
        this.edits
          .filter((e) => !person || e.person === person)
          .map(bare)
          .reverse(),
      )
    }
    if (path.endsWith('/known')) {
      const ids = (await r.json()) as string[]
      return json(ids.filter((id) => this.edits.some((e) => e.id === id)))
    }
    const since = /\/since\/(\d+)$/.exec(path)
    if (since) return json({ revision: this.revision, edits: this.edits.slice(Number(since[1])) })
    const at = /\/at\/(\d+)$/.exec(path)
    if (at) return json({ id: 'scene', revision: Number(at[1]), document: this.states[Number(at[1])] ?? this.document })
    if (path.endsWith('/versions')) {
      if (r.method === 'GET') return json([...this.versions].reverse())
      const v = (await r.json()) as { revision: number; name: string; author: string }
      const kept = { id: `v${this.versions.length + 1}`, at: '2026-01-01T00:00:00Z', ...v }
      this.versions.push(kept)
      return json(kept, 201)
    }
    const version = /\/versions\/(\w+)$/.exec(path)
    if (version) {
      const v = this.versions.find((x) => x.id === version[1])!
      if (r.method === 'GET')
        return json({ id: 'scene', revision: v.revision, document: this.states[v.revision] ?? this.document })
      this.versions = this.versions.filter((x) => x !== v)
      return json(null, 204)
    }
    const one = /\/edits\/(\d+)$/.exec(path)
    if (one) {
      const found = this.edits.find((e) => e.revision === Number(one[1]))
      return found ? json(found) : json({ title: 'the edit cannot be found', status: 404 }, 404)
    }
    if (path.endsWith('/edits')) {
      const e = (await r.json()) as Stored
      this.asked++
      if (this.refuse) {
        const { status, title } = this.refuse
        this.refuse = undefined
        return json({ title, status }, status)
      }
      const known = this.edits.find((x) => x.id === e.id)
      if (known) return json(known)
      if (!this.fits(e.patch!))
        return json({ title: `the scene has gone on to edit ${this.revision} since`, status: 409 }, 409)
      const stored = this.store(e)
      this.posts.push(stored)
      if (this.deaf) {
        this.deaf = false
        throw new TypeError('Failed to fetch')
      }
      return json({ ...stored, patch: undefined, arguments: undefined })
    }
    if (path.startsWith('/api/scenes/')) {
      if (path.endsWith('/gone')) return json({ title: 'the scene cannot be found', status: 404 }, 404)
      return json({ id: 'scene', revision: this.revision, document: this.document })
    }
    return json({ title: 'nothing here', status: 404 }, 404)
  }
}

/** Whether two values are the same, whatever the order of their fields. */
export function same(a: unknown, b: unknown): boolean {
  if (a === b || ((a ?? null) === null && (b ?? null) === null)) return true
  if (typeof a !== 'object' || typeof b !== 'object' || !a || !b) return false
  const [x, y] = [a as Record<string, unknown>, b as Record<string, unknown>]
  const names = new Set([...Object.keys(x), ...Object.keys(y)])
  return [...names].every((n) => same(x[n], y[n]))
}
