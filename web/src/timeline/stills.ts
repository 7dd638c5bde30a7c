// The first picture of each shot. A picture is made again some time after what
// it shows has changed; changes of the cut make only what is new in it.
import { useDebounceFn } from '@vueuse/core'
import { onBeforeUnmount, shallowRef, watch } from 'vue'
import { useScene } from '@/stores/scene'
import { useStage } from '@/view3d/stage'

const kept = shallowRef<Record<string, string>>({})
/** What each kept picture shows: camera, story frame and the state of the scene. */
const shows = new Map<string, string>()

export function useStills() {
  const scene = useScene()
  const stage = useStage()
  let alive = true
  async function make() {
    for (const { id } of scene.cut.shots) {
      const s = scene.doc.shots[id]
      const now = s && `${scene.id} ${scene.pictured} ${s.camera} ${s.storyIn}`
      if (!now || shows.get(id) === now) continue
      if (!alive) return
      shows.set(id, now)
      kept.value = { ...kept.value, [id]: stage.still(s.camera, s.storyIn, 128, 72, id) }
      await new Promise((r) => setTimeout(r, 30)) // leaves room for what the artist does meanwhile
    }
  }
  const soon = useDebounceFn(make, 500)
  watch(() => scene.changes, soon, { immediate: true })
  onBeforeUnmount(() => (alive = false))
  return kept
}
