// A small server in memory that keeps the contract of the API for one scene:
// revisions, conflicts, history; it can be made to fail.
import { vi } from 'vitest'
import type { Document, HistoryEntry, Patch } from '@/core/bridge'
import { smallScene } from './scenes'

export class FakeSocket {
  static all: FakeSocket[] = []
  onmessage?: (m: { data: string }) => void
  onclose?: () => void
  constructor(public url: URL) {
    FakeSocket.all.push(this)
  }
  close() {}
  say(event: object) {
    this.onmessage?.({ data: JSON.stringify(event) })
  }
}

export class FakeServer {
  document: Document = smallScene()
  revision = 0
  edits: (HistoryEntry & { revision: number; author: string; at: string })[] = []
  deliveries: object[] = []
  posts: { base: number; kind: string; label: string; patch: Patch }[] = []
  away = false
  /** Leaves the patches out of the history, as the server does when they are many. */
  lean = false
  refuse?: { status: number; title: string }

  /** Takes the place of fetch and WebSocket. */
  install() {
    FakeSocket.all = []
    vi.stubGlobal('WebSocket', FakeSocket)
    vi.stubGlobal('fetch', (input: Request) => this.answer(input))
  }
  socket() {
    return FakeSocket.all.at(-1)!
  }
  /** An edit made by somebody else. */
  elsewhere(change: (d: Document) => void) {
    this.document = structuredClone(this.document)
    change(this.document)
    this.revision++
    this.edits.push({ revision: this.revision, kind: 'do', label: 'elsewhere', patch: [], author: 'other', at: '' })
  }

  private async answer(r: Request): Promise<Response> {
    if (this.away) throw new TypeError('Failed to fetch')
    const path = new URL(r.url, 'http://here').pathname
    const json = (body: unknown, status = 200) =>
      new Response(JSON.stringify(body), { status, headers: { 'Content-Type': 'application/json' } })
    if (path.endsWith('/deliveries')) {
      if (r.method === 'GET') return json(this.deliveries)
      const made = {
        id: `d${this.deliveries.length + 1}`,
        number: 1,
        revision: this.revision,
        outputs: [],
        ...((await r.json()) as object),
      }
      this.deliveries.unshift(made)
      return json(made, 201)
    }
    if (path.endsWith('/edits') && r.method === 'GET')
      return json(this.edits.map((e) => (this.lean ? { ...e, patch: undefined } : e)).reverse())
    const one = /\/edits\/(\d+)$/.exec(path)
    if (one) {
      const found = this.edits.find((e) => e.revision === Number(one[1]))
      return found ? json(found) : json({ title: 'the edit cannot be found', status: 404 }, 404)
    }
    if (path.endsWith('/edits')) {
      const e = (await r.json()) as FakeServer['posts'][number]
      if (this.refuse) {
        const { status, title } = this.refuse
        this.refuse = undefined
        return json({ title, status }, status)
      }
      if (e.base !== this.revision)
        return json({ title: 'the scene has gone on', status: 409, revision: this.revision }, 409)
      this.posts.push(e)
      this.revision++
      for (const c of e.patch) {
        const collection = (this.document as unknown as Record<string, Record<string, unknown>>)[c.collection]!
        if (c.after === undefined || c.after === null) delete collection[c.id]
        else collection[c.id] = c.after
      }
      const stored = { ...e, revision: this.revision, author: 'me', at: '' } as FakeServer['edits'][number]
      this.edits.push(stored)
      return json(stored)
    }
    if (path.startsWith('/api/scenes/')) {
      if (path.endsWith('/gone')) return json({ title: 'the scene cannot be found', status: 404 }, 404)
      return json({ id: 'scene', revision: this.revision, document: this.document })
    }
    return json({ title: 'nothing here', status: 404 }, 404)
  }
}
