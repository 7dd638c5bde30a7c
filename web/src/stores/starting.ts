// The first steps in an empty scene: what empty places offer to do.
import { useLocalStorage } from '@vueuse/core'
import { defineStore } from 'pinia'
import { computed, watch } from 'vue'
import { scoutPose } from '@/view3d/memory'
import { useScene } from './scene'
import { useView } from './view'

/** Seconds of the first shot. */
const firstShot = 3

export type Step = 'set' | 'camera'

/** The focal length in mm of a camera that is left where scout is. */
export const firstFocal = 28

export const useStarting = defineStore('starting', () => {
  const scene = useScene()
  const view = useView()
  /** Steps that have been done, or sent away, in any scene: nobody needs to be told again. */
  const known = useLocalStorage<Step[]>('proscen.steps', [])
  const open = computed<Record<Step, boolean>>(() => ({
    set: Object.keys(scene.doc.nodes).length <= 1,
    camera: !scene.cameras.length,
  }))
  const shows = (step: Step) => scene.loaded && open.value[step] && !known.value.includes(step)
  function forget(step: Step) {
    if (!known.value.includes(step)) known.value = [...known.value, step]
  }
  for (const step of ['set', 'camera'] as const)
    watch(
      () => [scene.id, scene.loaded, open.value[step]] as const,
      ([id, loaded, now], [before, was, then]) => {
        if (loaded && was && id === before && then && !now) forget(step)
      },
    )

  function person() {
    const [made] = scene.make('nodes', 'stockPlace', { kind: 'cast', name: 'Person', position: [0, 0, 0] })
    if (made) view.select('nodes', made)
  }
  /** Leaves a camera where scout is. */
  function camera() {
    const [made] = scene.make('nodes', 'cameraAdd', { ...scoutPose(), focal: firstFocal })
    if (made) view.select('nodes', made)
  }
  /** Lets the first camera be seen for some seconds at the beginning of the cut. */
  function shot() {
    const first = scene.cameras[0]
    if (!first) return
    const [made] = scene.make('shots', 'shotAppend', {
      assembly: scene.cut.assembly,
      camera: first.id,
      frames: Math.round(firstShot * scene.rate),
    })
    if (made) view.select('shots', made)
  }
  return { shows, forget, person, camera, shot }
})
