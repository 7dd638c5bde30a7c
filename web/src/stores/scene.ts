// The open scene: the document as the core has it, running and undoing
// operations, and saving them to the server one after the other.
import { useLocalStorage } from '@vueuse/core'
import { ElMessage } from 'element-plus'
import { defineStore } from 'pinia'
import { computed, ref, shallowReactive, shallowRef, triggerRef } from 'vue'
import { api, ask, RequestFailed, type SceneEvent } from '@/api/client'
import {
  core,
  loadCore,
  type CollectionName,
  type Cut,
  type Document,
  type EntityNow,
  type HistoryEntry,
  type Outcome,
  type Patch,
  type Previewed,
  type Shot,
} from '@/core/bridge'

export type SaveState = 'saved' | 'saving' | 'waiting'

interface Pending {
  kind: HistoryEntry['kind']
  label: string
  patch: Patch
}

const retryAfter = 2000
/** The colour of a shot: that of its camera, grey when something else stands for one. */
export const shotColor = (colors: Record<string, string>, s: Shot | undefined) =>
  (s && !s.plays && colors[s.camera]) || '#8a979b'
/** Collections that say what is cut, not what is seen. */
const cutOnly = new Set(['shots', 'lanes', 'assemblies', 'markers', 'boards', 'cards', 'footage', 'tracks', 'sounds'])
/** Collections whose changes can change what plays when. */
const cutting = new Set(['shots', 'lanes', 'assemblies', 'markers', 'settings', 'boards', 'footage'])
const noCut = (): Cut => ({ version: -1, shots: [], assembly: '', lane: '', spares: [] })

