// The alternates of the scene: which is worked in, what differs there, and what choosing
// a format, a cut or a scene chooses with it.
import { useLocalStorage } from '@vueuse/core'
import { defineStore } from 'pinia'
import { computed, shallowRef, ref, watch } from 'vue'
import { core, type AlternateNow } from '@/core/bridge'
import { useScene } from './scene'

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
  const here = computed(() => all.value.find((a) => a.id === scene.alternate))

  watch(
    [() => scene.loaded, () => scene.differed, () => scene.alternate],
    () => {
      all.value = !scene.loaded
        ? []
        : core.alternates().map((a, i) => ({
            ...a,
            name: scene.doc.alternates[a.id]?.name ?? '',
            color: `hsl(${hues[i % hues.length]} 55% 66%)`,
          }))
      differ.value = scene.loaded && scene.alternate ? core.differ() : {}
    },
    { immediate: true },
  )

  /** Works in one, '' for the scene itself; what it is bound to is chosen with it. */
  function workIn(id: string) {
    if (!scene.workIn(id)) return
    if (id) last.value = id
    const a = scene.doc.alternates[id]
    known.value = { ...known.value, [scene.doc.settings.production]: a?.known ?? '' }
    if (a?.assembly && scene.doc.assemblies[a.assembly]) scene.choose(a.assembly)
  }
  /** From the alternate to the scene, and back to where one was. */
  function flip() {
    const to = scene.alternate ? '' : scene.doc.alternates[last.value] ? last.value : (all.value[0]?.id ?? '')
    workIn(to)
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
  return { all, here, differ, last, workIn, flip, follow, choose }
})
