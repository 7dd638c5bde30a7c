// Where the scout view was left, for as long as the page is open.
import { core, type Vec3 } from '@/core/bridge'

interface Place {
  eye: Vec3
  target: Vec3
}
let place: Place = { eye: [-13, 6.5, 13], target: [-3, 2.2, 0] }

export function scoutMemory(set?: Place): Place {
  if (set) place = set
  return place
}

/** Where the scout view stands and looks, as a place and a turn for a camera. */
export function scoutPose(): { position: Vec3; turn: Vec3 } {
  const { eye, target } = place
  const [pan, tilt] = core.aimAngles([target[0] - eye[0], target[1] - eye[1], target[2] - eye[2]])
  return { position: eye.map((v) => +v.toFixed(3)) as Vec3, turn: [+pan.toFixed(2), +tilt.toFixed(2), 0] }
}
