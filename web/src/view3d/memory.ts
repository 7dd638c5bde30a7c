// Where the scout view was left, for as long as the page is open.
import type { Vec3 } from '@/core/bridge'

interface Place {
  eye: Vec3
  target: Vec3
}
let place: Place = { eye: [-13, 6.5, 13], target: [-3, 2.2, 0] }

export function scoutMemory(set?: Place): Place {
  if (set) place = set
  return place
}