export const useScene = defineStore('scene', () => {
  const id = ref('')
  const revision = ref(0)
  const loaded = ref(false)
  const failure = ref('')
  const saved = ref<SaveState>('saved')
  const undoable = shallowRef<HistoryEntry[]>([])
  const redoable = shallowRef<HistoryEntry[]>([])
  const cut = shallowRef<Cut>(noCut())
  /** The frame after the last shot, which changes much more often than the order. */
  const cutLength = ref(0)
  /** Counts changes of the document, for what is drawn from it. */
  const changes = ref(0)
  /** Counts those changes that pictures can show: all but those of the cut. */
  const pictured = ref(0)
  /** A drag may move thousands of shots: they tell together that they have changed. */
  const shots = shallowRef<Record<string, Shot>>({})
  const doc = shallowReactive<Document>(Object.defineProperty(empty(), 'shots', { get: () => shots.value }))
  /** The assembly that was worked on last, by scene. */
  const chosen = useLocalStorage<Record<string, string>>('proscen.assembly', {})
  const listeners = new Set<(e: SceneEvent) => void>()

  let queue: Pending[] = []
  let posting = false
  let socket: WebSocket | undefined

  const cameras = computed(() =>
    Object.entries(doc.nodes)
      .filter(([, n]) => n.camera)
      .map(([key, n]) => ({ id: key, node: n, camera: n.camera! }))
      .sort((a, b) => a.camera.number - b.camera.number),
  )
  /** The colours of cameras by their ids. */
  const colors = computed(() => Object.fromEntries(cameras.value.map((c) => [c.id, c.camera.color])))
  /** The cameras of the wall, as they are ordered there. */
  const wall = computed(() =>
    cameras.value
      .filter((c) => !c.camera.archived)
      .sort((a, b) => (a.camera.order || 1e6) - (b.camera.order || 1e6) || a.camera.number - b.camera.number),
  )
  const format = computed(() => doc.formats[doc.settings.format])
  const rate = computed(() => {
    const [n, d] = doc.settings.rate.split('/').map(Number)
    return (n ?? 24) / (d ?? 1)
  })

  function take(d: Document) {
    doc.schema = d.schema
    doc.settings = d.settings
    shots.value = { ...d.shots }
    for (const name of collections)
      if (name !== 'shots') (doc as unknown as Record<string, unknown>)[name] = shallowReactive({ ...d[name] })
  }

  /** Takes over the order of shots, if it has changed, and the length. */
  function recut() {
    const now = core.cut(cut.value.version)
    if ('shots' in now) cut.value = now
    cutLength.value = now.length
  }
  function absorb(changed: EntityNow[], moved: string[] = [], frames: number[] = []) {
    let cutTouched = moved.length > 0
    const now = shots.value
    moved.forEach((shot, i) => {
      now[shot] = { ...now[shot]!, screenIn: frames[2 * i]!, screenOut: frames[2 * i + 1]! }
    })
    for (const e of changed) {
      cutTouched ||= cutting.has(e.collection)
      if (e.collection === 'settings') {
        doc.settings = e.value as Document['settings']
        continue
      }
      const c = doc[e.collection] as Record<string, unknown>
      if (e.value === null || e.value === undefined) delete c[e.id]
      else c[e.id] = e.value
    }
    if (moved.length || changed.some((e) => e.collection === 'shots')) triggerRef(shots)
    if (cutTouched) recut()
    if (changed.length || moved.length) changes.value++
    if (changed.some((e) => !cutOnly.has(e.collection))) pictured.value++
    if (changed.some((e) => e.collection === 'nodes' || e.collection === 'models')) void fetchModels()
  }

  const fetching = new Set<string>()
  /** Fetches the imported models that the scene uses and the core does not have yet. */
  async function fetchModels() {
    for (const blob of core.missing()) {
      if (fetching.has(blob)) continue
      fetching.add(blob)
      try {
        const r = await fetch(`/api/models/${blob}`)
        if (!r.ok) throw new Error('an imported model is not on the server any more; a box stands for it')
        const bytes = new Uint8Array(await r.arrayBuffer())
        const o = core.provide(blob, bytes)
        if (o.error) throw new Error(o.error)
        changes.value++
        pictured.value++
      } catch (e) {
        ElMessage({ message: sentence((e as Error).message), type: 'warning', grouping: true, showClose: true })
      }
    }
  }

  async function load(sceneID: string) {
    loaded.value = false
    failure.value = ''
    try {
      await loadCore()
      const [scene, edits] = await Promise.all([
        ask(api.GET('/scenes/{scene}', { params: { path: { scene: sceneID } } })),
        ask(api.GET('/scenes/{scene}/edits', { params: { path: { scene: sceneID }, query: { limit: 300 } } })),
      ])
      const opened = core.open(scene.document)
      if (opened.error) throw new Error(opened.error)
      const last = chosen.value[sceneID]
      if (last && (scene.document as Document).assemblies[last]) core.choose(last)
      id.value = sceneID
      revision.value = scene.revision
      queue = []
      take(scene.document as Document)
      cut.value = noCut()
      recut()
      const stacks = core.stacks(edits.reverse() as HistoryEntry[])
      undoable.value = stacks.undo
      redoable.value = stacks.redo
      saved.value = 'saved'
      changes.value++
      pictured.value++
      loaded.value = true
      fetching.clear()
      void fetchModels()
      listen()
      whenIdle(() => warm(sceneID, 20))
    } catch (e) {
      failure.value = (e as Error).message
    }
  }

  /** Code is compiled well only after it has run some times: it does so before it is needed. */
  function warm(sceneID: string, times: number) {
    if (!times || id.value !== sceneID) return
    core.warm()
    whenIdle(() => warm(sceneID, times - 1))
  }

  function listen() {
    socket?.close()
    const at = id.value
    const url = new URL(`/api/scenes/${at}/events`, location.href)
    url.protocol = url.protocol.replace('http', 'ws')
    const s = new WebSocket(url)
    socket = s
    s.onmessage = (m) => {
      const e = JSON.parse(m.data as string) as SceneEvent
      if (e.kind === 'edit' && e.revision && e.revision > revision.value && !posting && queue.length === 0) {
        ElMessage({ message: 'The scene was changed elsewhere and has been loaded again.', type: 'info' })
        void load(at)
      }
      for (const l of listeners) l(e)
    }
    s.onclose = () => {
      if (socket === s && id.value === at) setTimeout(() => socket === s && listen(), retryAfter)
    }
  }

  function onEvent(l: (e: SceneEvent) => void): () => void {
    listeners.add(l)
    return () => listeners.delete(l)
  }

  function save(p: Pending) {
    queue.push(p)
    if (!posting) void post()
  }

  async function post() {
    posting = true
    saved.value = 'saving'
    while (queue.length) {
      const next = queue[0]!
      try {
        const e = await ask(
          api.POST('/scenes/{scene}/edits', {
            params: { path: { scene: id.value } },
            body: { base: revision.value, ...next },
          }),
        )
        revision.value = e.revision
        queue.shift()
        saved.value = 'saving'
      } catch (e) {
        const failed = e as RequestFailed
        if (failed.status === 0 || failed.status >= 500) {
          saved.value = 'waiting'
          await new Promise((r) => setTimeout(r, retryAfter))
          continue
        }
        queue = []
        posting = false
        ElMessage({ message: failed.message, type: 'warning', duration: 6000, showClose: true })
        await load(id.value)
        return
      }
    }
    posting = false
    saved.value = 'saved'
  }

  function settle(o: Outcome | Previewed, quietly = false): boolean {
    if ('moved' in o) absorb(o.changed ?? [], o.moved, o.frames)
    else absorb(o.changed ?? [])
    if (o.error && !quietly) ElMessage({ message: sentence(o.error), type: 'warning', grouping: true, showClose: true })
    return !o.error
  }

  /** A shot of the cut: of the document, or what stands for a cue. */
  const shotOf = (shot: string): Shot | undefined =>
    doc.shots[shot] ?? (shot.startsWith('cue.') ? cut.value.shots.find((s) => s.id === shot)?.cue : undefined)
  const colorOf = (s: Shot | undefined) => shotColor(colors.value, s)
  /** Selects the assembly that is edited and played. */
  function choose(assembly: string) {
    const o = core.choose(assembly)
    if (o.error) return
    chosen.value = { ...chosen.value, [id.value]: assembly }
    recut()
    changes.value++
  }

  /** Performs an operation for good; false when it was refused. */
  function run(name: string, args: object): boolean {
    const o = core.run(name, args)
    if (!settle(o)) return false
    if (!o.patch?.length) return true
    const entry = { kind: 'do' as const, label: o.label ?? name, patch: o.patch }
    undoable.value = [...undoable.value, entry]
    redoable.value = []
    save(entry)
    return true
  }
  /** Performs an operation and returns the ids of what it made, none when it was refused. */
  function make(collection: Exclude<CollectionName, 'settings'>, name: string, args: object): string[] {
    const before = new Set(Object.keys(doc[collection]))
    return run(name, args) ? Object.keys(doc[collection]).filter((id) => !before.has(id)) : []
  }
  /** Performs an operation for as long as a drag lasts. */
  const preview = (name: string, args: object) => settle(core.preview(name, args), true)
  const cancel = () => settle(core.cancel(), true)

  /** Fetches the patch of an old edit; false when it cannot be had. */
  async function fetchPatch(e: HistoryEntry): Promise<boolean> {
    try {
      const found = await ask(
        api.GET('/scenes/{scene}/edits/{revision}', { params: { path: { scene: id.value, revision: e.revision! } } }),
      )
      e.patch = found.patch as Patch
    } catch (failed) {
      ElMessage({ message: sentence((failed as Error).message), type: 'warning', grouping: true, showClose: true })
    }
    return !!e.patch
  }
  let fetchingPatch: Promise<void> | undefined
  /** Undoes or redoes the next edit. What is pressed while its patch is fetched waits for that. */
  function turn(kind: 'undo' | 'redo') {
    if (fetchingPatch) return void fetchingPatch.then(() => turn(kind))
    const [from, to] = kind === 'undo' ? [undoable, redoable] : [redoable, undoable]
    const e = from.value.at(-1)
    if (!e) return
    if (!e.patch) {
      fetchingPatch = fetchPatch(e).then((found) => {
        fetchingPatch = undefined
        if (found && from.value.at(-1) === e) turn(kind)
      })
      return
    }
    const o = kind === 'undo' ? core.revert(e.patch) : core.apply(e.patch)
    if (!settle(o)) return
    from.value = from.value.slice(0, -1)
    to.value = [...to.value, e]
    save({ kind, label: `${kind} ${e.label}`, patch: o.patch! })
  }
  const undo = () => turn('undo')
  const redo = () => turn('redo')
  /** Resolves when everything is saved. */
  async function flushed() {
    while (saved.value !== 'saved') await new Promise((r) => setTimeout(r, 50))
  }

  return {
    id,
    revision,
    loaded,
    failure,
    saved,
    undoable,
    redoable,
    cut,
    cutLength,
    changes,
    pictured,
    doc,
    cameras,
    wall,
    format,
    rate,
    load,
    shotOf,
    colors,
    colorOf,
    choose,
    run,
    make,
    preview,
    cancel,
    undo,
    redo,
    flushed,
    onEvent,
  }
})

const collections: Exclude<CollectionName, 'settings'>[] = [
  'nodes',
  'paths',
  'curves',
  'actions',
  'assemblies',
  'lanes',
  'shots',
  'markers',
  'lines',
  'formats',
  'models',
  'kits',
  'boards',
  'cards',
  'footage',
  'tracks',
  'sounds',
]

function empty(): Document {
  return {
    schema: '',
    settings: { rate: '24', format: '', story: { in: 0, out: 1 } } as Document['settings'],
    nodes: {},
    paths: {},
    curves: {},
    actions: {},
    assemblies: {},
    lanes: {},
    shots: {},
    markers: {},
    lines: {},
    formats: {},
    models: {},
    kits: {},
    boards: {},
    cards: {},
    footage: {},
    tracks: {},
    sounds: {},
  }
}

/** Runs something as soon as the browser has nothing else to do. */
const whenIdle = (run: () => void) =>
  'requestIdleCallback' in window ? requestIdleCallback(run) : setTimeout(run, 200)

/** Begins with a capital and ends with a full stop. */
export function sentence(s: string): string {
  return s.charAt(0).toUpperCase() + s.slice(1) + (/[.!?]$/.test(s) ? '' : '.')
}
