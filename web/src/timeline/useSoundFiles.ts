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
  /** Takes files in; without a track each gets one of its own, tied to screen time. */
  async function take(files: File[], track: string) {
    for (const file of files) {
      busy.value = `taking in ${file.name}`
      try {
        const kept = await upload<{ blob: string; seconds: number }>('sounds', file)
        const name = stem(file)
        const on =
          track || scene.make('tracks', 'trackAdd', { name, clock: 'screen', assembly: scene.cut.assembly, gain: 0 })[0]
        if (!on) break
        const at = Math.round(scene.doc.tracks[on]!.clock === 'story' ? head.story : head.screen)
        const [made] = scene.make('sounds', 'soundAdd', { track: on, name, ...kept, in: at, gain: 0 })
        if (made) view.select('sounds', made)
      } catch (e) {
        ElMessage({ message: sentence((e as Error).message), type: 'warning', showClose: true })
      }
    }
    busy.value = ''
  }
  return { take, busy }
}
