// What keys and buttons do to the cut at the playhead and to the selected shots.
import { ElMessage } from 'element-plus'
import { useCutting } from '@/stores/cutting'
import { usePlayhead } from '@/stores/playhead'
import { useScene } from '@/stores/scene'
import { useView } from '@/stores/view'

/** How a new shot is put in. */
export type Placing = 'append' | 'insert' | 'overwrite' | 'card'

export function useCutActions() {
  const scene = useScene()
  const view = useView()
  const head = usePlayhead()
  const cutting = useCutting()
  const assembly = () => scene.cut.assembly
  const at = () => Math.round(head.screen)
  const say = (message: string) => ElMessage({ message, type: 'info', grouping: true, showClose: true })

  /** The selected shots, or the one on air. */
  const chosen = () => (view.shots.length ? view.shots : scene.doc.shots[head.airShot] ? [head.airShot] : [])
  function one(what: (id: string) => void) {
    const [id] = chosen()
    if (id) what(id)
    else say('Select a shot first.')
  }
  function several(what: (ids: string[]) => void) {
    const ids = chosen()
    if (ids.length) what(ids)
    else say('Select a shot first.')
  }
  const split = () => scene.run('shotSplit', { assembly: assembly(), at: at() })

  /** Puts a shot of the selected camera: as long as the range, or two seconds. */
  function place(how: Placing) {
    const r = head.marked.screen
    const frames = r ? r.out - r.in : Math.round(2 * scene.rate)
    const from = r && how !== 'append' ? r.in : at()
    if (how === 'card') {
      const [card] = scene.make('cards', 'cardAdd', { title: scene.doc.settings.title })
      if (card)
        made(
          scene.make('shots', 'shotInsert', {
            assembly: assembly(),
            plays: 'card',
            card,
            at: from,
            frames,
            name: 'Title',
          }),
        )
      return
    }
    const camera = view.camera || head.airCamera || scene.wall[0]?.id || ''
    const name = ({ append: 'shotAppend', insert: 'shotInsert', overwrite: 'shotOverwrite' } as const)[how]
    made(scene.make('shots', name, { assembly: assembly(), camera, at: from, frames }))
  }
  function made(ids: string[]) {
    if (ids[0]) view.select('shots', ids[0])
  }
  const trim = (by: number) =>
    one((id) => {
      const grip = cutting.grip
      if (grip === 'slip') return void scene.run('shotSlip', { ids: chosen(), by })
      if (grip === 'slide') return void scene.run('shotSlide', { id, by })
      if (grip === 'roll') {
        const i = scene.cut.shots.findIndex((s) => s.id === id)
        const seam = cutting.edge === 'in' ? id : scene.cut.shots[i + 1]?.id
        return void (seam && scene.run('shotRoll', { id: seam, by }))
      }
      scene.run('shotTrim', { id, edge: cutting.edge, by, ripple: grip === 'ripple', along: cutting.along })
    })
  /** Goes to the seam before or after the playhead. */
  function seam(direction: 1 | -1) {
    const seams = new Set<number>([0])
    for (const c of scene.cut.shots) {
      const s = scene.shotOf(c.id)
      if (s) seams.add(s.screenIn).add(s.screenOut)
    }
    jump([...seams], direction)
  }
  /** Goes to the marker before or after the playhead. */
  function marker(direction: 1 | -1) {
    const list = Object.values(scene.doc.markers).filter(
      (m) => m.clock === head.clock && (m.clock === 'story' || m.assembly === assembly()),
    )
    jump(
      list.map((m) => m.frame),
      direction,
    )
  }
  function jump(frames: number[], direction: 1 | -1) {
    const now = Math.round(head.frame)
    const ahead = frames.filter((f) => (direction > 0 ? f > now : f < now))
    if (ahead.length) head.set(direction > 0 ? Math.min(...ahead) : Math.max(...ahead))
  }
  const remove = (close: boolean) => {
    const r = head.marked.screen
    if (!view.shots.length && r) {
      if (scene.run('rangeClear', { assembly: assembly(), in: r.in, out: r.out, close })) head.marked.screen = null
      return
    }
    if (view.shots.length && scene.run('shotRemove', { ids: view.shots, close })) view.select('shots', '')
  }
  return {
    split,
    place,
    trim,
    seam,
    marker,
    remove,
    closeGap: () => scene.run('gapClose', { assembly: assembly(), at: at() }),
    duplicate: (spare = false) => several((ids) => made(scene.make('shots', 'shotDuplicate', { ids, spare }))),
    reach: () => one((id) => scene.run('shotReach', { id, at: at(), ripple: cutting.grip === 'ripple' })),
    tryShot: () => one((id) => scene.run('shotTry', { id })),
    freeze: () => scene.run('shotFreeze', { assembly: assembly(), at: at(), frames: Math.round(scene.rate) }),
    swap: () =>
      several((ids) => {
        const i = scene.cut.shots.findIndex((s) => s.id === ids[0])
        const [a] = ids
        const b = ids[1] ?? scene.cut.shots[i + 1]?.id
        if (a && b) scene.run('shotSwap', { a, b })
        else say('There is no shot after this one to swap with; select two.')
      }),
  }
}
