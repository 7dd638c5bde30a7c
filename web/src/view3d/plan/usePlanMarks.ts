// What is marked on plan and elevations: cameras with what they see, people, what is
// selected, paths, and where the selected camera has been.
import { ref } from 'vue'
import { core, type PathLine } from '@/core/bridge'
import { usePlayhead } from '@/stores/playhead'
import { useScene } from '@/stores/scene'
import { useView } from '@/stores/view'
import { useStage } from '../stage'
import { fanned, labelled, type Dot } from './apart'
import type { usePlanCamera } from './usePlanCamera'

export interface Wedge {
  id: string
  number: number
  name: string
  color: string
  x: number
  y: number
  /** Where its badge is: beside its place when others are in the way. */
  badge: Dot
  angle: number
  half: number
  reach: number
  aimed: boolean
  /** Where the sharp zone begins and ends, in pixels; far is 0 without an end. */
  zone: [number, number] | null
}
/** Somebody, a lamp or a place to aim at. */
export interface Mark {
  id: string
  name: string
  x: number
  y: number
  color: string
  /** The way that somebody looks, in degrees clockwise from up; null for what looks nowhere. */
  facing: number | null
  /** Where the name is written, if there is room. */
  label: Dot | null
}
/** How far the middles of badges stay apart in pixels, and how wide a letter of a name is. */
const badge = 21
const letter = 6.2

/** A path as it is drawn, in the colour of who goes on it. */
export interface Drawn {
  id: string
  line: PathLine
  owner: string
  name: string
  color: string
}
/** The lines of a wedge: its sides, the gate, and the ends of the sharp zone. */
export function wedge(w: Wedge) {
  const r = w.reach
  const x = Math.sin(w.half) * r
  const y = -Math.cos(w.half) * r
  const across = (d: number) => `M${Math.sin(w.half) * d} ${-Math.cos(w.half) * d}H${-Math.sin(w.half) * d}`
  const [near, far] = w.zone ?? [0, 0]
  return {
    cone: `M0 0L${x} ${y}M0 0L${-x} ${y}`,
    gate: `M${x} ${y}L${-x} ${y}`,
    sharp: w.zone ? across(near / Math.cos(w.half)) + (far ? across(far / Math.cos(w.half)) : '') : '',
  }
}

export function usePlanMarks(flat: ReturnType<typeof usePlanCamera>) {
  const scene = useScene()
  const view = useView()
  const head = usePlayhead()
  const stage = useStage()
  const { area } = flat
  const wedges = ref<Wedge[]>([])
  const people = ref<Mark[]>([])
  const chosen = ref<{ id: string; x: number; y: number }[]>([])

  /** Where the selected camera was in the last seconds. */
  const trail = ref<{ x: number; y: number; angle: number; fade: number }[]>([])
  const moves = (camera: string) =>
    !!scene.doc.nodes[camera]?.path || Object.values(scene.doc.curves).some((c) => c.node === camera)

  function gather() {
    wedges.value = scene.cameras.flatMap(({ id, node, camera }) => {
      const i = stage.cameraIndex(id)
      const chosen = view.isSelected('nodes', id) || view.through === id
      if (i < 0 || node.hidden || (camera.archived && !chosen)) return []
      const c = stage.state.camera(i)
      const m = stage.state.cameraMatrix(i)
      const at = [m[12]!, m[13]!, m[14]!]
      const z = chosen ? core.sharpZone(c.focal, c.stop, c.focus, camera.sensor as [number, number]) : null
      return {
        id,
        number: camera.number,
        name: node.name,
        color: camera.color,
        x: flat.x(at),
        y: flat.y(at),
        badge: { x: flat.x(at), y: flat.y(at) },
        angle: flat.bearing([-m[8]!, -m[9]!, -m[10]!]),
        half: ((area.face === 'plan' ? c.hfov : c.vfov) * Math.PI) / 360,
        reach: Math.max(24, Math.min(c.focus, 40) * area.scale),
        aimed: camera.aim === 'at',
        zone: z && [z.near * area.scale, z.far < 0 ? 0 : Math.min(z.far, 80) * area.scale],
      }
    })
    fanned(wedges.value, badge).forEach((at, i) => (wedges.value[i]!.badge = { x: at.x, y: at.y }))
    people.value = Object.entries(scene.doc.nodes).flatMap(([id, n]) => {
      const m = n.kind === 'cast' || n.kind === 'aim' || n.kind === 'lamp' ? stage.matrix(id)?.elements : null
      if (!m || n.hidden) return []
      const p = [m[12], m[13], m[14]]
      const color = n.tint || n.cast?.coat || n.lamp?.color || 'var(--brass)'
      const facing = n.cast && area.face === 'plan' ? flat.bearing([-m[8], -m[9], -m[10]]) : null
      const name = n.kind === 'lamp' ? '' : n.name
      return { id, name, x: flat.x(p), y: flat.y(p), color, facing, label: null }
    })
    const named = people.value.filter((p) => p.name)
    const square = (d: Dot, r: number) => ({ x: d.x - r, y: d.y - r, width: 2 * r, height: 2 * r })
    const taken = [
      ...wedges.value.map((w) => square(w.badge, 10)),
      ...people.value.map((p) => square(p, p.facing === null ? 6 : 9)),
    ]
    labelled(
      named.map((p) => ({ x: p.x, y: p.y, width: p.name.length * letter + 4 })),
      taken,
    ).forEach((at, i) => (named[i]!.label = at && { x: at.x - named[i]!.x, y: at.y - named[i]!.y }))
    trail.value = []
    if (view.camera && area.face === 'plan' && moves(view.camera)) {
      const past = core.trail(view.camera, head.story, scene.rate / 2, 8)
      for (let i = 0; i < past.length; i += 3) {
        const at = [past[i]!, 0, past[i + 1]!]
        trail.value.push({ x: flat.x(at), y: flat.y(at), angle: -past[i + 2]!, fade: 0.6 * (1 - i / past.length) })
      }
    }
    chosen.value = view.nodes.flatMap((id) => {
      const at = stage.position(id)?.toArray()
      return at && !scene.doc.nodes[id]?.camera ? [{ id, x: flat.x(at), y: flat.y(at) }] : []
    })
    refreshPaths()
  }

  // The lines of paths are sampled by the core when the document changes.
  const drawn = ref<Drawn[]>([])
  let drawnAt = -1
  function refreshPaths() {
    if (drawnAt === scene.changes) return
    drawnAt = scene.changes
    const owners = new Map<string, string>()
    for (const a of Object.values(scene.doc.actions)) if (a.path) owners.set(a.path, a.cast)
    for (const [id, n] of Object.entries(scene.doc.nodes)) if (n.path) owners.set(n.path, id)
    for (const [id, n] of Object.entries(scene.doc.nodes)) if (n.path && n.camera) owners.set(n.path, id)
    drawn.value = Object.entries(scene.doc.paths).flatMap(([id, p]) => {
      const owner = owners.get(id) ?? ''
      const line = core.path(p, id)
      if (line.error !== undefined) return []
      const n = scene.doc.nodes[owner]
      return { id, line, owner, name: p.name, color: n?.camera?.color ?? n?.cast?.coat ?? 'var(--dim)' }
    })
  }
  return { wedges, people, chosen, trail, drawn, gather }
}
