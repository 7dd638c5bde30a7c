// The open scene: the document as the core has it, and running and undoing
// operations on it. Keeping it together with the server is the business of Sync.
import { useLocalStorage } from '@vueuse/core'
import { ElButton, ElMessage } from 'element-plus'
import { defineStore } from 'pinia'
import { computed, h, ref, shallowReactive, shallowRef, triggerRef } from 'vue'
import { api, ask, type SceneEvent } from '@/api/client'
import {
  core,
  loadCore,
  type CollectionName,
  type Cut,
  type Document,
  type EntityNow,
  type Lost,
  type OperationName,
  type Operations,
  type Outcome,
  type Patch,
  type Previewed,
  type Shot,
  type Step,
  type Synced,
  layerParts,
} from '@/core/bridge'
import { asideIn, dropAside, sendLeft, setAside } from './keeping'
import { perSecond } from '@/ui/rates'
import { sentence } from '@/ui/sentence'
import { usePerson } from './person'
import { Sync } from './sync'

export type SaveState = 'saved' | 'saving' | 'waiting'

/** The colour of a shot: that of its camera, grey when something else stands for one. */
export const shotColor = (colors: Record<string, string>, s: Shot | undefined) =>
  (s && !s.plays && colors[s.camera]) || '#8a979b'
/** Collections that say what is cut, not what is seen. */
const cutOnly = new Set([
  'alternates',
  'differences',
  'shots',
  'lanes',
  'assemblies',
  'markers',
  'boards',
  'cards',
  'footage',
  'tracks',
  'sounds',
])
/** Collections whose changes can change what plays when. */
const cutting = new Set(['shots', 'lanes', 'assemblies', 'markers', 'settings', 'boards', 'footage'])
/** Collections besides those of the cut whose changes can be heard. */
const audibly = new Set(['sounds', 'tracks'])
const noCut = (): Cut => ({ version: -1, shots: [], assembly: '', lane: '', spares: [] })

