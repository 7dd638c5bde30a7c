// What the artist looks at: desk, selection, the camera looked through, modes.
import { defineStore } from 'pinia'
import { computed, reactive, ref, watch } from 'vue'
import type { CollectionName, Key, Vec3 } from '@/core/bridge'
import { useScene } from './scene'

export type Desk = 'dress' | 'frame' | 'splice' | 'turnover'
export const desks: { id: Desk; title: string; hint: string }[] = [
  { id: 'dress', title: 'Dress', hint: 'Build the set and block the action' },
  { id: 'frame', title: 'Frame', hint: 'Leave cameras, move and focus them' },
  { id: 'splice', title: 'Splice', hint: 'Cut between the cameras' },
  { id: 'turnover', title: 'Turnover', hint: 'Render every shot to video' },
]

/** The forms of a path that are drawn. */
export type Drawing = 'straight' | 'arc' | 'curve' | 'rise'

export interface Selection {
  collection: CollectionName
  id: string
}
/** The key pins that are selected: frames of one node's channels. */
export interface SelectedKeys {
  node: string
  rows: Record<string, number[]>
}
/** What a press on the lens view's picture does instead of selecting. */
export type Picking = 'follow' | 'pull'
/** How a drag over the lens view of an unlocked camera moves it. */
export const handlings = [
  { id: 'turn', key: '', title: 'turn: pan and tilt' },
  { id: 'pan', key: 'p', title: 'pan only' },
  { id: 'tilt', key: 't', title: 'tilt only' },
  { id: 'roll', key: 'r', title: 'roll' },
  { id: 'orbit', key: 'o', title: 'orbit around the subject' },
  { id: 'slide', key: 'Shift', title: 'truck and pedestal' },
  { id: 'truck', key: 'k', title: 'truck only' },
  { id: 'pedestal', key: 'h', title: 'pedestal only' },
  { id: 'dolly', key: 'd', title: 'dolly' },
  { id: 'zoom', key: 'z', title: 'zoom' },
] as const
export type Handling = (typeof handlings)[number]['id']

/** What can be grabbed in the views. */
export const grabKinds = [
  { id: 'all', title: 'anything', kinds: [] as string[] },
  { id: 'set', title: 'set', kinds: ['set'] },
  { id: 'prop', title: 'props', kinds: ['prop'] },
  { id: 'cast', title: 'cast', kinds: ['cast'] },
  { id: 'vehicle', title: 'vehicles', kinds: ['vehicle'] },
  { id: 'camera', title: 'cameras', kinds: ['camera'] },
  { id: 'light', title: 'lamps and aims', kinds: ['lamp', 'aim'] },
]

/** What is about to be placed. */
export interface Placing {
  kind: string
  stock?: string
  model?: string
  build?: string
  name: string
  /** Half its height, for what floats. */
  lift?: number
}

