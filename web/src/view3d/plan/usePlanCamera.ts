// The flat camera of plan and elevations: where a place is in the picture, and
// which place is under the pointer.
import { Matrix4, OrthographicCamera, Vector3 } from 'three'
import { computed, type Ref } from 'vue'
import type { Vec3 } from '@/core/bridge'
import { add } from '../screen'
import { faces, planMemory } from './memory'

/** How far the eye is away in metres; the plan leaves out what is more than `highest` high. */
const away = 400
const highest = 38

export function usePlanCamera(width: Ref<number>, height: Ref<number>) {
  const area = planMemory
  const ortho = new OrthographicCamera()
  const face = computed(() => faces[area.face])
  const dot = (a: Vec3, b: Vec3) => a[0] * b[0] + a[1] * b[1] + a[2] * b[2]

  function camera() {
    const w = width.value / area.scale / 2
    const h = height.value / area.scale / 2
    const { right, down, toward } = face.value
    const plan = area.face === 'plan'
    const eye = plan ? ([area.middle[0], away, area.middle[2]] as Vec3) : add(area.middle, toward, away)
    const asked = area.cut[area.face]
    ortho.userData.cut = asked !== null
    const cut = asked ?? (plan ? highest : Infinity)
    const near = Math.max(1, dot(eye, toward) - cut)
    Object.assign(ortho, { left: -w, right: w, top: h, bottom: -h, near, far: Math.max(near + 1, away + 400) })
    const basis = new Matrix4().makeBasis(new Vector3(...right), new Vector3(...down).negate(), new Vector3(...toward))
    ortho.position.set(...eye)
    ortho.quaternion.setFromRotationMatrix(basis)
    ortho.updateProjectionMatrix()
    ortho.updateMatrixWorld()
    return ortho
  }
  /** Where a place is in the picture, in pixels. */
  const x = (v: ArrayLike<number>) =>
    (dot(vec(v), face.value.right) - dot(area.middle, face.value.right)) * area.scale + width.value / 2
  const y = (v: ArrayLike<number>) =>
    (dot(vec(v), face.value.down) - dot(area.middle, face.value.down)) * area.scale + height.value / 2
  const vec = (v: ArrayLike<number>): Vec3 => [v[0]!, v[1]!, v[2]!]

  /** The place under a pointer, as deep in the picture as another place. */
  function under(element: HTMLElement, e: { clientX: number; clientY: number }, depth: Vec3 = area.middle): Vec3 {
    const b = element.getBoundingClientRect()
    const u = (e.clientX - b.x - width.value / 2) / area.scale
    const v = (e.clientY - b.y - height.value / 2) / area.scale
    const at = add(add(area.middle, face.value.right, u), face.value.down, v)
    const off = dot(depth, face.value.toward) - dot(at, face.value.toward)
    return add(at, face.value.toward, off)
  }
  /** A line of places as the data of an SVG path. */
  function line(points: number[]): string {
    let s = ''
    for (let i = 0; i + 2 < points.length; i += 3) {
      const p = [points[i]!, points[i + 1]!, points[i + 2]!]
      s += `${i ? 'L' : 'M'}${x(p).toFixed(1)} ${y(p).toFixed(1)}`
    }
    return s
  }
  /** The direction of the picture, in degrees clockwise from up, that a direction points to. */
  const bearing = (d: Vec3) => (Math.atan2(dot(d, face.value.right), -dot(d, face.value.down)) * 180) / Math.PI
  return { area, face, ortho, camera, x, y, under, line, bearing }
}
