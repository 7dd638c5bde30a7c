// What the pointer does in the views instead of selecting, and what it can grab.
import { computed, reactive, ref } from 'vue'
import type { Vec3 } from '@/core/bridge'
import type { useScene } from './scene'

/** The forms of a path that are drawn. */
export type Drawing = 'straight' | 'arc' | 'curve' | 'rise'

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

export function pointing(scene: ReturnType<typeof useScene>) {
  const drawing = ref<Drawing | null>(null)
  const picking = ref<Picking | null>(null)
  const handling = ref<Handling>('turn')
  const movePath = ref(false) // moving a camera from its lens view moves its whole path
  const placing = ref<Placing | null>(null)
  const scattering = ref(false) // a box on the plan scatters what is placed
  const scatter = reactive({ count: 20, apart: 1.5, vary: 0.25, seed: 1, width: 2 })
  const measuring = ref(false)
  const tape = ref<{ from: Vec3; to: Vec3 } | null>(null)
  const grab = ref('all') // an id of grabKinds
  const localAxes = ref(false)
  const pivot = ref<'middle' | 'own'>('middle')
  const grid = ref(0.1) // metres

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

  /** Ends what the pointer is about to do; false when that was nothing. */
  function leaveTool(): boolean {
    if (picking.value) picking.value = null
    else if (scattering.value) scattering.value = false
    else if (placing.value) placing.value = null
    else if (measuring.value || tape.value) {
      measuring.value = false
      tape.value = null
    } else if (drawing.value) drawing.value = null
    else return false
    return true
  }
  /** As in a scene that has just been opened. */
  function layDown() {
    drawing.value = picking.value = placing.value = tape.value = null
    movePath.value = scattering.value = measuring.value = false
    handling.value = 'turn'
    grab.value = 'all'
  }
  return {
    ...{ drawing, picking, handling, movePath, placing, scattering, scatter, measuring, tape },
    ...{ grab, grabs, outOfReach, localAxes, pivot, grid, leaveTool, layDown },
  }
}
