// Dragging shots on the strip: edges and bodies, by the grip that is chosen,
// along a lane and between lanes. What would happen is shown while the drag
// lasts; where shots would overlap, a choice is offered before anything happens.
import { useEventListener } from '@vueuse/core'
import { computed, ref, shallowRef } from 'vue'
import { core, type Operation, type Shot } from '@/core/bridge'
import { useCutting, type Compared } from '@/stores/cutting'
import { usePlayhead } from '@/stores/playhead'
import { useScene } from '@/stores/scene'
import { useView } from '@/stores/view'
import { presses, useDrag } from '@/ui/useDrag'
import { snapTo } from './scale'
import { signed } from './useBlockDrag'

export type Part = 'body' | 'in' | 'out'
interface Drag {
  id: string
  ids: string[]
  part: Part
  frame: number // where that was on the strip, but for the same distance always
  from: Shot
  lane: string
  several: boolean // they lie on several lanes, and stay on theirs
  ends: { left: number; right: number } | null // of what of the strip is in sight, in pixels
  before: string // the shots that it touches, if any
  after: string
  marks: number[] // what edges snap to; looked for from when the drag begins to move
}
/** What a drop onto other shots waits for. */
export interface Drop {
  ids: string[]
  by: number
  lane: string // '' when they lie on several, and stay on theirs
  x: number
  y: number
}

/** What a drag has to know of the strip that it happens on. */
interface Strip {
  perPixel(): number
  /** The frame at its left end. */
  from(): number
  scroll(frames: number): void
}
const lookAt = 8 // frames that are looked at together
const nearEnd = 28 // px from an end of the strip within which a drag scrolls it

