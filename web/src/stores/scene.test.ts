import 'fake-indexeddb/auto'
import { createPinia, setActivePinia } from 'pinia'
import { ElMessage } from 'element-plus'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { core, type Edit } from '@/core/bridge'
import { FakeServer } from '@/testing/server'
import { forget, Keeper, leftIn } from './keeping'
import { useScene } from './scene'
import { sentence } from '@/ui/sentence'

let server: FakeServer
let scene: ReturnType<typeof useScene>

beforeEach(async () => {
  localStorage.clear()
  sessionStorage.clear()
  vi.useFakeTimers({ shouldAdvanceTime: true, toFake: ['setTimeout', 'clearTimeout', 'setInterval', 'clearInterval'] })
  setActivePinia(createPinia())
  server = new FakeServer()
  server.install()
  // What the test before has kept is not written off at once, and is no edit of this one.
  for (const id of ['scene', 'other']) await forget((await leftIn(id, '')).map((e) => e.id))
  scene = useScene()
  await scene.load('scene')
})
afterEach(async () => {
  await scene.flushed()
  scene.leave()
  vi.useRealTimers()
  vi.unstubAllGlobals()
  ElMessage.closeAll()
})
const messages = () => [...document.querySelectorAll('.el-message')].map((m) => m.textContent ?? '')