export const useScene = defineStore('scene', () => {
  const id = ref('')
  const revision = ref(0)
  const loaded = ref(false)
  const failure = ref('')
  /** How many edits the server has not confirmed. */
  const waiting = ref(0)
  /** What can be undone and redone, at most the last hundred; the last of each is the next. */
  const undoable = shallowRef<Step[]>([])
  const redoable = shallowRef<Step[]>([])
  /** Edits that could not be kept. */
  const lost = shallowRef<Lost[]>([])
  /** Whether what could not be kept is looked at. */
  const showLost = ref(false)
  /** The state of the history that is seen instead of the scene. */
  const past = shallowRef<{ title: string; document: Document } | null>(null)
  /** The layer that is worked in: an alternate, '' for the scene itself, behind an @ one shot of it. */
  const layer = ref('')
  /** The alternate that is worked in, '' for the scene itself. */
  const alternate = computed(() => layerParts(layer.value).alternate)
  /** The shot that alone is worked in, '' for all. */
  const onlyIn = computed(() => layerParts(layer.value).shot)
  const cut = shallowRef<Cut>(noCut())
  /** The frame after the last shot, which changes much more often than the order. */
  const cutLength = ref(0)
  /** Counts changes of the document, for what is drawn from it. */
  const changes = ref(0)
  /** Counts those changes that can be heard. */
  const audible = ref(0)
  /** Counts those changes that alternates and what differs in them can show. */
  const differed = ref(0)
  /** What is being dragged here, as the operation that shows it. */
  const dragging = shallowRef<{ operation: string; arguments: object; alternate?: string } | null>(null)
  /** Counts those changes that pictures can show: all but those of the cut. */
  const pictured = ref(0)
  /** A drag may move thousands of shots: they tell together that they have changed. */
  const shots = shallowRef<Record<string, Shot>>({})
  const doc = shallowReactive<Document>(Object.defineProperty(empty(), 'shots', { get: () => shots.value }))
  /** The assembly that was worked on last, by scene. */
  const chosen = useLocalStorage<Record<string, string>>('proscen.assembly', {})
  const listeners = new Set<(e: SceneEvent) => void>()

  const person = usePerson()
  const who = { tab: '', person: '', author: () => person.name }
  let sync: Sync | undefined
  let openings = 0

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
  /** Width to height of the frame that is composed for. */
  const aspect = computed(() => (format.value ? format.value.width / format.value.height : 16 / 9))
  const rate = computed(() => perSecond(doc.settings.rate))

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
    if (now.cut) cut.value = now.cut
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
    if (cutTouched || changed.some((e) => audibly.has(e.collection))) audible.value++
    if (changed.length || moved.length) changes.value++
    if (changed.some((e) => !cutOnly.has(e.collection))) pictured.value++
    if (changed.some((e) => e.collection === 'alternates' || e.collection === 'differences')) differed.value++
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

  /** Opens a scene. What another one was waiting for stays kept, and goes on being sent. */
  async function load(sceneID: string) {
    const left = leave()
    failure.value = ''
    id.value = sceneID
    const opening = ++openings
    try {
      await left // what the one before was waiting for is where it is found again
      await loadCore()
      who.tab = await person.takeTab()
      who.person = person.id
      if (opening !== openings) return
      const opened: Sync = new Sync(sceneID, who, {
        taken: (o, foreign) => sync === opened && taken(o, foreign),
        opened: (d, o) => sync === opened && show(d, o),
        waits: (waits) => sync === opened && (stuck.value = waits),
        keeps: (is) => sync === opened && (written.value = is),
        heard: (e) => {
          if (sync === opened) for (const l of listeners) l(e)
        },
      })
      sync = opened
      lost.value = await asideIn(sceneID)
      await opened.open()
      if (sync !== opened) return
      whenIdle(() => warm(sceneID, 20))
      void sendLeft(who.tab, sceneID)
    } catch (e) {
      if (opening !== openings) return
      failure.value = (e as Error).message
      sync?.end()
    }
  }
  /** Closes the scene: nothing of it goes on here, but what waits to be sent is kept. */
  function leave(): Promise<unknown> {
    openings++
    const left = sync
    sync = undefined
    left?.end()
    id.value = layer.value = ''
    loaded.value = false
    waiting.value = 0
    stuck.value = false
    written.value = true
    undoable.value = redoable.value = []
    lost.value = []
    past.value = dragging.value = null
    const all = left?.written() ?? Promise.resolve()
    if (left) void all.then(() => sendLeft(who.tab, id.value))
    return all
  }
  /** Shows a scene that has been read, for the first time or anew. */
  function show(d: Document, o: Outcome) {
    const first = !loaded.value
    past.value = null
    layer.value = ''
    const last = chosen.value[id.value]
    if (last && d.assemblies[last]) core.choose(last)
    take(d)
    cut.value = noCut()
    recut()
    stands(o.synced)
    fetching.clear()
    loaded.value = true
    changes.value++
    pictured.value++
    audible.value++
    differed.value++
    void fetchModels()
    if (!first) ElMessage({ message: 'The scene has gone on for long and was read anew.', type: 'info' })
  }

  /** Code is compiled well only after it has run some times: it does so before it is needed. */
  function warm(sceneID: string, times: number) {
    if (!times || id.value !== sceneID) return
    core.warm()
    whenIdle(() => warm(sceneID, times - 1))
  }

  function onEvent(l: (e: SceneEvent) => void): () => void {
    listeners.add(l)
    return () => listeners.delete(l)
  }

  const stuck = ref(false)
  const written = ref<boolean | undefined>(true) // whether what waits outlives the tab; undefined while it is being written
  const saved = computed<SaveState>(() => (!waiting.value ? 'saved' : stuck.value ? 'waiting' : 'saving'))
  /** Takes over how this copy stands to the server's. */
  function stands(s: Synced | undefined) {
    if (!s) return
    revision.value = s.revision
    waiting.value = s.waiting.length
    undoable.value = s.undo
    redoable.value = s.redo
    if (s.lost?.length) lose(s.lost)
    for (const id of s.found ?? []) dismiss(id)
  }
  /** Takes over what Sync has taken in. */
  function taken(o: Outcome, foreign: boolean) {
    stands(o.synced)
    left(o)
    if (past.value) return
    const assembly = cut.value.assembly
    absorb(o.changed ?? [])
    if (foreign && assembly && !doc.assemblies[assembly]) recut()
  }
  /** Works in another layer from now on; false when that cannot be. */
  function workIn(id: string): boolean {
    if (id === layer.value) return true
    cancel()
    const o = core.workIn(id)
    if (o.error !== undefined) {
      ElMessage({ message: sentence(o.error), type: 'warning', grouping: true, showClose: true })
      return false
    }
    layer.value = id
    turnTo(core.document())
    return true
  }
  /** The alternate that was worked in may be gone. */
  function left(o: Outcome) {
    if (!o.left) return
    layer.value = ''
    if (!past.value) turnTo(core.document())
    ElMessage({ message: o.left, type: 'info', showClose: true })
  }
  function lose(list: Lost[]) {
    lost.value = [...lost.value, ...list]
    void setAside(id.value, list)
    const [one] = list
    const words =
      list.length === 1
        ? `“${one!.edit.label}” could not be kept: ${one!.why}`
        : `${list.length} edits could not be kept, since others have changed the same`
    const look = () => (showLost.value = true)
    ElMessage({
      message: h('p', { class: 'el-message__content' }, [
        sentence(words),
        h(ElButton, { size: 'small', style: 'margin-left: 10px', onClick: look }, () => 'Show'),
      ]),
      type: 'warning',
      duration: 12_000,
      showClose: true,
    })
  }
  function dismiss(edit: string) {
    lost.value = lost.value.filter((l) => l.edit.id !== edit)
    void dropAside(edit)
  }
  /** Does an edit that could not be kept once more, as things are now. */
  function retry(l: Lost) {
    const { operation, arguments: args } = l.edit
    if (operation && run(operation as OperationName, args as Operations[OperationName])) dismiss(l.edit.id)
  }

  function settle(o: Outcome | Previewed, quietly = false): boolean {
    if ('moved' in o) absorb(o.changed ?? [], o.moved, o.frames)
    else absorb(o.changed ?? [])
    if ('synced' in o) {
      stands(o.synced)
      sync?.note(o)
      left(o)
    }
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
  function run<N extends OperationName>(name: N, args: Operations[N]): boolean {
    dragging.value = null
    if (heldBack === name) return false // it was said while dragging
    return settle(core.run(name, args))
  }
  /** Performs an operation and returns the ids of what it made, none when it was refused. */
  function make<N extends OperationName>(
    collection: Exclude<CollectionName, 'settings'>,
    name: N,
    args: Operations[N],
  ): string[] {
    const before = new Set(Object.keys(doc[collection]))
    return run(name, args) ? Object.keys(doc[collection]).filter((id) => !before.has(id)) : []
  }
  /** The operation of a drag that would grab what somebody else is dragging. */
  let heldBack = ''
  for (const begin of ['pointerdown', 'keydown']) addEventListener(begin, () => (heldBack = ''), true)
  /** Says who has a tab; people.ts knows. */
  let heldBy: (tab: string) => string = () => 'Somebody else'
  const naming = (who: (tab: string) => string) => (heldBy = who)
  /** Performs an operation for as long as a drag lasts. */
  function preview<N extends OperationName>(name: N, args: Operations[N]): boolean {
    if (past.value) return false
    const o = core.preview(name, args)
    if (o.held) {
      heldBack = name
      const who = heldBy(o.held)
      ElMessage({ message: `${who} is moving this. Wait until they let go.`, type: 'info', grouping: true })
    } else if (!o.error) heldBack = ''
    const where = layer.value ? { alternate: layer.value } : {}
    dragging.value = o.error ? null : { operation: name, arguments: args, ...where }
    return settle(o, true)
  }
  function cancel() {
    dragging.value = null
    return settle(core.cancel(), true)
  }
  /** Shows what another browser is dragging, null when it has let go. */
  function guest(tab: string, drag: { operation: string; arguments: unknown; alternate?: string } | null) {
    if (loaded.value) taken(core.guest(tab, drag), true)
  }

  /** Fetches the patch of an old edit; false when it cannot be had. */
  async function fetchPatch(e: Step): Promise<boolean> {
    const at = sync
    try {
      const path = { scene: id.value, revision: e.revision }
      const found = await ask(api.GET('/scenes/{scene}/edits/{revision}', { params: { path } }))
      if (at !== sync) return false
      const s = core.fetched(e.revision, found.patch as Patch)
      if (s.error) throw new Error(s.error)
      stands(s as Synced)
      return true
    } catch (failed) {
      ElMessage({ message: sentence((failed as Error).message), type: 'warning', grouping: true, showClose: true })
      return false
    }
  }
  let fetchingPatch: Promise<void> | undefined
  /** Undoes or redoes the next edit of this person. What is pressed while its patch is fetched waits for that. */
  function turn(kind: 'undo' | 'redo') {
    if (fetchingPatch) return void fetchingPatch.then(() => turn(kind))
    const e = (kind === 'undo' ? undoable : redoable).value.at(-1)
    if (!e) return
    if (e.missing) {
      fetchingPatch = fetchPatch(e).then((found) => {
        fetchingPatch = undefined
        if (found && (kind === 'undo' ? undoable : redoable).value.at(-1)?.id === e.id) turn(kind)
      })
      return
    }
    dragging.value = null
    const o = core.turn(kind)
    if (settle(o) && o.edit?.label.includes('others have not built'))
      ElMessage({ message: sentence(o.edit.label), type: 'info' })
  }
  const undo = () => turn('undo')
  const redo = () => turn('redo')

  /** Shows a state of the history instead of the scene. */
  function look(title: string, document: Document) {
    cancel()
    const o = core.look(document)
    if (o.error) return void ElMessage({ message: sentence(o.error), type: 'warning' })
    past.value = { title, document }
    turnTo(document)
  }
  function lookBack() {
    if (!past.value) return
    past.value = null
    core.back()
    turnTo(core.document())
  }
  function turnTo(d: Document) {
    take(d)
    cut.value = noCut()
    recut()
    changes.value++
    pictured.value++
    audible.value++
    differed.value++
    void fetchModels()
  }
  /** Makes the scene what a state of the history was, as an edit. */
  function restore(document: Document, label: string): boolean {
    if (past.value) {
      past.value = null
      core.back()
    }
    const o = core.restore(document, label)
    const done = settle(o)
    turnTo(core.document())
    return done
  }
  /** Whether what waits outlives this tab. */
  const kept = () => sync?.keeps ?? true
  /** Says something to the others who are here. */
  const say = (what: object) => sync?.say(what)
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
    written,
    waiting,
    undoable,
    redoable,
    lost,
    showLost,
    dismiss,
    retry,
    past,
    look,
    lookBack,
    restore,
    dragging,
    guest,
    naming,
    kept,
    say,
    layer,
    alternate,
    onlyIn,
    workIn,
    cut,
    cutLength,
    changes,
    pictured,
    audible,
    differed,
    doc,
    cameras,
    wall,
    format,
    aspect,
    rate,
    load,
    leave,
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
    fetchModels,
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
  'recipes',
  'alternates',
  'differences',
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
    recipes: {},
    alternates: {},
    differences: {},
  }
}

/** Runs something as soon as the browser has nothing else to do. */
const whenIdle = (run: () => void) =>
  typeof requestIdleCallback === 'function' ? requestIdleCallback(run) : setTimeout(run, 200)