export const useView = defineStore('view', () => {
  const scene = useScene()
  const desk = ref<Desk>('dress')
  const selected = ref<Selection | null>(null)
  const keys = ref<SelectedKeys | null>(null)
  const through = ref('') // camera looked through, '' in scout
  const lastThrough = ref('') // the camera that was looked through last
  const autoKey = ref(false)
  const unlocked = ref('') // camera that may be moved from its lens view
  const drawing = ref<Drawing | null>(null)
  const guides = ref(true)
  const picking = ref<Picking | null>(null)
  const handling = ref<Handling>('turn')
  const movePath = ref(false) // moving a camera from its lens view moves its whole path
  const copied = ref<Record<string, Key[]> | null>(null)
  const inset = ref('') // what the inset shows: '', scout, program or a camera
  const curves = ref(false) // curves are open above the rows of keys
  const more = ref<string[]>([]) // further selected nodes
  const placing = ref<Placing | null>(null)
  const scattering = ref(false) // a box on the plan scatters what is placed
  const scatter = reactive({ count: 20, apart: 1.5, vary: 0.25, seed: 1, width: 2 })
  const measuring = ref(false)
  const tape = ref<{ from: Vec3; to: Vec3 } | null>(null)
  const grab = ref('all') // an id of grabKinds
  const localAxes = ref(false)
  const pivot = ref<'middle' | 'own'>('middle')
  const grid = ref(0.1) // metres
  const full = ref(false) // a pane is blown up to the full desk
  const gathering = ref(0) // counts the wishes to go to the selection
  const history = ref(false) // the leaf of history is open

  const node = computed(() => (selected.value?.collection === 'nodes' ? selected.value.id : ''))
  const camera = computed(() => (scene.doc.nodes[node.value]?.camera ? node.value : ''))
  /** The selected shot, while it is there. */
  const shot = computed(() => {
    const s = selected.value
    return s?.collection === 'shots' && scene.doc.shots[s.id] ? s.id : ''
  })

  /** All selected nodes that are still there. */
  const nodes = computed(() => (node.value ? [node.value, ...more.value].filter((id) => scene.doc.nodes[id]) : []))
  /** Whether something of a kind can be grabbed in the views. */
  function grabs(id: string): boolean {
    const n = scene.doc.nodes[id]
    if (!n || n.locked) return false
    for (let up = n.parent; up; up = scene.doc.nodes[up]?.parent) if (scene.doc.nodes[up]?.locked) return false
    const kinds = grabKinds.find((g) => g.id === grab.value)?.kinds ?? []
    return kinds.length === 0 || kinds.includes(n.kind)
  }
  /** The nodes that cannot be grabbed now. */
  const outOfReach = computed(() => Object.keys(scene.doc.nodes).filter((id) => !grabs(id)))

  /** All selected shots that are still there. */
  const shots = computed<string[]>((before) => {
    const now = shot.value ? [shot.value, ...more.value].filter((id) => scene.doc.shots[id]) : []
    return before && now.join() === before.join() ? before : now
  })
  /** Selects several shots. */
  function selectShots(ids: string[]) {
    select('shots', ids[0] ?? '')
    more.value = ids.slice(1)
  }
  /** Selects several nodes. */
  function selectNodes(ids: string[]) {
    select('nodes', ids[0] ?? '')
    more.value = ids.slice(1)
  }
  /** Adds a node to the selection, or takes it out. */
  function toggle(id: string) {
    const now = nodes.value
    selectNodes(now.includes(id) ? now.filter((x) => x !== id) : [...now, id])
  }
  function select(collection: CollectionName, id: string) {
    more.value = []
    selected.value = id ? { collection, id } : null
    keys.value = null
    if (unlocked.value !== id) unlocked.value = ''
  }
  const isSelected = (collection: CollectionName, id: string) =>
    selected.value?.collection === collection &&
    (selected.value.id === id || ((collection === 'nodes' || collection === 'shots') && more.value.includes(id)))

  function lookThrough(id: string) {
    through.value = id
    picking.value = null
    if (id) lastThrough.value = id
    if (id) select('nodes', id)
    else unlocked.value = ''
  }
  /** Blows the pane at a place of the window up to the full desk, or back. */
  function fill(at?: { x: number; y: number }) {
    const now = document.querySelector('.pane.full')
    now?.classList.remove('full')
    if (!now && at) document.elementFromPoint(at.x, at.y)?.closest('.pane')?.classList.add('full')
    full.value = !now && !!document.querySelector('.pane.full')
  }
  /** Moves the selected keys in time for good, and keeps them selected. */
  function moveKeys(by: number) {
    const k = keys.value
    if (!k || !scene.run('keyMove', { ...k, by })) return
    const rows = Object.entries(k.rows).map(([ch, frames]) => [ch, frames.map((f) => f + by)] as const)
    keys.value = { node: k.node, rows: Object.fromEntries(rows) }
  }
  /** Copies the selected keys. */
  function copyKeys() {
    const k = keys.value
    if (!k) return
    const rows: Record<string, Key[]> = {}
    for (const c of Object.values(scene.doc.curves)) {
      const frames = c.node === k.node ? k.rows[c.channel] : undefined
      if (frames) rows[c.channel] = c.keys.filter((key) => frames.includes(key.frame))
    }
    copied.value = rows
  }
  /** Selects all keys of a node. */
  function allKeys(of: string) {
    const rows: Record<string, number[]> = {}
    for (const c of Object.values(scene.doc.curves)) if (c.node === of) rows[c.channel] = c.keys.map((k) => k.frame)
    keys.value = Object.keys(rows).length ? { node: of, rows } : null
  }
  /** The one way back: ends a mode, or returns to scout. */
  function back() {
    if (picking.value) picking.value = null
    else if (scattering.value) scattering.value = false
    else if (placing.value) placing.value = null
    else if (measuring.value || tape.value) {
      measuring.value = false
      tape.value = null
    } else if (drawing.value) drawing.value = null
    else if (full.value) fill()
    else if (unlocked.value) unlocked.value = ''
    else if (through.value) through.value = ''
    else select('nodes', '')
  }

  // Another scene begins as if it were the first; copied keys can be pasted into it.
  watch(
    () => scene.id,
    () => {
      selected.value = keys.value = drawing.value = picking.value = placing.value = tape.value = null
      more.value = []
      through.value = lastThrough.value = unlocked.value = inset.value = ''
      autoKey.value = movePath.value = scattering.value = measuring.value = curves.value = false
      handling.value = 'turn'
      grab.value = 'all'
      if (full.value) fill()
    },
    { flush: 'sync' },
  )
  // What others remove is not looked through or moved any more.
  watch(
    () => scene.changes,
    () => {
      for (const r of [through, unlocked]) if (r.value && !scene.doc.nodes[r.value]) r.value = ''
    },
  )

  return {
    desk,
    selected,
    keys,
    through,
    lastThrough,
    autoKey,
    unlocked,
    drawing,
    guides,
    picking,
    handling,
    movePath,
    copied,
    curves,
    inset,
    full,
    gathering,
    history,
    more,
    nodes,
    placing,
    scattering,
    scatter,
    measuring,
    tape,
    grab,
    grabs,
    outOfReach,
    localAxes,
    pivot,
    grid,
    selectNodes,
    toggle,
    node,
    camera,
    shot,
    shots,
    selectShots,
    select,
    isSelected,
    lookThrough,
    moveKeys,
    copyKeys,
    allKeys,
    back,
    fill,
  }
})
