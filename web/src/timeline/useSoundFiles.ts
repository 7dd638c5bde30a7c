// Taking sound files in: they are decoded on the server and put on a track from
// the playhead on.
import { ElMessage } from 'element-plus'
import { ref } from 'vue'
import { stem, upload } from '@/api/uploads'
import { usePlayhead } from '@/stores/playhead'
import { useScene } from '@/stores/scene'
import { sentence } from '@/ui/sentence'
import { useView } from '@/stores/view'

export function useSoundFiles() {
  const scene = useScene()
  const view = useView()
  const head = usePlayhead()
  const busy = ref('')
  /** Puts a sound on a track from the playhead on; without a track it gets one of its own. */
  function put({ name, blob, seconds }: { name: string; blob: string; seconds: number }, track: string) {
    const on =
      track || scene.make('tracks', 'trackAdd', { name, clock: 'screen', assembly: scene.cut.assembly, gain: 0 })[0]
    if (!on) return
    const at = Math.round(scene.doc.tracks[on]!.clock === 'story' ? head.story : head.screen)
    const [made] = scene.make('sounds', 'soundAdd', { track: on, name, blob, seconds, in: at, gain: 0 })
    if (made) view.select('sounds', made)
  }
  /** Takes files in; without a track each gets one of its own, tied to screen time. */
  async function take(files: File[], track: string) {
    for (const file of files) {
      busy.value = `taking in ${file.name}`
      try {
        put({ name: stem(file), ...(await upload<{ blob: string; seconds: number }>('sounds', file)) }, track)
      } catch (e) {
        ElMessage({ message: sentence((e as Error).message), type: 'warning', showClose: true })
      }
    }
    busy.value = ''
  }
  return { take, put, busy }
}
