// Where the scout view was left in each scene, for as long as the page is open.
import { core, type Vec3 } from '@/core/bridge'
import { useScene } from '@/stores/scene'

interface Place {
  eye: Vec3
  target: Vec3
}
const places = new Map<string, Place>()
const first: Place = { eye: [-13, 6.5, 13], target: [-3, 2.2, 0] }

export function scoutMemory(set?: Place): Place {
  const { id } = useScene()
  if (set && id) places.set(id, set)
  return places.get(id) ?? first
}

/** Where the scout view stands and looks, as a place and a turn for a camera. */
export function scoutPose(): { position: Vec3; turn: Vec3 } {
  const { eye, target } = scoutMemory()
  const [pan, tilt] = core.aimAngles([target[0] - eye[0], target[1] - eye[1], target[2] - eye[2]])
  return { position: eye.map((v) => +v.toFixed(3)) as Vec3, turn: [+pan.toFixed(2), +tilt.toFixed(2), 0] }
}
