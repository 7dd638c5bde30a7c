// What there is besides the open scene: productions and their scenes, with what is
// done to them as wholes.
import { ElMessage } from 'element-plus'
import { defineStore } from 'pinia'
import { computed, reactive, ref, shallowRef, watch } from 'vue'
import { api, ask, type ProductionInfo, type SceneInfo, type Unpacked } from '@/api/client'
import { upload } from '@/api/uploads'
import { perSecond } from '@/ui/rates'
import { usePerson } from './person'
import { sentence } from '@/ui/sentence'

export type Shelf = 'scenes' | 'archived' | 'bin'
export type Order = 'edited' | 'title' | 'length'
export type SceneChange = { title?: string; production?: string; archived?: boolean; binned?: boolean }

/** What a scene can begin with. */
export const starts = [
  { id: 'empty', name: 'Empty', title: 'First scene', what: 'a level floor and nothing else' },
  { id: 'room', name: 'Room', title: 'A room', what: 'a kitchen with door and windows' },
  { id: 'street', name: 'Street', title: 'A street', what: 'houses, lamps and a road' },
  { id: 'hillside', name: 'Hillside', title: 'A hillside', what: 'a path, trees and a ridge' },
  { id: 'demonstration', name: 'Demonstration', title: 'Last Car Down', what: 'eleven shots at a cable-car station' },
] as const
export type Start = (typeof starts)[number]['id']

/** Milliseconds between two looks for pictures that are being made: longer and longer, while none comes. */
const lookAgain = 1500
const lookSeldom = 30_000

const orders: Record<Order, (a: SceneInfo, b: SceneInfo) => number> = {
  edited: (a, b) => b.editedAt.localeCompare(a.editedAt),
  title: (a, b) => a.title.localeCompare(b.title, undefined, { numeric: true }),
  length: (a, b) => b.frames / perSecond(b.rate) - a.frames / perSecond(a.rate),
}
const shelfOf = (s: SceneInfo): Shelf => (s.binnedAt ? 'bin' : s.archived ? 'archived' : 'scenes')

export const useHome = defineStore('home', () => {
  const person = usePerson()
  const scenes = shallowRef<SceneInfo[] | null>(null)
  const productions = shallowRef<ProductionInfo[]>([])
  const failure = ref('')
  const search = ref('')
  const shelf = ref<Shelf>('scenes')
  const order = ref<Order>('edited')
  /** Ids of the scenes that are chosen. */
  const chosen = reactive(new Set<string>())

  async function load() {
    try {
      const [s, p] = await Promise.all([ask(api.GET('/scenes')), ask(api.GET('/productions'))])
      scenes.value = s
      productions.value = p
      failure.value = ''
      const there = new Set(s.map((x) => x.id))
      for (const id of [...chosen]) if (!there.has(id)) chosen.delete(id)
    } catch (e) {
      failure.value = (e as Error).message
    }
  }

  const counts = computed(() => {
    const out: Record<Shelf, number> = { scenes: 0, archived: 0, bin: 0 }
    for (const s of scenes.value ?? []) out[shelfOf(s)]++
    return out
  })
  /** Productions with those of their scenes that are looked for, in order. */
  const shown = computed(() => {
    const words = search.value.toLowerCase().split(/\s+/).filter(Boolean)
    const by = new Map<string, SceneInfo[]>()
    for (const s of scenes.value ?? []) {
      if (shelfOf(s) !== shelf.value) continue
      const text = `${s.title} ${s.production} ${s.editedBy}`.toLowerCase()
      if (!words.every((w) => text.includes(w))) continue
      const list = by.get(s.production)
      if (list) list.push(s)
      else by.set(s.production, [s])
    }
    const all = productions.value.map((p) => ({ ...p, scenes: (by.get(p.name) ?? []).sort(orders[order.value]) }))
    // One that is empty is shown where it can be filled.
    return all.filter((p) => p.scenes.length || (shelf.value === 'scenes' && !words.length))
  })

  /** Does something and reads all anew; what went wrong is said. */
  async function does<T>(what: () => Promise<T>): Promise<T | undefined> {
    try {
      return await what()
    } catch (e) {
      ElMessage({ message: sentence((e as Error).message), type: 'warning', showClose: true, duration: 6000 })
      return undefined
    } finally {
      await load()
    }
  }
  const made = (body: { production: string; title: string; start?: Start; like?: string; rate?: string }) =>
    does(() => ask(api.POST('/scenes', { body })))
  const change = (ids: string[], to: SceneChange) =>
    does(async () => {
      for (const id of ids)
        await ask(
          api.PATCH('/scenes/{scene}', {
            params: { path: { scene: id } },
            body: { ...to, author: person.name, person: person.id },
          }),
        )
    })
  const copy = (ids: string[]) =>
    does(async () => {
      for (const id of ids) await ask(api.POST('/scenes/{scene}/copies', { params: { path: { scene: id } } }))
    })
  /** Takes in a packed scene; what it did not bring is said. */
  const unpack = (file: File) =>
    does(async () => {
      const said = await upload<Unpacked>('parcels', file).catch((e: Error) => {
        throw new Error(`${file.name}: ${e.message}`)
      })
      const lacks = said.missing.length ? `; it did not bring the files of ${said.missing.slice(0, 3).join(', ')}` : ''
      ElMessage({ message: `“${said.scene.title}” is in ${said.scene.production}${lacks}.`, showClose: true })
    })
  const addProduction = (name: string) => does(() => ask(api.POST('/productions', { body: { name } })))
  const renameProduction = (id: string, name: string) =>
    does(() => ask(api.PATCH('/productions/{production}', { params: { path: { production: id } }, body: { name } })))
  const removeProduction = (id: string) =>
    does(async () => {
      const { error } = await api.DELETE('/productions/{production}', { params: { path: { production: id } } })
      if (error) throw new Error(error.title)
    })

  const wanted = new Map<string, number>() // the revision whose picture was asked for
  let timer: ReturnType<typeof setTimeout> | undefined
  let pause = lookAgain
  /** Sees to the picture of a scene that is in sight. */
  function picture(s: SceneInfo) {
    if (s.pictured >= s.revision || (wanted.get(s.id) ?? -1) >= s.revision) return
    wanted.set(s.id, s.revision)
    void api.POST('/scenes/{scene}/picture', { params: { path: { scene: s.id } } }).catch(() => wanted.delete(s.id))
    if (pause > lookAgain) clearTimeout(timer)
    if (pause > lookAgain || !timer) timer = setTimeout(look, lookAgain)
    pause = lookAgain
  }
  const lacking = () => (scenes.value ?? []).filter((s) => s.pictured < (wanted.get(s.id) ?? -1)).length
  async function look() {
    timer = undefined
    const before = lacking()
    await load()
    const now = lacking()
    pause = now < before ? lookAgain : Math.min(pause * 1.5, lookSeldom)
    if (now && looking) timer ??= setTimeout(look, pause)
  }
  // What was chosen on one shelf is not meant on another.
  watch(shelf, () => chosen.clear())
  let looking = false
  /** Home is shown, or is not any more. */
  function shows(on: boolean) {
    looking = on
    if (on) return
    clearTimeout(timer)
    timer = undefined
    wanted.clear()
    chosen.clear()
  }

  return {
    scenes,
    productions,
    failure,
    search,
    shelf,
    order,
    chosen,
    counts,
    shown,
    load,
    made,
    change,
    copy,
    unpack,
    addProduction,
    renameProduction,
    removeProduction,
    picture,
    shows,
  }
})
