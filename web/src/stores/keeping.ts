// What outlives the tab: edits that the server has not confirmed yet, and edits
// that could not be kept, in the browser's own database.
import { openDB, type DBSchema, type IDBPDatabase } from 'idb'
import { api, ask, RequestFailed } from '@/api/client'
import type { Edit, Lost } from '@/core/bridge'
import { livingTabs } from './person'

/** An edit on its way, of a tab, in the order in which they were made. */
interface Waiting {
  id: string
  scene: string
  tab: string
  order: number
  author: string
  edit: Edit
}
interface Aside extends Lost {
  id: string
  scene: string
  at: number
}
interface Rooms extends DBSchema {
  waiting: { key: string; value: Waiting; indexes: { scene: string } }
  aside: { key: string; value: Aside; indexes: { scene: string } }
}

let opening: Promise<IDBPDatabase<Rooms>> | undefined
function rooms() {
  opening ??= openDB<Rooms>('proscen', 1, {
    upgrade(db) {
      for (const name of ['waiting', 'aside'] as const)
        db.createObjectStore(name, { keyPath: 'id' }).createIndex('scene', 'scene')
    },
    terminated: () => (opening = undefined),
  })
  opening.catch(() => (opening = undefined))
  return opening
}

/** Keeps what waits of one tab in one scene in step with what the core says. */
export class Keeper {
  private kept = new Map<string, number>()
  private order = Date.now() * 1000
  private line: Promise<unknown> = Promise.resolve()
  /** Whether the browser has a place to keep things in. */
  works = true

  constructor(
    private scene: string,
    private tab: string,
    private author: () => string,
  ) {}

  /** Notes what waits now. What is known is written again only when it may have changed. */
  note(waiting: string[], edits: () => Edit[], anew: boolean) {
    const now = new Set(waiting)
    const gone = [...this.kept.keys()].filter((id) => !now.has(id))
    const fresh = anew ? waiting : waiting.filter((id) => !this.kept.has(id))
    for (const id of gone) this.kept.delete(id)
    const put: Waiting[] = []
    if (fresh.length) {
      const by = new Map(edits().map((e) => [e.id, e]))
      for (const id of fresh) {
        const edit = by.get(id)
        if (!edit) continue
        const order = this.kept.get(id) ?? ++this.order
        this.kept.set(id, order)
        put.push({ id, scene: this.scene, tab: this.tab, order, author: this.author(), edit })
      }
    }
    if (put.length || gone.length) this.write(put, gone)
  }
  private write(put: Waiting[], gone: string[]) {
    this.line = this.line
      .then(async () => {
        const tx = (await rooms()).transaction('waiting', 'readwrite')
        for (const w of put) void tx.store.put(w)
        for (const id of gone) void tx.store.delete(id)
        await tx.done
        this.works = true
      })
      .catch(() => (this.works = false))
  }
  /** Resolves when all is written. */
  written(): Promise<unknown> {
    return this.line
  }
}

/** What waits in a scene of this tab and of tabs that live no more, in order. */
export async function leftIn(scene: string, tab: string): Promise<Edit[]> {
  try {
    const living = await livingTabs()
    const all = await (await rooms()).getAllFromIndex('waiting', 'scene', scene)
    return inOrder(all.filter((w) => w.tab === tab || !living.has(w.tab))).map((w) => w.edit)
  } catch {
    return [] // a browser without a place to keep things in has kept nothing
  }
}
/** What waits in a scene of tabs that have ended; nothing where the browser does not tell which live. */
export async function leftBehind(scene: string): Promise<Edit[]> {
  return 'locks' in navigator ? leftIn(scene, '') : []
}
const inOrder = (list: Waiting[]) => list.sort((a, b) => a.tab.localeCompare(b.tab) || a.order - b.order)

/** Forgets what has been taken over by another tab, or is in the log. */
export async function forget(ids: string[]) {
  try {
    const tx = (await rooms()).transaction('waiting', 'readwrite')
    for (const id of ids) void tx.store.delete(id)
    await tx.done
  } catch {
    // It is known by its id, and is not done twice.
  }
}

/**
 * Sends what closed tabs have left, and this one in scenes that it has left; what
 * does not fit waits for its scene to be opened. Returns how many wait, by scene.
 */
export async function sendLeft(tab: string, except = ''): Promise<Record<string, number>> {
  const left: Record<string, number> = {}
  let all: Waiting[]
  try {
    const living = await livingTabs()
    all = inOrder(
      (await (await rooms()).getAll('waiting')).filter(
        (w) => w.scene !== except && (w.tab === tab || !living.has(w.tab)),
      ),
    )
  } catch {
    return left
  }
  const stuck = new Set<string>()
  for (const w of all) {
    if (!stuck.has(w.scene)) {
      try {
        await post(w.scene, w.edit, w.author)
        await forget([w.id])
        continue
      } catch (e) {
        if (!(e instanceof RequestFailed)) throw e
        stuck.add(w.scene)
      }
    }
    left[w.scene] = (left[w.scene] ?? 0) + 1
  }
  return left
}

/** Sends an edit; the answer has its place in the log. */
export function post(scene: string, edit: Edit, author: string): Promise<Edit> {
  const body = { ...edit, revision: undefined, author, patch: edit.patch ?? [] } as never
  return ask(api.POST('/scenes/{scene}/edits', { params: { path: { scene } }, body })) as Promise<Edit>
}

export async function setAside(scene: string, lost: Lost[]) {
  try {
    const tx = (await rooms()).transaction('aside', 'readwrite')
    for (const l of lost) void tx.store.put({ ...l, id: l.edit.id, scene, at: Date.now() })
    await tx.done
  } catch {
    // They are still shown in this tab.
  }
}
export async function asideIn(scene: string): Promise<Lost[]> {
  try {
    const all = await (await rooms()).getAllFromIndex('aside', 'scene', scene)
    return all.sort((a, b) => a.at - b.at).map(({ edit, why }) => ({ edit, why }))
  } catch {
    return []
  }
}
export async function dropAside(id: string) {
  try {
    await (await rooms()).delete('aside', id)
  } catch {
    // It is shown again next time.
  }
}
