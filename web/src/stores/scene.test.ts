import { createPinia, setActivePinia } from 'pinia'
import { ElMessage } from 'element-plus'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { core } from '@/core/bridge'
import { FakeServer } from '@/testing/server'
import { sentence, useScene } from './scene'

let server: FakeServer
let scene: ReturnType<typeof useScene>

beforeEach(async () => {
  vi.useFakeTimers({ shouldAdvanceTime: true })
  setActivePinia(createPinia())
  server = new FakeServer()
  server.install()
  scene = useScene()
  await scene.load('scene')
})
afterEach(() => {
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

  it('says so when it cannot be loaded', async () => {
    await scene.load('gone')
    expect(scene.loaded).toBe(false)
    expect(scene.failure).toContain('cannot be found')
  })

  it('saves edits one after the other, each from the revision before it', async () => {
    scene.run('shotTrim', { id: 's1', edge: 'out', by: -4 })
    scene.run('shotTrim', { id: 's1', edge: 'out', by: -4 })
    scene.run('markerAdd', { clock: 'screen', assembly: 'cut', frame: 10 })
    expect(scene.saved).toBe('saving')
    expect(scene.doc.shots.s1!.screenOut).toBe(40)
    await scene.flushed()
    expect(server.posts.map((p) => p.base)).toEqual([0, 1, 2])
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

  it('recovers from a stale edit by loading again', async () => {
    server.elsewhere((d) => (d.shots.s1!.name = 'theirs'))
    scene.run('shotTrim', { id: 's2', edge: 'out', by: -1 })
    await vi.waitFor(() => expect(scene.revision).toBe(1))
    expect(scene.doc.shots.s1!.name).toBe('theirs')
    expect(scene.doc.shots.s2!.screenOut).toBe(96)
    expect(messages().join()).toContain('gone on')
    scene.run('shotTrim', { id: 's2', edge: 'out', by: -1 })
    await scene.flushed()
    expect(server.document.shots.s2!.screenOut).toBe(95)
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

  it('tries again when the server fails, but not when it refuses', async () => {
    server.refuse = { status: 500, title: 'broken' }
    scene.run('markerAdd', { clock: 'story', frame: 1 })
    await vi.waitFor(() => expect(scene.saved).toBe('waiting'))
    await vi.advanceTimersByTimeAsync(2500)
    await scene.flushed()
    expect(server.posts).toHaveLength(1)
    server.refuse = { status: 422, title: 'this was not done' }
    scene.run('markerAdd', { clock: 'story', frame: 2 })
    await vi.waitFor(() => expect(messages().join()).toContain('this was not done'))
    await vi.waitFor(() => expect(Object.keys(scene.doc.markers)).toHaveLength(1))
  })

  it('loads again when it hears of an edit from elsewhere, not of its own', async () => {
    scene.run('markerAdd', { clock: 'story', frame: 1 })
    await scene.flushed()
    const changes = scene.changes
    server.socket().say({ kind: 'edit', revision: 1 })
    expect(scene.changes).toBe(changes)
    server.elsewhere((d) => (d.shots.s1!.name = 'theirs'))
    server.socket().say({ kind: 'edit', revision: 2 })
    await vi.waitFor(() => expect(scene.doc.shots.s1!.name).toBe('theirs'))
  })

  it('connects again after the line broke', async () => {
    const first = server.socket()
    first.onclose?.()
    await vi.advanceTimersByTimeAsync(2500)
    expect(server.socket()).not.toBe(first)
  })
})

describe('sentences', () => {
  it.each([
    ['the shot is gone', 'The shot is gone.'],
    ['Why?', 'Why?'],
  ])('%s', (a, b) => expect(sentence(a)).toBe(b))
})
