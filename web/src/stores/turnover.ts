// What is to be delivered and how: the recipe, the order, what would come of them, and
// what of the newest outputs is out of date.
import { useLocalStorage } from '@vueuse/core'
import { defineStore } from 'pinia'
import { computed, ref, watch } from 'vue'
import { api, ask, type Output } from '@/api/client'
import { core, type Order, type Recipe } from '@/core/bridge'
import { useDeliveries } from './deliveries'
import { useLibrary } from './library'
import { useScene } from './scene'

/** A recipe with its id in the library, "" for those that every production has. */
export interface Known {
  id: string
  recipe: Recipe
}
export type Moment = 'first' | 'middle' | 'last'

export const useTurnover = defineStore('turnover', () => {
  const scene = useScene()
  const library = useLibrary()
  const deliveries = useDeliveries()

  // Which shots are chosen is of one assembly of one scene.
  const picked = ref<Record<string, string[]>>({})
  const place = computed(() => `${scene.id} ${scene.cut.assembly}`)
  const chosen = computed<string[]>({
    get: () => (picked.value[place.value] ?? []).filter((id) => scene.doc.shots[id]),
    set: (ids) => (picked.value[place.value] = ids),
  })
  const each = ref(true)
  const whole = ref(false)
  const stills = ref<Moment[]>([])
  const cameras = ref(false)
  const portraits = ref(false)
  const marked = ref(false)
  const only = ref<string[]>([]) // cameras to be delivered by themselves; none for all
  const over = ref<{ in: number; out: number } | null>(null) // a stretch of the story; null for what the cut uses
  /** Only what has changed since it was delivered like this. */
  const changed = ref(false)
  const assemblies = ref<string[]>([])
  const formats = ref<string[]>([])
  const alternates = ref<string[]>([])
  watch(
    () => scene.id,
    () => {
      assemblies.value = []
      formats.value = []
      alternates.value = []
      only.value = []
      over.value = null
      outdated.value = { outdated: [], gone: [], waiting: 0 }
    },
    { flush: 'sync' },
  )
  /** The formats that are delivered besides the one that is worked in. */
  const allFormats = computed(() => {
    const { format } = scene.doc.settings
    return Object.entries(scene.doc.formats)
      .map(([id, f]) => ({ id, ...f }))
      .sort((a, b) => Number(b.id === format) - Number(a.id === format))
  })
  const theFormats = computed(() => {
    const there = formats.value.filter((id) => scene.doc.formats[id])
    if (there.length) return there
    return allFormats.value.filter((f, i) => i === 0 || f.deliver).map((f) => f.id)
  })
  /** Those that are delivered, '' for the scene itself; what is worked in, while none is chosen. */
  const theAlternates = computed(() => {
    const there = alternates.value.filter((id) => !id || scene.doc.alternates[id])
    return there.length ? there : [scene.alternate]
  })
  const theAssemblies = computed(() => {
    const there = assemblies.value.filter((id) => scene.doc.assemblies[id])
    return there.length ? there : [scene.cut.assembly]
  })
  /** The chosen shots: of another assembly than the one that is open, those of the same numbers. */
  const shots = computed(() => {
    const here = theAssemblies.value.length === 1 && theAssemblies.value[0] === scene.cut.assembly
    return here ? chosen.value : chosen.value.map((id) => scene.doc.shots[id]!.number)
  })
  /** The cameras that are delivered by themselves: those that were picked, or all. */
  const theCameras = computed(() => {
    const all = scene.cameras.filter((c) => !c.camera.archived).map((c) => c.id)
    const there = only.value.filter((id) => all.includes(id))
    return there.length ? there : all
  })
  const order = computed<Order>(() => ({
    assemblies: theAssemblies.value,
    formats: theFormats.value,
    alternates: theAlternates.value,
    shots: shots.value,
    each: each.value,
    whole: whole.value,
    stills: stills.value,
    portraits: portraits.value,
    marked: marked.value,
    ...(cameras.value
      ? { cameras: theCameras.value, ...(over.value ? { stretch: over.value } : {}) }
      : { cameras: [] }),
  }))

  // Recipes: those of the production, and the usual ones whose names it has not used.
  const usual = computed(() => core.usualRecipes())
  const recipes = computed<Known[]>(() => {
    const own = Object.entries(library.kept?.recipes ?? {})
      .map(([id, recipe]) => ({ id, recipe }))
      .sort((a, b) => a.recipe.name.localeCompare(b.recipe.name))
    const names = new Set(own.map((r) => r.recipe.name))
    return [...own, ...usual.value.filter((r) => !names.has(r.name)).map((recipe) => ({ id: '', recipe }))]
  })
  const name = useLocalStorage('proscen.recipe', '')
  const known = computed(
    () =>
      recipes.value.find((r) => r.recipe.name === name.value) ?? recipes.value.find((r) => !r.id) ?? recipes.value[0]!,
  )
  const recipe = computed(() => known.value.recipe)
  /** Puts a recipe into the library of the production, in place of one or as a new one. */
  async function keep(recipe: Recipe, id: string): Promise<boolean> {
    const done = await library.operate('recipePut', { ...recipe, ...(id ? { id } : {}) })
    if (done) name.value = recipe.name
    return done
  }
  const forget = (id: string) => library.operate('remove', { collection: 'recipes', ids: [id] })

  /** What would be made, or why nothing can be. */
  const planned = computed(() => {
    void scene.changes
    return core.planned(order.value, recipe.value)
  })

  // What is out of date is looked at when the desk shows it and after each edit.
  const outdated = ref<{ outdated: string[]; gone: string[]; waiting: number }>({ outdated: [], gone: [], waiting: 0 })
  let looking = 0
  async function look() {
    const mine = ++looking
    const of = scene.id
    if (!of) return
    try {
      for (;;) {
        const found = await ask(api.GET('/scenes/{scene}/outdated', { params: { path: { scene: of } } }))
        if (mine !== looking || scene.id !== of) return
        outdated.value = found
        if (!found.waiting) return
        await new Promise((r) => setTimeout(r, 500))
      }
    } catch {
      // It is asked again with the next edit; the deliveries say what fails.
    }
  }
  const stale = computed(() => new Set(outdated.value.outdated))

  /** Delivers cameras over what the cut needs of them, but for what would be the same. */
  const deliverPulls = (cameras: string[]) =>
    deliveries.deliver(
      scene.cut.assembly,
      recipe.value,
      { assemblies: theAssemblies.value, formats: theFormats.value, alternates: [scene.alternate], cameras },
      true,
    )
  const deliver = () => deliveries.deliver(scene.cut.assembly, recipe.value, order.value, changed.value)
  /** Delivers one frame as it looks: of the cut on screen time, or of a camera on story time. */
  async function still(spot: { camera?: string; frame: number }) {
    const like = recipes.value.find((r) => r.recipe.pack === 'png')?.recipe ?? recipe.value
    const one = { ...like, name: 'this frame', pack: 'png' as const, passes: [] }
    await deliveries.deliver(
      scene.cut.assembly,
      one,
      {
        assemblies: theAssemblies.value.slice(0, 1),
        formats: [scene.doc.settings.format],
        alternates: [scene.alternate],
        spots: [spot],
      },
      false,
    )
  }
  /** Delivers again what is out of date, each with the recipe that it was made with. */
  async function refresh() {
    const ids = stale.value
    for (const d of deliveries.newest) {
      const old = d.outputs.filter((o) => ids.has(o.id))
      if (!old.length || !d.recipe) continue
      for (const [key, of] of groups(old)) {
        const [assembly, format, alternate] = key.split(' ') as [string, string, string]
        const shots = of.flatMap((o) => (o.item?.what === 'shot' ? [o.shot] : []))
        const o: Order = {
          assemblies: [assembly],
          formats: [format],
          alternates: [alternate],
          shots,
          each: shots.length > 0,
          whole: of.some((o) => o.item?.what === 'cut'),
        }
        if (o.each || o.whole) await deliveries.deliver(assembly, d.recipe as Recipe, o, false)
      }
    }
  }
  /** Outputs by their assembly, format and alternate. */
  function groups(list: Output[]) {
    const by = new Map<string, Output[]>()
    for (const o of list) {
      const key = `${o.item?.assembly ?? ''} ${o.item?.format ?? ''} ${o.item?.alternate ?? ''}`
      by.set(key, [...(by.get(key) ?? []), o])
    }
    return by
  }

  return {
    chosen,
    each,
    whole,
    stills,
    cameras,
    portraits,
    marked,
    changed,
    assemblies,
    formats,
    allFormats,
    theFormats,
    theCameras,
    only,
    over,
    theAssemblies,
    alternates,
    theAlternates,
    order,
    recipes,
    name,
    known,
    recipe,
    keep,
    forget,
    planned,
    outdated,
    stale,
    look,
    deliver,
    deliverPulls,
    still,
    refresh,
  }
})
