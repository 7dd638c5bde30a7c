// What the scenes of a production share, as seen from an open scene of it. The library
// itself is a document like a scene, and is opened like one on its own page.
import { until } from '@vueuse/core'
import { ElMessage } from 'element-plus'
import { defineStore } from 'pinia'
import { computed, ref, shallowRef } from 'vue'
import { api, ask } from '@/api/client'
import type { Document, Kit } from '@/core/bridge'
import { sentence } from '@/ui/sentence'
import { usePerson } from './person'
import { useScene } from './scene'

/** Collections of a library whose entities are copied into scenes that use them. */
export type Shared = 'models' | 'sounds' | 'cards' | 'footage'

export const useLibrary = defineStore('library', () => {
  const scene = useScene()
  const person = usePerson()
  const id = ref('')
  const kept = shallowRef<Document | null>(null)
  const failure = ref('')

  /** Reads the library of the production of the open scene. */
  async function load(): Promise<boolean> {
    const { production } = scene.doc.settings
    // What another scene's production has is not offered here.
    if (kept.value?.settings.production !== production) {
      kept.value = null
      id.value = ''
    }
    try {
      const found = (await ask(api.GET('/productions'))).find((p) => p.name === production)
      if (!found) throw new Error(`There is no production ${production} any more.`)
      const { document } = await ask(api.GET('/scenes/{scene}', { params: { path: { scene: found.library } } }))
      if (scene.doc.settings.production !== production) return false // another scene has been opened
      id.value = found.library
      kept.value = document as Document
      failure.value = ''
      return true
    } catch (e) {
      failure.value = sentence((e as Error).message)
      return false
    }
  }
  /** Performs an operation on the library; says why when it is refused. */
  async function operate(operation: string, args: object): Promise<boolean> {
    try {
      if (!(await load())) throw new Error(failure.value || 'Another scene has been opened; try again.')
      const body = { operation, arguments: args, author: person.name, person: person.id }
      await ask(api.POST('/scenes/{scene}/operations', { params: { path: { scene: id.value } }, body }))
      return await load()
    } catch (e) {
      ElMessage({ message: sentence((e as Error).message), type: 'warning', showClose: true })
      return false
    }
  }
  /** Puts a lens kit into the library, and resolves when the open scene has taken it. */
  async function putKit(id: string, kit: Kit): Promise<boolean> {
    if (!(await operate('kitPut', { id, ...kit, shared: false }))) return false
    // One that the scene has kept as its own is the production's again.
    if (scene.doc.kits[id] && !scene.doc.kits[id].shared) scene.run('kitPut', { id, ...kit, shared: true })
    if (await until(() => scene.doc.kits[id]).toBeTruthy({ timeout: 5000 })) return true
    ElMessage({
      message: 'The production has the kit. This scene takes it as soon as the server answers; choose it then.',
      type: 'info',
      showClose: true,
    })
    return false
  }
  /** Files that are in the library, and may not be there yet. */
  const has = computed(() => {
    const blobs = new Set<string>()
    for (const c of ['models', 'sounds', 'cards', 'footage'] as const)
      for (const e of Object.values(kept.value?.[c] ?? {})) if (e.blob) blobs.add(e.blob)
    return blobs
  })
  return { id, kept, failure, load, operate, putKit, has }
})
