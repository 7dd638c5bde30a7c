// A frame as it is delivered, over the live picture until something changes.
import { ElMessage } from 'element-plus'
import { onBeforeUnmount, ref, watch } from 'vue'
import { usePlayhead } from '@/stores/playhead'
import { useScene } from '@/stores/scene'
import { api, ask } from '@/api/client'
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
      const format = scene.doc.settings.format
      const alternate = scene.alternate || undefined
      const query = {
        assembly: scene.cut.assembly,
        frame: Math.round(frame),
        format,
        alternate,
        camera: camera || undefined,
      }
      const blob = await ask<Blob>(
        api.GET('/scenes/{scene}/frame', { params: { path: { scene: scene.id }, query }, parseAs: 'blob' }),
      )
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