export function useShotDrag(strip: Strip) {
  const { perPixel } = strip
  const scene = useScene()
  const view = useView()
  const head = usePlayhead()
  const cutting = useCutting()
  const pointer = useDrag()
  let drag: Drag | null = null
  const dragged = ref('') // stays drawn while it is out of sight, since it holds the pointer
  const told = shallowRef<{ lane: string; at: number; text: string } | null>(null)
  /** Where shots would lie that cannot be shown there yet. */
  const ghost = shallowRef<{ lane: string; in: number; out: number } | null>(null)
  const drop = shallowRef<Drop | null>(null)

  const cast = computed(() => Object.keys(scene.doc.nodes).filter((id) => scene.doc.nodes[id]!.kind === 'cast'))
  const laneOf = (id: string) =>
    id === scene.cut.lane ? scene.cut.shots : (scene.cut.spares.find((l) => l.id === id)?.shots ?? [])

  /** What edges and bodies snap to: ends of other shots, the playhead and markers. */
  function snaps(ids: string[]): number[] {
    const out = [0, Math.round(head.screen)]
    const shots = scene.doc.shots
    const moving = new Set(ids)
    for (const m of Object.values(scene.doc.markers))
      if (m.clock === 'screen' && m.assembly === scene.cut.assembly) out.push(m.frame, m.frame + (m.frames ?? 0))
    for (const lane of [scene.cut.shots, ...scene.cut.spares.map((l) => l.shots)])
      for (const c of lane) {
        const s = shots[c.id]
        if (s && !moving.has(c.id)) out.push(s.screenIn, s.screenOut)
      }
    if (head.marked.screen) out.push(head.marked.screen.in, head.marked.screen.out)
    return out
  }
  function down(e: PointerEvent, id: string, part: Part) {
    if (!presses(e) || !scene.doc.shots[id]) return
    e.stopPropagation()
    const s = scene.doc.shots[id]!
    if (e.ctrlKey || e.metaKey) {
      const now = view.shots
      return view.selectShots(now.includes(id) ? now.filter((x) => x !== id) : [id, ...now])
    }
    if (e.shiftKey && part === 'body' && view.shot && scene.doc.shots[view.shot]?.lane === s.lane) {
      const list = laneOf(s.lane).map((c) => c.id)
      const [a, b] = [list.indexOf(view.shot), list.indexOf(id)].sort((x, y) => x - y) as [number, number]
      return view.selectShots([id, ...list.slice(a, b + 1).filter((x) => x !== id)])
    }
    const several = part === 'body' && view.shots.includes(id)
    if (!several) view.select('shots', id)
    if (part !== 'body') cutting.edge = part
    const list = laneOf(s.lane)
    const i = list.findIndex((c) => c.id === id)
    const touches = (k: number, edge: 'in' | 'out') => {
      const o = scene.doc.shots[list[k]?.id ?? '']
      return o && (edge === 'in' ? o.screenOut === s.screenIn : o.screenIn === s.screenOut) ? list[k]!.id : ''
    }
    dragged.value = id
    const ids = several ? view.shots : [id]
    drag = {
      id,
      ids,
      part,
      frame: frameAt(e.clientX),
      from: s,
      lane: s.lane,
      several: ids.some((id) => scene.doc.shots[id]!.lane !== s.lane),
      ends: endsOf(e.currentTarget as HTMLElement),
      before: touches(i - 1, 'in'),
      after: touches(i + 1, 'out'),
      marks: [],
    }
    pointer.begin(e, e.currentTarget as HTMLElement, { move, drop: put, click: abandon, abandon })
  }

  /** A frame of the strip, but for a distance that is always the same. */
  const frameAt = (x: number) => strip.from() + x * perPixel()
  /** The lane under the pointer. */
  function laneAt(e: PointerEvent): string {
    const el = document.elementFromPoint(e.clientX, e.clientY)?.closest<HTMLElement>('[data-lane]')
    return el?.dataset.lane ?? drag!.lane
  }
  function amount(e: PointerEvent, d: Drag): number {
    const by = Math.round(frameAt(e.clientX) - d.frame)
    if (e.altKey || !cutting.snapping || cutting.grip === 'slip') return by
    const reach = 6 * perPixel()
    const { screenIn, screenOut } = d.from
    if (d.part === 'out') return snapTo(screenOut + by, d.marks, reach) - screenOut
    const head = snapTo(screenIn + by, d.marks, reach) - screenIn
    if (d.part === 'in' || head !== by) return head
    return snapTo(screenOut + by, d.marks, reach) - screenOut
  }
  /** The operation that a drag means now. */
  function operation(e: PointerEvent, d: Drag): Operation & { words: string; frames: Compared[] } {
    const by = amount(e, d)
    const grip = e.shiftKey && d.part !== 'body' ? 'ripple' : cutting.grip
    const first = (id: string) => (id ? [{ shot: id, frame: NaN, words: 'first' }] : [])
    const last = (id: string) => (id ? [{ shot: id, frame: NaN, words: 'last' }] : [])
    if (d.part === 'body') {
      if (grip === 'slip')
        return {
          name: 'shotSlip',
          args: { ids: d.ids, by: -by },
          words: `slip ${signed(-by)}`,
          frames: [...first(d.id), ...last(d.id)],
        }
      if (grip === 'slide')
        return {
          name: 'shotSlide',
          args: { id: d.id, by },
          words: `slide ${signed(by)}`,
          frames: [...last(d.before), ...first(d.after)],
        }
      const lane = d.several ? '' : laneAt(e)
      return { name: 'shotMove', args: { ids: d.ids, by, lane }, words: `move ${signed(by)}`, frames: [] }
    }
    const seam = d.part === 'in' ? d.id : d.after
    const frames = d.part === 'in' ? [...last(d.before), ...first(d.id)] : [...last(d.id), ...first(d.after)]
    if (grip === 'roll' && seam && (d.part === 'out' || d.before))
      return { name: 'shotRoll', args: { id: seam, by }, words: `roll ${signed(by)}`, frames }
    return {
      name: 'shotTrim',
      args: { id: d.id, edge: d.part, by, ripple: grip === 'ripple', along: cutting.along },
      words: `${grip === 'ripple' ? 'ripple ' : ''}${d.part} ${signed(by)}`,
      frames,
    }
  }
  function move(e: PointerEvent) {
    last = e
    follow(e)
    going ||= requestAnimationFrame(goOn)
  }
  function follow(e: PointerEvent) {
    const d = drag!
    if (!d.marks.length) {
      d.marks = snaps(d.ids)
      if (d.part !== 'body') look(d, d.part)
    }
    const o = operation(e, d)
    const done = scene.preview(o.name, o.args)
    ghost.value = null
    const args = o.args as { by: number; lane?: string }
    let words = o.words
    const locked = [d.lane, args.lane].some((l) => l && scene.doc.lanes[l]?.locked)
    if (locked) words = 'the lane is locked'
    else if (!done && o.name === 'shotMove') {
      const spans = d.ids.map((id) => scene.doc.shots[id]!)
      const by = Math.max(args.by, -Math.min(...spans.map((s) => s.screenIn)))
      ghost.value = {
        lane: args.lane || d.lane,
        in: Math.min(...spans.map((s) => s.screenIn)) + by,
        out: Math.max(...spans.map((s) => s.screenOut)) + by,
      }
      words += ' · drop to choose'
    }
    told.value = {
      lane: d.lane,
      at: (d.part === 'out' ? d.from.screenOut : d.from.screenIn) + (o.name === 'shotSlip' ? 0 : args.by),
      text: words,
    }
    cutting.pair = o.frames.map((f) => {
      const s = scene.doc.shots[f.shot]!
      return { ...f, frame: f.words === 'first' ? s.screenIn : s.screenOut - 1 }
    })
  }
  /** Looks for keys, and some frames at a time, so that the drag goes on, for where the cast comes or goes. */
  function look(d: Drag, edge: 'in' | 'out') {
    const { screenIn, screenOut } = d.from
    d.marks.push(...core.keysOf(d.from))
    let done = 0 // frames, from the edge on
    const next = () => {
      if (drag !== d || done >= screenOut - screenIn) return
      const at = edge === 'in' ? screenIn + done : screenOut - 1 - done - lookAt
      d.marks.push(...core.entrances(d.from, cast.value, at, at + lookAt))
      done += lookAt
      requestAnimationFrame(next)
    }
    setTimeout(next, 60) // the first frame of a drag has enough to do
  }
  function endsOf(block: HTMLElement): Drag['ends'] {
    const field = block.closest('.rows')
    if (!field) return null
    const { left, right } = field.getBoundingClientRect()
    const labels = parseFloat(getComputedStyle(field).getPropertyValue('--labels')) || 0
    return right - left < 4 * nearEnd ? null : { left: left + labels, right }
  }
  // While the pointer is held at an end of the strip, the strip goes on.
  let last: PointerEvent | null = null
  let going = 0
  function goOn() {
    going = 0
    const e = last
    const ends = drag?.ends
    if (!e || !ends) return
    const into = Math.max(0, e.clientX - (ends.right - nearEnd)) - Math.max(0, ends.left + nearEnd - e.clientX)
    if (!into) return
    strip.scroll(Math.max(-nearEnd, Math.min(nearEnd, into)) * 0.4 * perPixel())
    follow(e)
    going = requestAnimationFrame(goOn)
  }
  function end() {
    drag = null
    last = null
    dragged.value = ''
    told.value = null
    ghost.value = null
    cutting.pair = null
  }
  function put(e: PointerEvent) {
    const d = drag!
    const o = operation(e, d)
    const waiting = ghost.value
    end()
    if (waiting) {
      const { by } = o.args as { by: number }
      scene.cancel()
      ghost.value = waiting
      drop.value = { ids: d.ids, by, lane: d.several ? '' : waiting.lane, x: e.clientX, y: e.clientY }
      return
    }
    scene.run(o.name, o.args)
  }
  function abandon() {
    end()
    scene.cancel()
  }
  const dropArgs = (how: string) => {
    const { ids, by, lane } = drop.value!
    return { ids, by, lane, how }
  }
  /** Shows what a choice would do. */
  function consider(how: string | null) {
    if (!drop.value || !how) return void scene.cancel()
    scene.preview('shotMove', dropArgs(how))
  }
  function choose(how: string | null) {
    const args = how && drop.value ? dropArgs(how) : null
    drop.value = null
    ghost.value = null
    if (args) scene.run('shotMove', args)
    else scene.cancel()
  }
  useEventListener(
    window,
    'keydown',
    (e: KeyboardEvent) => {
      if (e.key !== 'Escape' || !drop.value) return
      choose(null)
      e.stopPropagation()
    },
    { capture: true },
  )
  return { down, dragged, told, ghost, drop, consider, choose }
}
