// Drawing a path on the plan for the selected camera, cast member or vehicle.
import { planMemory } from './memory'
import { useEventListener } from '@vueuse/core'
import { computed, ref, watch } from 'vue'
import { core, type Vec3 } from '@/core/bridge'
import { usePlayhead } from '@/stores/playhead'
import { useScene } from '@/stores/scene'
import { useView, type Drawing } from '@/stores/view'
import { distance, tidy } from '../screen'
import { useStage } from '../stage'
import { useDrag } from '@/ui/useDrag'
import type { usePlanCamera } from './usePlanCamera'

export function useDrawing(
  flat: ReturnType<typeof usePlanCamera>,
  under: (e: { clientX: number; clientY: number }, depth?: Vec3) => Vec3,
) {
  const scene = useScene()
  const view = useView()
  const head = usePlayhead()
  const stage = useStage()
  const points = ref<Vec3[]>([])
  const loose = ref<Vec3 | null>(null)
  const node = computed(() => scene.doc.nodes[view.node])
  /** Where the selection is: people and vehicles set out from there, cameras keep its height. */
  const start = computed<Vec3>(() => stage.position(view.node)?.toArray() ?? [0, 1.5, 0])

  /** The place for a point: people walk on what lies under it. */
  function place(e: MouseEvent): Vec3 {
    const at = under(e, start.value)
    const snap = (v: number) => (e.altKey ? v : Math.round(v / view.grid) * view.grid)
    const p = tidy(at.map((v, i) => (flat.face.value.toward[i] ? v : snap(v))) as Vec3, 3)
    if (flat.area.face !== 'plan' || !node.value || node.value.camera || node.value.kind === 'aim') return p
    const ground = core.ground(p[0], p[2], view.node)
    return ground === null ? p : [p[0], +ground.toFixed(3), p[2]]
  }
  const draft = computed(() => {
    if (!view.drawing) return ''
    const all = loose.value ? [...points.value, loose.value] : points.value
    if (all.length < 2) return ''
    const form = view.drawing === 'arc' && all.length !== 3 ? 'straight' : view.drawing
    const line = core.path({ form, points: all })
    return line.error !== undefined ? '' : flat.line(line.points)
  })
  function begin(form: Drawing) {
    view.drawing = view.drawing === form ? null : form
  }
  // Held down, the pointer draws by hand: the core keeps the points that matter.
  const hold = useDrag()
  function press(e: PointerEvent, over: Element) {
    if (view.drawing !== 'curve') return
    let at = { x: e.clientX, y: e.clientY }
    const stroke = [place(e)]
    hold.begin(e, over, {
      move(to) {
        if (Math.hypot(to.clientX - at.x, to.clientY - at.y) < 5) return
        at = { x: to.clientX, y: to.clientY }
        stroke.push(place(to))
        if (stroke.length > 3) points.value = [...stroke]
      },
      drop() {
        if (stroke.length < 4) return
        points.value = stroke
        finish(6 / flat.area.scale) // six pixels
      },
      abandon: () => (points.value = []),
    })
  }
  const hover = (e: MouseEvent) => void (loose.value = under(e, start.value))
  function add(e: MouseEvent) {
    if (!view.drawing || e.button !== 0) return
    const p = place(e)
    const last = points.value.at(-1)
    if (last && distance(last, p) < 0.05) return
    points.value = [...points.value, p]
    const most = { arc: 3, rise: 2 }[view.drawing as string]
    if (points.value.length === most) finish()
  }
  function finish(byHand = 0) {
    if (!view.drawing) return
    const pts = points.value
    const form = view.drawing
    view.drawing = null
    if (pts.length < 2) return
    const from = Math.round(head.story)
    const n = node.value
    const times = n ? { for: view.node, in: from, paced: true } : {}
    scene.run('pathDraw', { form, points: pts, loose: byHand, ...times })
  }
  useEventListener(window, 'keydown', (e: KeyboardEvent) => e.key === 'Enter' && view.drawing && finish(), {
    capture: true,
  })
  watch(
    () => view.drawing,
    (form) => {
      // What rises is drawn from the side.
      if (form === 'rise' && planMemory.face === 'plan') planMemory.face = 'front'
      // Who walks or drives sets out from where they are.
      points.value =
        form && form !== 'rise' && (node.value?.cast || node.value?.kind === 'vehicle') ? [start.value] : []
      loose.value = null
    },
  )
  return { points, draft, begin, press, hover, add, finish }
}
