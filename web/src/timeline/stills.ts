// The first picture of each shot that is in sight. A picture is made again some
// time after what it shows has changed; changes of the cut make only what is new.
import { useDebounceFn, useEventListener } from '@vueuse/core'
import { onBeforeUnmount, shallowRef, watch } from 'vue'
import { core, ownLight, type Playing } from '@/core/bridge'
import { useAlternates } from '@/stores/alternates'
import { usePlayhead } from '@/stores/playhead'
import { useScene } from '@/stores/scene'
import { useStage } from '@/view3d/stage'

const width = 128
const height = 72
const most = 600 // pictures that are kept
const retryAfter = 5000
const kept = shallowRef<Record<string, string>>({})
/** What each kept picture shows: camera, story frame and the state of the scene. */
const shows = new Map<string, string>()

/** A card as an address. */
function drawn(card: object): string {
  const pixels = core.cardPicture(card as { say: string }, width, height)
  if (!pixels) return ''
  const canvas = document.createElement('canvas')
  canvas.width = width
  canvas.height = height
  canvas.getContext('2d')!.putImageData(new ImageData(new Uint8ClampedArray(pixels), width, height), 0, 0)
  return canvas.toDataURL('image/jpeg', 0.85)
}

/** Keeps pictures for the shots that wanted says. */
export function useStills(wanted: () => string[]) {
  const scene = useScene()
  const stage = useStage()
  const alternates = useAlternates()
  const head = usePlayhead()
  let alive = true
  let making = false
  let held = false // a button is held: a drag may go on
  let rolled = -Infinity // when the wheel was turned last
  useEventListener(window, 'pointerdown', () => (held = true), { capture: true, passive: true })
  useEventListener(window, ['pointerup', 'pointercancel'], () => (held = false), { capture: true, passive: true })
  useEventListener(window, 'wheel', () => (rolled = performance.now()), { capture: true, passive: true })
  /** Whether the artist is in the middle of something that pictures would hold up. */
  const busy = () => head.playing || held || performance.now() - rolled < 400 || stage.yields > 0
  async function picture(id: string, p: Playing): Promise<string> {
    if (p.still?.blob) return `/api/images/${p.still.blob}`
    if (p.still?.video) return `/api/footage/${p.still.video}/picture`
    if (p.still) return drawn(scene.doc.cards[p.still.card ?? ''] ?? { say: p.still.say ?? 'No picture.' })
    return stage.still(p.camera, p.story, width, height, id)
  }
  async function make() {
    if (making) return
    making = true
    let failed = false
    for (const id of wanted()) {
      if (busy()) {
        void soon()
        break
      }
      const s = scene.shotOf(id)
      const p =
        s &&
        (scene.doc.shots[id]
          ? core.shotAt(id, s.screenIn)
          : { shot: id, camera: s.camera, story: s.storyIn, weight: 1 })
      if (!p) continue
      const seen = p.still ? JSON.stringify(p.still) + JSON.stringify(scene.doc.cards[p.still.card ?? ''] ?? 0) : ''
      const now = `${scene.id} ${p.still ? seen : `${scene.pictured} ${p.camera} ${p.story} ${ownLight(s)} ${alternates.apart.has(id) ? scene.differed : ''}`}`
      if (shows.get(id) === now) continue
      if (!alive) break
      if (shows.size > most) {
        shows.clear()
        kept.value = {}
      }
      shows.set(id, now)
      const made = await picture(id, p).catch(() => '')
      if (!made) {
        shows.delete(id)
        failed = true
        continue
      }
      kept.value = { ...kept.value, [id]: made }
      await new Promise((r) => setTimeout(r, 30)) // leaves room for what the artist does meanwhile
    }
    making = false
    if (failed && alive) setTimeout(soon, retryAfter)
  }
  const soon = useDebounceFn(make, 500)
  watch([() => scene.changes, () => wanted().join()], soon, { immediate: true })
  onBeforeUnmount(() => (alive = false))
  return kept
}
