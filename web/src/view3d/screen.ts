// What plan, elevation and scout have in common for marks and handles drawn
// over them: from the world to the picture and back.
import { Matrix4, Plane, Ray, Vector2, Vector3, type Camera } from 'three'
import type { Vec3 } from '@/core/bridge'
import type { Stage } from './stage'

/** A view that marks are drawn over. */
export interface Screen {
  element: HTMLElement
  camera: Camera
  /** Across which plane things are dragged freely. */
  normal: Vec3
  width: number
  height: number
}

const scratch = new Vector3()

/** Where a place is in the picture in pixels; null behind the eye. */
export function project(s: Screen, at: Vec3): { x: number; y: number } | null {
  scratch.fromArray(at).project(s.camera)
  // A camera whose view has no size yet shows nothing, in numbers that are none.
  if (!(Math.abs(scratch.z) <= 1 && Number.isFinite(scratch.x + scratch.y))) return null
  return { x: ((scratch.x + 1) / 2) * s.width, y: ((1 - scratch.y) / 2) * s.height }
}

/** A pointer's place from −1 to 1. */
export function pointer(s: Screen, e: { clientX: number; clientY: number }): Vector2 {
  const b = s.element.getBoundingClientRect()
  return new Vector2(((e.clientX - b.x) / b.width) * 2 - 1, 1 - ((e.clientY - b.y) / b.height) * 2)
}

function ray(stage: Stage, s: Screen, e: { clientX: number; clientY: number }): Ray {
  const { from, direction } = stage.rayAt(pointer(s, e), s.camera)
  return new Ray(new Vector3(...from), new Vector3(...direction))
}

/** Where a pointer meets the plane through a place; null when it misses it. */
export function onPlane(stage: Stage, s: Screen, e: PointerLike, through: Vec3, normal: Vec3): Vec3 | null {
  const plane = new Plane().setFromNormalAndCoplanarPoint(new Vector3(...normal), new Vector3(...through))
  const hit = ray(stage, s, e).intersectPlane(plane, new Vector3())
  return hit && hit.toArray()
}

/** How far in metres along an axis through a place a pointer is. */
export function alongAxis(stage: Stage, s: Screen, e: PointerLike, through: Vec3, axis: Vec3): number {
  const a = new Vector3(...axis)
  const far = 1e4
  const from = new Vector3(...through)
  const on = new Vector3()
  const r = ray(stage, s, e)
  r.distanceSqToSegment(from.clone().addScaledVector(a, -far), from.clone().addScaledVector(a, far), undefined, on)
  return on.sub(from).dot(a)
}

export interface PointerLike {
  clientX: number
  clientY: number
}

/** Metres of one pixel at a place. */
export function pixel(s: Screen, at: Vec3): number {
  const m = s.camera.matrixWorld.elements
  const right: Vec3 = [m[0]!, m[1]!, m[2]!]
  const a = project(s, at)
  const b = project(s, [at[0] + right[0], at[1] + right[1], at[2] + right[2]])
  if (!a || !b) return 0.01
  return 1 / Math.max(1e-6, Math.hypot(a.x - b.x, a.y - b.y))
}

/** The three axes of a matrix, made unit. */
export function axesOf(m: Matrix4 | null): [Vec3, Vec3, Vec3] {
  if (!m)
    return [
      [1, 0, 0],
      [0, 1, 0],
      [0, 0, 1],
    ]
  const [x, y, z] = [new Vector3(), new Vector3(), new Vector3()]
  m.extractBasis(x, y, z)
  return [x.normalize().toArray(), y.normalize().toArray(), z.normalize().toArray()]
}

export const add = (a: Vec3, b: Vec3, k = 1): Vec3 => [a[0] + b[0] * k, a[1] + b[1] * k, a[2] + b[2] * k]
export const less = (a: Vec3, b: Vec3): Vec3 => [a[0] - b[0], a[1] - b[1], a[2] - b[2]]
export const distance = (a: Vec3, b: Vec3): number => Math.hypot(a[0] - b[0], a[1] - b[1], a[2] - b[2])
export const tidy = (v: Vec3, digits = 4): Vec3 => v.map((x) => +x.toFixed(digits)) as Vec3
