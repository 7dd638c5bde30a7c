// Moving an unlocked camera from its own picture. A drag does what is chosen, or
// what a held key says; arrows and page keys fly. Every way goes through an
// operation of the core, which knows what carries the camera.
import { useEventListener } from '@vueuse/core'
import { Vector3 } from 'three'
import { computed, onBeforeUnmount, ref } from 'vue'
import { core, type Vec3 } from '@/core/bridge'
import { usePlayhead } from '@/stores/playhead'
import { useScene } from '@/stores/scene'
import { handlings, useView, type Handling } from '@/stores/view'
import { brisk, typing, ways } from '../flight'
import { tidy } from '../screen'
import { useStage } from '../stage'
import { useDrag } from '@/ui/useDrag'
import type { Told } from '@/ui/useEditDrag'
import { inWords } from '@/ui/lengths'

/** Metres a second at which keys fly. */
const gentle = 0.8

interface Start {
  x: number
  y: number
  pan: number
  tilt: number
  roll: number
  focal: number
  hfov: number
  vfov: number
  at: Vector3
  right: Vector3
  up: Vector3
  back: Vector3
  /** What orbits and dollies go by: the subject, or where the focus is. */
  subject: Vector3
  reach: number
  framing: [number, number]
}

export function useCameraMoves(
  camera: () => string,
  unlocked: () => boolean,
  box: () => { x: number; y: number; width: number; height: number },
  /** Whether the pointer is over the picture: elsewhere keys mean what they mean everywhere. */
  over = () => true,
) {
  const scene = useScene()
  const view = useView()
  const head = usePlayhead()
  const stage = useStage()
  const told = ref('')
  const held = ref('') // the key that constrains a drag
  let start: Start | null = null
  const node = () => scene.doc.nodes[camera()]!
  const how = computed<Handling>(() => handlings.find((h) => h.key && h.key === held.value)?.id ?? view.handling)

  function begin(e: { clientX: number; clientY: number }): Start {
    const i = stage.cameraIndex(camera())
    const c = stage.state.camera(i)
    const m = stage.state.cameraMatrix(i)
    const [right, up, back, at] = [0, 4, 8, 12].map((k) => new Vector3(m[k], m[k + 1], m[k + 2]))
    const k = node().camera!
    const of = view.node && view.node !== camera() ? view.node : k.aim === 'at' ? k.aimAt! : (k.focusOn ?? '')
    const subject =
      of && scene.doc.nodes[of]
        ? new Vector3(...core.aimPoint(of, head.story))
        : at!.clone().addScaledVector(back!, -c.focus)
    const { pan, tilt, roll, focal, hfov, vfov } = c
    return {
      x: e.clientX,
      y: e.clientY,
      ...{ pan, tilt, roll, focal, hfov, vfov },
      at: at!,
      right: right!,
      up: up!,
      back: back!,
      subject,
      reach: Math.max(0.5, subject.distanceTo(at!)),
      framing: [...k.framing] as [number, number],
    }
  }
  const base = () => ({ frame: head.story, key: view.autoKey })
  /** Moves the camera by a way in the world, or with it its whole path. */
  function by(way: Vector3, text: string): Told {
    const by = tidy(way.toArray() as Vec3)
    const path = node().path
    if (path && view.movePath) return { name: 'pathShift', args: { id: path, by }, text: `path ${text}` }
    return { name: 'move', args: { ...base(), ids: [camera()], by }, text }
  }
  function turn(pan: number, tilt: number, roll: number): Told {
    const text = `pan ${pan.toFixed(1)}°  tilt ${tilt.toFixed(1)}°  roll ${roll.toFixed(1)}°`
    return { name: 'cameraTurn', args: { ...base(), id: camera(), turn: tidy([pan, tilt, roll], 3) }, text }
  }
  const value = (channel: string, v: number, text: string): Told => ({
    name: 'value',
    args: { ...base(), node: camera(), channel, value: v },
    text,
  })
  const m = (v: number) => `${v < 0 ? '−' : '+'}${inWords(Math.abs(v))}`

  function did(e: { clientX: number; clientY: number }): Told | null {
    const s = start
    if (!s) return null
    const dx = (e.clientX - s.x) / box().width
    const dy = (e.clientY - s.y) / box().height
    const wide = 2 * s.reach * Math.tan((s.hfov * Math.PI) / 360)
    const high = 2 * s.reach * Math.tan((s.vfov * Math.PI) / 360)
    switch (how.value) {
      case 'turn':
      case 'pan':
      case 'tilt': {
        const x = how.value === 'tilt' ? 0 : dx
        const y = how.value === 'pan' ? 0 : dy
        // A held subject is dragged to its place in the frame instead.
        if (node().camera!.aim === 'at') {
          const inside = (v: number) => +Math.max(-1, Math.min(1, v)).toFixed(4)
          const framing: [number, number] = [inside(s.framing[0] + 2 * x), inside(s.framing[1] - 2 * y)]
          return {
            name: 'cameraFrame',
            args: { ...base(), id: camera(), framing },
            text: `subject at ${framing.map((v) => v.toFixed(2)).join(' ')}`,
          }
        }
        return turn(s.pan + x * s.hfov, Math.max(-90, Math.min(90, s.tilt + y * s.vfov)), s.roll)
      }
      case 'roll': {
        const roll = s.roll - dx * 60
        return value('turn.roll', +roll.toFixed(2), `roll ${roll.toFixed(1)}°`)
      }
      case 'slide':
      case 'truck':
      case 'pedestal': {
        const x = how.value === 'pedestal' ? 0 : -dx * wide
        const y = how.value === 'truck' ? 0 : dy * high
        const way = s.right.clone().multiplyScalar(x)
        way.y += y
        return by(way, `truck ${m(x)}  pedestal ${m(y)}`)
      }
      case 'dolly': {
        const k = -dy * s.reach * 1.2
        return by(s.back.clone().multiplyScalar(-k), `dolly ${m(k)}`)
      }
      case 'orbit': {
        const angle = -dx * 120
        return {
          name: 'cameraOrbit',
          args: {
            ...base(),
            id: camera(),
            about: tidy(s.subject.toArray() as Vec3),
            around: +angle.toFixed(3),
            over: +(dy * 60).toFixed(3),
          },
          text: `orbit ${angle.toFixed(1)}°`,
        }
      }
      case 'zoom': {
        const focal = s.focal * Math.exp(-dy * 1.5)
        return value('lens.focal', +focal.toFixed(2), `${focal.toFixed(1)} mm`)
      }
    }
  }

  const drag = useDrag()
  function end() {
    start = null
    told.value = ''
    scene.cancel()
  }
  function down(e: PointerEvent, over: Element) {
    start = begin(e)
    drag.begin(e, over, {
      move(to) {
        const d = did(to)
        if (!d) return
        told.value = d.text
        scene.preview(d.name, d.args)
      },
      drop(to) {
        const d = did(to)
        end()
        if (d) scene.run(d.name, d.args)
      },
      click: end,
      abandon: end,
    })
  }

  // The wheel dollies, or zooms with its key held.
  let pushed = 0
  let settle: ReturnType<typeof setTimeout> | undefined
  function wheel(e: WheelEvent) {
    if (!unlocked()) return
    e.preventDefault()
    scene.cancel()
    const s = begin(e)
    pushed -= (e.deltaY || e.deltaX) * 0.0008
    const d =
      how.value === 'zoom'
        ? value('lens.focal', s.focal * Math.exp(pushed), `${(s.focal * Math.exp(pushed)).toFixed(1)} mm`)
        : by(s.back.clone().multiplyScalar(-pushed * s.reach), `dolly ${m(pushed * s.reach)}`)
    told.value = d.text
    scene.preview(d.name, d.args)
    clearTimeout(settle)
    settle = setTimeout(() => {
      pushed = 0
      told.value = ''
      scene.run(d.name, d.args)
    }, 250)
  }

  // Keys: letters constrain a drag while they are held, arrows fly.
  const flying = new Set<string>()
  let flown = new Vector3()
  let last = 0
  let request = 0
  let fast = false
  function fly(now: number) {
    const dt = Math.min(0.1, (now - last) / 1000)
    last = now
    scene.cancel()
    const s = begin({ clientX: 0, clientY: 0 })
    const level = new Vector3(s.back.x, 0, s.back.z).normalize()
    for (const k of flying) {
      const [x, y, z] = ways[k]!
      const step = dt * gentle * (fast ? brisk : 1)
      flown.addScaledVector(s.right, x * step).addScaledVector(level, -z * step)
      flown.y += y * step
    }
    const d = by(flown, `fly ${m(flown.length())}`)
    told.value = d.text
    if (flying.size) {
      scene.preview(d.name, d.args)
      request = requestAnimationFrame(fly)
      return
    }
    flown = new Vector3()
    request = 0
    told.value = ''
    scene.run(d.name, d.args)
  }
  useEventListener(
    window,
    'keydown',
    (e: KeyboardEvent) => {
      if (!unlocked() || typing(e) || e.ctrlKey || e.metaKey || e.altKey) return
      fast = e.shiftKey
      const here = over()
      if (here && ways[e.key]) {
        flying.add(e.key)
        if (!request) {
          last = performance.now()
          request = requestAnimationFrame(fly)
        }
      } else if (handlings.some((h) => h.key && h.key.toLowerCase() === e.key.toLowerCase())) {
        held.value = e.key === 'Shift' ? 'Shift' : e.key.toLowerCase()
        if (e.key === 'Shift' || !here) return
      } else return
      e.preventDefault()
      e.stopPropagation()
    },
    { capture: true },
  )
  useEventListener(window, 'keyup', (e: KeyboardEvent) => {
    fast = e.shiftKey
    flying.delete(e.key)
    if (e.key === held.value || e.key.toLowerCase() === held.value) held.value = ''
  })
  useEventListener(window, 'blur', () => {
    flying.clear()
    held.value = ''
  })
  onBeforeUnmount(() => cancelAnimationFrame(request))
  return { down, wheel, told, how }
}
