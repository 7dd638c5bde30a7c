// The alternates of the scene: which is worked in, what differs there, and what choosing
// a format, a cut or a scene chooses with it.
import { useLocalStorage } from '@vueuse/core'
import { ElMessage } from 'element-plus'
import { defineStore } from 'pinia'
import { computed, shallowRef, ref, watch } from 'vue'
import { core, layerOf, layerParts, type AlternateNow, type ShotLayerNow } from '@/core/bridge'
import { useScene } from './scene'

/** The colour of what is in one shot only, in the scene itself. */
const shotHue = 'var(--one-shot)'
/** Hues of frames, far from each other and from those of what is said by colour. */
const hues = [282, 190, 330, 150, 225, 60, 305, 100]

export interface Listed extends AlternateNow {
  name: string
  color: string
}

export const useAlternates = defineStore('alternates', () => {
  const scene = useScene()
  /** The one that was worked in last, in this scene. */
  const last = ref('')
  /** By productions, the name that all their scenes know of the alternate that was chosen. */
  const known = useLocalStorage<Record<string, string>>('proscen.known', {})
  const all = shallowRef<Listed[]>([])
  /** Fields that differ where is worked, by collection/id. */
  const differ = shallowRef<Record<string, string[]>>({})
  /** What is worked in: an alternate, or one shot in it or in the scene; none for the scene itself. */
  const here = computed<Listed | undefined>(() => {
    const of = all.value.find((a) => a.id === scene.alternate)
    if (!scene.onlyIn) return of
    const name = called(scene.layer)
    return {
      id: scene.layer,
      name,
      depth: 0,
      color: of?.color ?? shotHue,
      count: shots.value.find((s) => s.layer === scene.layer)?.count ?? 0,
    }
  })
  /** What single shots have for themselves, in any alternate. */
  const shots = shallowRef<ShotLayerNow[]>([])
  const apart = computed(() => new Set(shots.value.map((s) => s.shot)))
  /** How much a shot has for itself where is worked. */
  const ofShot = (shot: string) => shots.value.reduce((n, s) => n + (s.here && s.shot === shot ? s.count : 0), 0)
  /** What people call a layer. */
  function called(layer: string): string {
    const { alternate, shot } = layerParts(layer)
    const name = scene.doc.alternates[alternate]?.name ?? ''
    if (!shot) return name
    return `only in shot ${scene.doc.shots[shot]?.number ?? '–'}${name ? `, ${name}` : ''}`
  }

  /** What people call what is differed from. */
  const below = computed(() => {
    const of = scene.doc.alternates[scene.alternate]
    if (scene.onlyIn) return of ? `all of ${of.name}` : 'all shots'
    return (of?.parent && scene.doc.alternates[of.parent]?.name) || 'the scene'
  })
  watch(
    [() => scene.loaded, () => scene.differed, () => scene.layer],
    () => {
      const layers = scene.loaded ? core.alternates() : { alternates: [], shots: [] }
      all.value = layers.alternates.map((a, i) => ({
        ...a,
        name: scene.doc.alternates[a.id]?.name ?? '',
        color: `hsl(${hues[i % hues.length]} 55% 66%)`,
      }))
      shots.value = layers.shots
      differ.value = scene.loaded && scene.layer ? core.differ() : {}
    },
    { immediate: true },
  )

  /** Works in one, '' for the scene itself; what it is bound to is chosen with it. */
  function workIn(id: string) {
    if (!scene.workIn(id)) return
    if (id) last.value = id
    if (scene.onlyIn) return
    const a = scene.doc.alternates[id]
    known.value = { ...known.value, [scene.doc.settings.production]: a?.known ?? '' }
    if (a?.assembly && scene.doc.assemblies[a.assembly]) scene.choose(a.assembly)
  }
  /** Works in one shot only from now on, where it is in the alternate that is worked in; in that again when it is. */
  function inShot(shot: string) {
    if (shot && !scene.doc.shots[shot])
      return void ElMessage({ message: 'What is on air here is no shot of the cut.', type: 'info', showClose: true })
    workIn(!shot || scene.onlyIn === shot ? scene.alternate : layerOf(scene.alternate, shot))
  }
  /** From the alternate to the scene, from one shot to all, and back to where one was. */
  function flip() {
    const { alternate: of, shot } = layerParts(last.value)
    if (scene.onlyIn) return workIn(scene.alternate)
    if (shot && of === scene.alternate && scene.doc.shots[shot]) return workIn(last.value)
    workIn(scene.alternate ? '' : scene.doc.alternates[of] ? of : (all.value[0]?.id ?? ''))
  }
  /** Works in what is bound to a format or an assembly; false when nothing new is. */
  function follow(what: 'format' | 'assembly', id: string): boolean {
    const bound = Object.entries(scene.doc.alternates).find(([, a]) => a[what] === id)?.[0] ?? ''
    const here = scene.doc.alternates[scene.alternate]
    if (bound) {
      if (bound === scene.alternate) return false
      workIn(bound)
      return true
    }
    if (!here?.[what]) return false
    workIn(here.parent ?? '') // what was bound to the other one is left with it
    return what === 'format' && scene.doc.settings.format === id
  }
  /** Chooses an assembly, with what is bound to it. */
  function choose(assembly: string) {
    if (!follow('assembly', assembly)) scene.choose(assembly)
  }
  watch(
    () => scene.loaded && scene.id,
    (id) => {
      if (!id) return
      last.value = ''
      const name = known.value[scene.doc.settings.production]
      const its = name && Object.entries(scene.doc.alternates).find(([, a]) => a.known === name)?.[0]
      if (its) workIn(its)
    },
    { flush: 'post' },
  )
  return { all, here, below, differ, shots, apart, ofShot, called, last, workIn, inShot, flip, follow, choose }
})
