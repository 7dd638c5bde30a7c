// Matching the camera that is looked through to a picture: points are pressed in the
// picture and in the set, and the core finds where the camera stood.
import { useLocalStorage } from '@vueuse/core'
import { defineStore } from 'pinia'
import { computed, ref, watch } from 'vue'
import type { KeptImage } from '@/api/uploads'
import { core, type Match, type Operation, type Vec3 } from '@/core/bridge'
import { usePlayhead } from './playhead'
import { useScene } from './scene'
import { useView } from './view'

/** A place in a picture, from −1 to 1 of its half width and height, to the right and up. */
export type InPicture = [number, number]

export const useMatching = defineStore('matching', () => {
  const scene = useScene()
  const view = useView()
  const head = usePlayhead()
  const panels = ref(0) // how many are open: one that takes another's place comes before that goes
  const half = ref<{ in?: InPicture; at?: Vec3 }>({}) // a new point that has one of its two places
  const chosen = ref(-1) // the point that the panel tells of
  const opacity = useLocalStorage('proscen.match.opacity', 50)
  const surface = useLocalStorage<'scout' | 'plan'>('proscen.match.surface', 'scout') // where the set is pressed

  /** The camera that is being matched. */
  const camera = computed(() => (panels.value > 0 && view.desk === 'frame' && !view.shapes ? view.through : ''))
  const match = computed<Match | undefined>(() => scene.doc.nodes[camera.value]?.camera?.match)
  const points = computed(() => match.value?.points ?? [])
  /** Whether presses in the views are points. */
  const pressing = computed(() => !!match.value)

  /** The operation that gives the match other fields, at the playhead. */
  function change(fields: Partial<Match>): Operation {
    const to = { ...match.value!, ...fields }
    return { name: 'cameraMatch', args: { id: camera.value, frame: head.story, key: view.autoKey, match: to } }
  }
  function run(fields: Partial<Match>) {
    const { name, args } = change(fields)
    return scene.run(name, args)
  }
  /** The same with one point elsewhere. */
  const moved = (index: number, to: { in?: InPicture; at?: Vec3 }) =>
    change({ points: points.value.map((p, i) => (i === index ? { ...p, ...to } : p)) })

  /** Takes one of the two places of a new point; with both it is one. */
  function press(place: { in?: InPicture; at?: Vec3 }) {
    const { in: picture, at } = Object.assign(half.value, place)
    if (!picture || !at) return
    half.value = {}
    if (run({ points: [...points.value, { in: picture, at }] })) chosen.value = points.value.length - 1
  }
  function remove(index: number) {
    if (run({ points: points.value.filter((_, i) => i !== index) })) chosen.value = -1
  }
  /** Begins with a picture, or changes to another one with the points that there are. */
  function show({ blob, width, height }: KeptImage) {
    scene.run('cameraMatch', {
      id: view.through,
      frame: head.story,
      key: view.autoKey,
      match: { free: true, ...match.value, blob, width, height },
    })
  }
  function away() {
    scene.run('cameraMatch', { id: camera.value, frame: head.story })
  }
  /** How well the camera shows the points, at a tick of the views. */
  const quality = () => (match.value ? core.matched(camera.value, head.story) : null)

  watch([camera, () => match.value?.blob], () => {
    half.value = {}
    chosen.value = -1
  })
  return {
    ...{ panels, half, chosen, opacity, surface, camera, match, points, pressing },
    ...{ change, run, moved, press, remove, show, away, quality },
  }
})