describe('an open scene', () => {
  it('shows the document and its cut', () => {
    expect(scene.loaded).toBe(true)
    expect(scene.doc.settings.title).toBe('Small')
    expect(scene.cameras.map((c) => c.camera.number)).toEqual([1, 2])
    expect(scene.cutLength).toBe(144)
    expect(scene.rate).toBe(24)
    expect(scene.saved).toBe('saved')
  })

  it('takes over what another tab leaves that ends while it is open', async () => {
    const living = ['proscen.tab.here', 'proscen.tab.there']
    vi.stubGlobal('navigator', {
      ...navigator,
      locks: { query: async () => ({ held: living.map((name) => ({ name })) }) },
    })
    await scene.leave()
    await scene.load('scene')
    const there = new Keeper('scene', 'there', () => 'somebody')
    const done = { name: 'markerAdd', args: { clock: 'screen', assembly: 'cut', frame: 77 } }
    const edit = {
      id: 'left-1',
      base: 0,
      label: 'add a marker',
      kind: 'do',
      operation: done.name,
      arguments: done.args,
    }
    const patch = [
      {
        collection: 'markers',
        id: 'left',
        after: { clock: 'screen', assembly: 'cut', frame: 77, name: 'left', color: '#ffffff' },
      },
    ]
    there.note(['left-1'], () => [{ ...edit, patch, author: 'somebody', tab: 'there' } as unknown as Edit], false)
    await there.written()
    await vi.advanceTimersByTimeAsync(11_000)
    expect(scene.doc.markers.left, 'that tab lives').toBeUndefined()
    scene.run('shotTrim', { id: 's1', edge: 'out', by: -4 })
    living.pop()
    await vi.advanceTimersByTimeAsync(11_000)
    await vi.waitFor(() => expect(scene.doc.markers.left?.frame).toBe(77))
    await scene.flushed()
    expect(server.document.markers).toHaveProperty('left')
    expect(scene.doc.shots.s1!.screenOut).toBe(44)
    expect(server.posts.filter((p) => p.id === 'left-1')).toHaveLength(1)
    await vi.waitFor(async () => expect(await leftIn('scene', '')).toEqual([]))
  })

  it('says so when it cannot be loaded', async () => {
    await scene.load('gone')
    expect(scene.loaded).toBe(false)
    expect(scene.failure).toContain('cannot be found')
  })

  it('saves edits one after the other, each from the revision before it, by ids of its own', async () => {
    scene.run('shotTrim', { id: 's1', edge: 'out', by: -4 })
    scene.run('shotTrim', { id: 's1', edge: 'out', by: -4 })
    scene.run('markerAdd', { clock: 'screen', assembly: 'cut', frame: 10 })
    expect(scene.saved).toBe('saving')
    expect(scene.doc.shots.s1!.screenOut).toBe(40)
    await scene.flushed()
    expect(server.posts.map((p) => p.base)).toEqual([0, 1, 2])
    expect(new Set(server.posts.map((p) => p.id)).size).toBe(3)
    expect(server.posts[0]).toMatchObject({ operation: 'shotTrim', arguments: { id: 's1', edge: 'out', by: -4 } })
    expect(scene.revision).toBe(3)
    expect(JSON.stringify(server.document.shots.s1)).toBe(JSON.stringify(scene.doc.shots.s1))
  })

  it('undoes and redoes, and a new edit ends what could be redone', async () => {
    const before = JSON.stringify(core.document())
    scene.run('shotTrim', { id: 's2', edge: 'out', by: -8, ripple: true })
    const after = JSON.stringify(core.document())
    scene.undo()
    expect(JSON.stringify(core.document())).toBe(before)
    expect(scene.doc.shots.s3!.screenIn).toBe(96)
    scene.redo()
    expect(JSON.stringify(core.document())).toBe(after)
    scene.undo()
    scene.run('markerAdd', { clock: 'story', frame: 1 })
    expect(scene.redoable).toHaveLength(0)
    scene.redo() // nothing happens
    await scene.flushed()
    expect(server.posts.map((p) => p.kind)).toEqual(['do', 'undo', 'redo', 'undo', 'do'])
  })

  it('takes its undo from the history when it is opened again', async () => {
    scene.run('shotTrim', { id: 's1', edge: 'out', by: -4 })
    scene.run('shotTrim', { id: 's1', edge: 'out', by: -4 })
    scene.undo()
    await scene.flushed()
    await scene.load('scene')
    expect(scene.undoable.map((e) => e.label)).toEqual(['trim out of shot 010 by -4f'])
    expect(scene.redoable).toHaveLength(1)
    scene.undo()
    expect(scene.doc.shots.s1!.screenOut).toBe(48)
    await scene.flushed()
    expect(server.document.shots.s1!.screenOut).toBe(48)
  })

  it('fetches the patch of an old edit when it is undone or redone', async () => {
    scene.run('shotTrim', { id: 's1', edge: 'out', by: -4 })
    scene.run('shotTrim', { id: 's1', edge: 'out', by: -6 })
    await scene.flushed()
    server.lean = true
    await scene.load('scene')
    const out = () => scene.doc.shots.s1!.screenOut
    scene.undo()
    scene.undo() // while the first is being fetched
    expect(out()).toBe(38)
    await vi.waitFor(() => expect(out()).toBe(48))
    scene.redo()
    expect(out(), 'what was fetched is known').toBe(44)
    await scene.flushed()
    expect(server.document.shots.s1!.screenOut).toBe(44)
    server.edits = []
    await scene.load('scene')
    expect(scene.undoable).toHaveLength(0)
  })

  it('says so when the patch of an old edit cannot be had, and undoes nothing', async () => {
    scene.run('shotTrim', { id: 's1', edge: 'out', by: -4 })
    await scene.flushed()
    server.lean = true
    await scene.load('scene')
    server.edits = []
    scene.undo()
    await vi.waitFor(() => expect(messages().join()).toContain('The edit cannot be found.'))
    expect(scene.doc.shots.s1!.screenOut).toBe(44)
    expect(scene.undoable).toHaveLength(1)
  })

  it('posts nothing of a drag but its end', async () => {
    for (const to of [200, 210, 220]) scene.preview('shotMove', { ids: ['s3'], by: to - 96 })
    expect(scene.doc.shots.s3!.screenIn).toBe(220)
    scene.cancel()
    expect(scene.doc.shots.s3!.screenIn).toBe(96)
    scene.preview('shotMove', { ids: ['s3'], by: 134 })
    scene.run('shotMove', { ids: ['s3'], by: 144 })
    await scene.flushed()
    expect(server.posts).toHaveLength(1)
    expect(scene.doc.shots.s3!.screenIn).toBe(240)
  })

  it('shows why an operation is refused, and saves nothing', async () => {
    expect(scene.run('cutTo', { assembly: 'cut', at: 0, camera: 'a' })).toBe(false)
    await vi.waitFor(() => expect(messages().join()).toContain('Camera 1 is on air here already.'))
    expect(server.posts).toHaveLength(0)
    expect(scene.undoable).toHaveLength(0)
  })

  it('does again what does not fit any more, by its rule, and stays where it is', async () => {
    server.elsewhere('shots', 's2', (s) => (s.name = 'theirs'))
    scene.run('shotTrim', { id: 's2', edge: 'out', by: -1 })
    await scene.flushed()
    expect(scene.revision).toBe(2)
    expect(scene.doc.shots.s2).toMatchObject({ name: 'theirs', screenOut: 95 })
    expect(server.document.shots.s2).toMatchObject({ name: 'theirs', screenOut: 95 })
    expect(server.asked, 'refused once').toBe(2)
    expect(scene.loaded).toBe(true)
    expect(messages()).toHaveLength(0)
    scene.undo()
    await scene.flushed()
    expect(server.document.shots.s2).toMatchObject({ name: 'theirs', screenOut: 96 })
  })

  it('names what could not be kept, and keeps what comes after it', async () => {
    server.elsewhere('shots', 's2', (s) => (s.locked = true))
    scene.run('shotTrim', { id: 's2', edge: 'out', by: -1 })
    scene.run('markerAdd', { clock: 'story', frame: 1 })
    await scene.flushed()
    expect(scene.lost.map((l) => l.edit.label)).toEqual(['trim out of shot 020 by -1f'])
    expect(scene.lost[0]!.why).toContain('locked')
    expect(messages().join()).toContain('could not be kept')
    expect(scene.doc.shots.s2!.screenOut).toBe(96)
    expect(Object.keys(server.document.markers)).toHaveLength(1)
    expect(scene.undoable.map((e) => e.label)).toEqual([server.posts[0]!.label])
    // It is still there when the scene is opened again, can be tried again, and let go.
    await scene.load('scene')
    expect(scene.lost).toHaveLength(1)
    server.elsewhere('shots', 's2', (s) => delete s.locked, true)
    await vi.advanceTimersByTimeAsync(20)
    scene.retry(scene.lost[0]!)
    expect(scene.doc.shots.s2!.screenOut).toBe(95)
    expect(scene.lost).toHaveLength(0)
  })

  it('sends an edit again whose answer was lost, and has it once', async () => {
    server.deaf = true
    scene.run('shotTrim', { id: 's1', edge: 'out', by: -4 })
    scene.run('shotTrim', { id: 's1', edge: 'out', by: -4 })
    scene.run('shotTrim', { id: 's1', edge: 'out', by: -4 })
    await vi.waitFor(() => expect(scene.saved).toBe('waiting'))
    expect(scene.waiting).toBe(3)
    await vi.advanceTimersByTimeAsync(2500)
    await scene.flushed()
    expect(server.edits.map((e) => e.revision)).toEqual([1, 2, 3])
    expect(server.asked).toBe(4)
    expect(server.document.shots.s1!.screenOut).toBe(36)
    expect(scene.lost).toHaveLength(0)
  })

  it('keeps edits while the server is away and saves them afterwards', async () => {
    server.away = true
    scene.run('shotTrim', { id: 's1', edge: 'out', by: -4 })
    scene.run('shotTrim', { id: 's1', edge: 'out', by: -4 })
    await vi.waitFor(() => expect(scene.saved).toBe('waiting'))
    expect(scene.doc.shots.s1!.screenOut).toBe(40)
    server.away = false
    await vi.advanceTimersByTimeAsync(2500)
    await scene.flushed()
    expect(server.posts).toHaveLength(2)
    expect(server.document.shots.s1!.screenOut).toBe(40)
  })

  it('keeps what waits when the tab ends, and lays it on what others have done meanwhile', async () => {
    server.away = true
    scene.run('shotTrim', { id: 's1', edge: 'out', by: -4 })
    scene.run('shotSet', { ids: ['s3'], change: { name: 'mine' } })
    await vi.waitFor(() => expect(scene.saved).toBe('waiting'))
    await vi.advanceTimersByTimeAsync(100)
    server.away = false
    server.elsewhere('shots', 's1', (s) => (s.name = 'theirs'))
    setActivePinia(createPinia()) // the page is loaded again: nothing is left in memory
    scene = useScene()
    await scene.load('scene')
    expect(scene.doc.shots.s1).toMatchObject({ name: 'theirs', screenOut: 44 })
    await scene.flushed()
    expect(server.document.shots.s1).toMatchObject({ name: 'theirs', screenOut: 44 })
    expect(server.document.shots.s3!.name).toBe('mine')
    expect(server.posts).toHaveLength(2)
    expect(scene.undoable).toHaveLength(2)
  })

  it('tries again when the server fails, but not when it refuses', async () => {
    server.refuse = { status: 500, title: 'broken' }
    scene.run('markerAdd', { clock: 'story', frame: 1 })
    await vi.waitFor(() => expect(scene.saved).toBe('waiting'))
    await vi.advanceTimersByTimeAsync(2500)
    await scene.flushed()
    expect(server.posts).toHaveLength(1)
    server.refuse = { status: 422, title: 'this was not done' }
    scene.run('markerAdd', { clock: 'story', frame: 2 })
    scene.run('markerAdd', { clock: 'story', frame: 3 })
    await vi.waitFor(() => expect(messages().join()).toContain('this was not done'))
    await scene.flushed()
    expect(Object.values(scene.doc.markers).map((m) => m.frame)).toEqual([1, 3])
    expect(Object.values(server.document.markers).map((m) => m.frame)).toEqual([1, 3])
  })

  it('refuses a text that cannot be kept, and goes on saving', async () => {
    expect(scene.run('set', { collection: 'nodes', id: 'box', merge: { name: 'a\u0000b' }, label: 'x' })).toBe(false)
    expect(scene.run('set', { collection: 'nodes', id: 'box', merge: { name: 'a\ud800' }, label: 'x' })).toBe(false)
    expect(messages().join()).toContain('NUL')
    expect(scene.doc.nodes.box!.name).toBe('Box')
    scene.run('markerAdd', { clock: 'story', frame: 1 })
    await scene.flushed()
    expect(server.posts).toHaveLength(1)
  })

  it('takes in what others do in place, also while something is dragged here', async () => {
    scene.preview('shotMove', { ids: ['s3'], by: 10 })
    server.elsewhere('shots', 's1', (s) => (s.name = 'theirs'), true)
    await vi.advanceTimersByTimeAsync(20)
    expect(scene.doc.shots.s1!.name).toBe('theirs')
    expect(scene.doc.shots.s3!.screenIn, 'the drag goes on').toBe(106)
    expect(scene.revision).toBe(1)
    expect(messages()).toHaveLength(0)
    scene.cancel()
    expect(scene.doc.shots.s3!.screenIn).toBe(96)
    // Its own edit is told too, and is no news.
    scene.run('markerAdd', { clock: 'story', frame: 1 })
    await scene.flushed()
    const { changes } = scene
    server.socket().say({ kind: 'edit', revision: 2, edits: [server.edits[1]!] })
    await vi.advanceTimersByTimeAsync(20)
    expect(scene.changes).toBe(changes)
    expect(scene.revision).toBe(2)
  })

  it('asks for what it has missed: of an event that was dropped, and after the line broke', async () => {
    server.elsewhere('shots', 's1', (s) => (s.name = 'missed'))
    server.elsewhere('shots', 's2', (s) => (s.name = 'heard'), true)
    await vi.waitFor(() => expect(scene.doc.shots.s1!.name).toBe('missed'))
    expect(scene.doc.shots.s2!.name).toBe('heard')
    const first = server.socket()
    first.onclose?.()
    server.elsewhere('shots', 's3', (s) => (s.name = 'while away'))
    await vi.advanceTimersByTimeAsync(2500)
    expect(server.socket()).not.toBe(first)
    server.socket().say({ kind: 'hello', revision: 3, people: [] })
    await vi.waitFor(() => expect(scene.doc.shots.s3!.name).toBe('while away'))
  })

  it('undoes its own edits only, as far as others have not built on them', async () => {
    scene.run('shotSet', { ids: ['s1'], change: { name: 'mine', notes: 'kept' } })
    await scene.flushed()
    server.elsewhere('shots', 's1', (s) => (s.name = 'theirs'), true)
    await vi.advanceTimersByTimeAsync(20)
    expect(scene.undoable).toHaveLength(1)
    scene.undo()
    expect(scene.doc.shots.s1!.name, 'theirs').toBe('theirs')
    expect(scene.doc.shots.s1!.notes).toBeUndefined()
    expect(messages().join()).toContain('as far as others have not built on it')
    await scene.flushed()
    expect(server.document.shots.s1!.name).toBe('theirs')
    expect(scene.undoable).toHaveLength(0)
  })

  it('reads the scene anew when the server has been set back, and keeps its own edits', async () => {
    scene.run('markerAdd', { clock: 'story', frame: 1 })
    await scene.flushed()
    const back = new FakeServer()
    Object.assign(server, { document: back.document, revision: 0, edits: [], posts: [] })
    server.away = true
    scene.run('markerAdd', { clock: 'story', frame: 2 })
    await vi.waitFor(() => expect(scene.saved).toBe('waiting'))
    server.away = false
    server.socket().say({ kind: 'now', revision: 0 })
    await vi.advanceTimersByTimeAsync(2500)
    await scene.flushed()
    expect(Object.values(server.document.markers).map((m) => m.frame)).toEqual([2])
    expect(Object.values(scene.doc.markers).map((m) => m.frame)).toEqual([2])
  })

  it('sends nothing of one scene to another, and loses nothing when it is left', async () => {
    server.other = new FakeServer()
    server.other.document.settings.title = 'Other'
    server.refuse = { status: 503, title: 'not now' }
    scene.run('shotTrim', { id: 's1', edge: 'out', by: -4 })
    scene.run('shotTrim', { id: 's1', edge: 'out', by: -4 })
    await vi.waitFor(() => expect(scene.saved).toBe('waiting'))
    await scene.load('other')
    expect(scene.doc.settings.title).toBe('Other')
    expect([scene.waiting, scene.undoable.length, scene.saved]).toEqual([0, 0, 'saved'])
    scene.run('markerAdd', { clock: 'story', frame: 1 })
    await scene.flushed()
    // What the first one waited for is sent to it, whatever is open now.
    await vi.waitFor(() => expect(server.posts).toHaveLength(2))
    expect(server.document.shots.s1!.screenOut).toBe(40)
    expect(server.other.posts.map((p) => p.operation)).toEqual(['markerAdd'])
    await scene.load('scene')
    expect(scene.doc.shots.s1!.screenOut).toBe(40)
    expect(scene.undoable).toHaveLength(2)
  })

  it('shows a state of the history, changes nothing in it, and restores it as an edit', async () => {
    const first = structuredClone(server.document)
    scene.run('shotRemove', { ids: ['s2'], close: true })
    await scene.flushed()
    scene.look('edit 0', first)
    expect(scene.doc.shots.s2).toBeDefined()
    expect(scene.cutLength).toBe(144)
    expect(scene.run('markerAdd', { clock: 'story', frame: 1 })).toBe(false)
    expect(messages().join()).toContain('a state of the history')
    server.elsewhere('shots', 's1', (s) => (s.name = 'meanwhile'), true)
    await vi.advanceTimersByTimeAsync(20)
    expect(scene.doc.shots.s1!.name, 'the past does not change').toBeUndefined()
    scene.lookBack()
    expect(scene.doc.shots.s1!.name).toBe('meanwhile')
    expect(scene.doc.shots.s2).toBeUndefined()
    scene.restore(first, 'restore edit 0')
    expect(scene.doc.shots.s2).toBeDefined()
    await scene.flushed()
    expect(server.edits.at(-1)).toMatchObject({ kind: 'restore', label: 'restore edit 0' })
    expect(server.document.shots.s1!.name).toBeUndefined()
    scene.undo()
    expect(scene.doc.shots.s2).toBeUndefined()
    expect(scene.doc.shots.s1!.name).toBe('meanwhile')
  })

  it('shows what others drag, and does not grab it', () => {
    const drag = { operation: 'place', arguments: { id: 'box', frame: 0, position: [5, 0, 0] } }
    scene.guest('mara', drag)
    expect(scene.doc.nodes.box!.position).toEqual([5, 0, 0])
    expect(scene.preview('place', { id: 'box', frame: 0, position: [1, 0, 0] })).toBe(false)
    expect(scene.doc.nodes.box!.position).toEqual([5, 0, 0])
    expect(scene.preview('place', { id: 'a', frame: 0, position: [1, 0, 0] })).toBe(true)
    scene.guest('mara', null)
    expect(scene.doc.nodes.box!.position).toEqual([0, 0, -10])
    expect(scene.doc.nodes.a!.position).toEqual([1, 0, 0])
    scene.cancel()
  })
})

describe('sentences', () => {
  it.each([
    ['the shot is gone', 'The shot is gone.'],
    ['Why?', 'Why?'],
  ])('%s', (a, b) => expect(sentence(a)).toBe(b))
})
