// Several pictures side by side, in step: of alternates, assemblies, cameras or formats. One
// of them leads: it is what is worked in, and the time is its time.
import { useLocalStorage } from '@vueuse/core'
import { defineStore } from 'pinia'
import { computed, shallowRef, watch } from 'vue'
import { core, type Air, type ComparedSide } from '@/core/bridge'
import { useAlternates } from './alternates'
import { usePlayhead } from './playhead'
import { useScene } from './scene'
import { useView } from './view'

/** One picture; '' for the alternate stands for the scene itself. */
export interface Side {
  alternate: string
  assembly: string
  /** A camera by itself, '' for what the cut shows. */
  camera: string
  /** '' for the one that is worked in there. */
  format: string
}
export const layouts = [2, 3, 4, 6] as const
interface Kept {
  layout: (typeof layouts)[number]
  wiped: boolean
  step: 'cut' | 'story'
  lead: number
  sides: Side[]
}
const usual = (): Kept => ({ layout: 2, wiped: false, step: 'cut', lead: 0, sides: [] })

export const useComparing = defineStore('comparing', () => {
  const scene = useScene()
  const alternates = useAlternates()
  const head = usePlayhead()
  const view = useView()
  const kept = useLocalStorage<Record<string, Kept>>('proscen.beside', {})
  const how = computed(() => ({ ...usual(), ...kept.value[scene.id] }))
  const keep = (change: Partial<Kept>) => (kept.value = { ...kept.value, [scene.id]: { ...how.value, ...change } })
  const count = computed(() => (how.value.wiped ? 2 : how.value.layout))
  const lead = computed(() => Math.min(how.value.lead, count.value - 1))

  /** What picture number i shows, of what is there now. */
  function sideOf(i: number): Side {
    const s = how.value.sides[i] ?? offered(i)
    const there = !s.alternate || scene.doc.alternates[s.alternate]
    if (i === lead.value) return { ...s, alternate: scene.alternate, assembly: scene.cut.assembly }
    return {
      alternate: there ? s.alternate : '',
      assembly: scene.doc.assemblies[s.assembly] ? s.assembly : scene.cut.assembly,
      camera: scene.doc.nodes[s.camera] || s.alternate !== scene.alternate ? s.camera : '',
      format: scene.doc.formats[s.format] ? s.format : '',
    }
  }
  /** What is shown before anything is chosen: alternates, then assemblies, then cameras. */
  function offered(i: number): Side {
    const plain = { alternate: scene.alternate, assembly: scene.cut.assembly, camera: '', format: '' }
    const others: Side[] = [
      ...['', ...alternates.all.filter((a) => !a.shut).map((a) => a.id)]
        .filter((id) => id !== scene.alternate)
        .map((alternate) => ({ ...plain, alternate })),
      ...Object.keys(scene.doc.assemblies)
        .filter((id) => id !== scene.cut.assembly)
        .map((assembly) => ({ ...plain, assembly })),
      ...scene.wall.map((c) => ({ ...plain, camera: c.id })),
    ]
    return i === 0 ? plain : (others[i - 1] ?? plain)
  }
  const sides = computed(() => Array.from({ length: count.value }, (_, i) => sideOf(i)))

  /** Lets a picture show something else; what leads is what is worked in. */
  function show(i: number, change: Partial<Side>) {
    const all = Array.from({ length: Math.max(count.value, how.value.sides.length) }, (_, k) => sideOf(k))
    all[i] = { ...all[i]!, ...change }
    keep({ sides: all })
    if (i !== lead.value) return
    if (change.alternate !== undefined) alternates.workIn(change.alternate)
    if (change.assembly !== undefined) alternates.choose(change.assembly)
  }
  /** Another picture leads from now on. */
  function leads(i: number) {
    const all = sides.value.map((s) => ({ ...s }))
    const to = all[i]!
    alternates.workIn(to.alternate)
    if (scene.alternate !== to.alternate) return // which has been said
    keep({ lead: i, sides: all })
    if (to.assembly !== scene.cut.assembly) scene.choose(to.assembly)
  }

  /** What is to be known of the alternates that are seen. */
  const known = shallowRef<Record<string, ComparedSide>>({})
  const wanted = computed(() =>
    view.beside && scene.loaded && !scene.past ? [...new Set(sides.value.map((s) => s.alternate))] : [],
  )
  watch(
    [() => JSON.stringify(wanted.value), () => scene.differed, () => scene.doc.settings.format],
    () => (known.value = scene.loaded && !scene.past ? core.comparing(wanted.value) : {}),
    { immediate: true },
  )

  /** What a picture shows now, with the frame of screen time that it is; −1 when its cut has nothing then. */
  function airOf(s: Side): Air & { screen: number } {
    if (s.camera)
      return { screen: head.screen, playing: [{ shot: '', camera: s.camera, story: head.story, weight: 1 }] }
    if (!scene.cut.shots.length) return { screen: head.screen, ...head.air }
    return core.beside({ alternate: s.alternate }, () => {
      const byStory = how.value.step === 'story' || head.clock === 'story'
      const screen = byStory ? core.screenAt(head.story, head.screen, s.assembly) : head.screen
      return { screen, ...(screen < 0 ? { playing: [] } : core.airOf(s.assembly, screen)) }
    })
  }
  return { how, keep, count, lead, sides, show, leads, known, airOf }
})
