// What the plan shows, shared by its panes for as long as the page is open:
// from which side, the middle in metres and the scale in pixels for a metre.
import { reactive } from 'vue'
import type { Vec3 } from '@/core/bridge'

export type Face = 'plan' | 'front' | 'side'

/** The sides from which the set is drawn flat. Right and down are directions of the picture, toward points to the eye. */
export const faces: Record<Face, { title: string; right: Vec3; down: Vec3; toward: Vec3 }> = {
  plan: { title: 'Plan', right: [1, 0, 0], down: [0, 0, 1], toward: [0, 1, 0] },
  front: { title: 'Elevation, looking to −Z', right: [1, 0, 0], down: [0, -1, 0], toward: [0, 0, 1] },
  side: { title: 'Elevation, looking to −X', right: [0, 0, -1], down: [0, -1, 0], toward: [1, 0, 0] },
}

export const planMemory = reactive({ face: 'plan' as Face, middle: [-4, 3, 3] as Vec3, scale: 15 })
