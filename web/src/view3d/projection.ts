// Cameras of the core as cameras of three.js.
import type { PerspectiveCamera } from 'three'
import type { CameraNow } from '@/core/bridge'

/** The projection of a lens with angles in degrees, shifted by tangents to the right and up. */
export function frustum(
  into: PerspectiveCamera,
  hfov: number,
  vfov: number,
  shiftX: number,
  shiftY: number,
  wider = { x: 1, y: 1 },
) {
  const near = 0.05
  const far = 3000
  const x = Math.tan((hfov * Math.PI) / 360) * wider.x
  const y = Math.tan((vfov * Math.PI) / 360) * wider.y
  into.fov = vfov
  into.aspect = x / y
  into.near = near
  into.far = far
  into.projectionMatrix.makePerspective(
    near * (shiftX - x),
    near * (shiftX + x),
    near * (shiftY + y),
    near * (shiftY - y),
    near,
    far,
    into.coordinateSystem,
  )
  into.projectionMatrixInverse.copy(into.projectionMatrix).invert()
}

/** Sets a three.js camera to a camera of the core. */
export function aim(into: PerspectiveCamera, matrix: Float32Array, c: CameraNow, wider = { x: 1, y: 1 }) {
  into.matrixAutoUpdate = false
  into.matrix.fromArray(matrix)
  into.matrixWorld.copy(into.matrix)
  into.matrixWorldInverse.copy(into.matrix).invert()
  frustum(into, c.hfov, c.vfov, c.shiftX, c.shiftY, wider)
}
