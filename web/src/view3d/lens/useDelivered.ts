// A frame as it is delivered, over the live picture until something changes.
import { ElMessage } from 'element-plus'
import { onBeforeUnmount, ref, watch } from 'vue'
import { usePlayhead } from '@/stores/playhead'
import { useScene } from '@/stores/scene'
import { sentence } from '@/ui/sentence'

/** A frame of screen time, or of a camera on story time. */
export interface Spot {
  frame: number
  camera?: string
}

export function useDelivered(spot: () => Spot) {
  const scene = useScene()
  const head = usePlayhead()
  /** The address of the picture, '' while the live one is seen. */
  const picture = ref('')
  const waiting = ref(false)
  let asked = 0
  function drop() {
    asked++
    waiting.value = false
    if (picture.value) URL.revokeObjectURL(picture.value)
    picture.value = ''
  }
  /** Shows it, or the live picture again. */
  async function toggle() {
    if (picture.value || waiting.value) return drop()
    const mine = ++asked
    const { frame, camera } = spot()
    waiting.value = true
    try {
      await scene.flushed() // the server draws what is saved
      const query = new URLSearchParams({ assembly: scene.cut.assembly, frame: String(Math.round(frame)) })
      if (camera) query.set('camera', camera)
      query.set('format', scene.doc.settings.format)
      const r = await fetch(`/api/scenes/${scene.id}/frame?${query}`).catch(() => {
        throw new Error('The server does not answer. Check that it is running and try again.')
      })
      if (!r.ok) {
        const problem = (await r.json().catch(() => null)) as { title?: string } | null
        throw new Error(problem?.title ?? `The server answered ${r.status}.`)
      }
      const blob = await r.blob()
      if (mine === asked) picture.value = URL.createObjectURL(blob)
    } catch (e) {
      if (mine === asked) ElMessage({ message: sentence((e as Error).message), type: 'warning', showClose: true })
    } finally {
      if (mine === asked) waiting.value = false
    }
  }
  watch([() => JSON.stringify(spot()), () => scene.changes, () => head.playing], drop)
  onBeforeUnmount(drop)
  return { picture, waiting, toggle }
}
