// What the plan shows, shared by its panes for as long as the page is open: from which side,
// the middle in metres, the scale in pixels for a metre, and what of the set is left out.
import { reactive } from 'vue'
import type { Vec3 } from '@/core/bridge'

export type Face = 'plan' | 'front' | 'side'

/** The sides from which the set is drawn flat. Right and down are directions of the picture, toward points to the eye. */
export const faces: Record<Face, { title: string; right: Vec3; down: Vec3; toward: Vec3 }> = {
  plan: { title: 'Plan', right: [1, 0, 0], down: [0, 0, 1], toward: [0, 1, 0] },
  front: { title: 'Elevation, looking to −Z', right: [1, 0, 0], down: [0, -1, 0], toward: [0, 0, 1] },
  side: { title: 'Elevation, looking to −X', right: [0, 0, -1], down: [0, -1, 0], toward: [1, 0, 0] },
}

/** What of the set is left out: all that is nearer to the eye than a slider says, which goes so far. */
export const cuts: Record<Face, { least: number; most: number; step: number; what: string }> = {
  plan: { least: -4, most: 14, step: 0.1, what: 'Show up to this height' },
  front: { least: -40, most: 40, step: 0.5, what: 'Show up to this depth' },
  side: { least: -40, most: 40, step: 0.5, what: 'Show up to this depth' },
}

export const planMemory = reactive({
  face: 'plan' as Face,
  middle: [-4, 3, 3] as Vec3,
  scale: 15,
  /** Metres along the way to the eye, by face; null for all of the set. */
  cut: { plan: null, front: null, side: null } as Record<Face, number | null>,
})

let of = ''
/** Another scene is shown as if it were the first: its set may be higher. */
export function planOf(scene: string) {
  if (of !== scene) Object.assign(planMemory.cut, { plan: null, front: null, side: null })
  of = scene
}
