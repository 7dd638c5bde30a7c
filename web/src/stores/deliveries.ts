// The deliveries of the open scene, kept up to date by the server's events.
import { defineStore } from 'pinia'
import { ref, watch } from 'vue'
import { api, ask, type Delivery, type Output } from '@/api/client'
import type { Order, Recipe } from '@/core/bridge'
import { useScene } from './scene'

/** How many deliveries are read at once. */
const pageSize = 50
/** A sheet of all shots: a spreadsheet, or pages to print. */
export type Sheet = 'xlsx' | 'list' | 'storyboard'

export const useDeliveries = defineStore('deliveries', () => {
  const scene = useScene()
  /** The newest ones, and those before them as far as they were asked for. */
  const list = ref<Delivery[]>([])
  /** The newest output of every shot, however long ago, each in its delivery. */
  const newest = ref<Delivery[]>([])
  /** Whether there are earlier ones than those in the list. */
  const more = ref(false)
  const failure = ref('')
  const loading = ref(false)
  /** Counts the pictures seen of each output, so that browsers fetch new ones. */
  const pictures = ref<Record<string, number>>({})

  async function load() {
    const of = scene.id
    if (!of) return
    loading.value = true
    failure.value = ''
    try {
      const [found, last] = await Promise.all([page(of), page(of, { newest: true })])
      if (scene.id === of) {
        const oldest = found.at(-1)?.number ?? 0
        const before = list.value.filter((d) => d.number < oldest)
        if (!before.length) more.value = found.length === pageSize
        list.value = [...found, ...before]
        newest.value = last
      }
    } catch (e) {
      if (scene.id === of) failure.value = (e as Error).message
    }
    if (scene.id === of) loading.value = false
  }

  const page = (of: string, query: { before?: number; newest?: boolean; limit?: number } = {}) =>
    ask(
      api.GET('/scenes/{scene}/deliveries', {
        params: { path: { scene: of }, query: { limit: pageSize, ...query } },
      }),
    )
  /** Reads the ones before those in the list. */
  async function earlier() {
    const of = scene.id
    try {
      const found = await page(of, { before: list.value.at(-1)?.number })
      if (scene.id !== of) return
      const there = new Set(list.value.map((d) => d.id))
      list.value = [...list.value, ...found.filter((d) => !there.has(d.id))]
      more.value = found.length === pageSize
    } catch (e) {
      if (scene.id === of) failure.value = (e as Error).message
    }
  }

  function absorb(o: Output) {
    for (const d of [...list.value, ...newest.value]) {
      const i = d.outputs.findIndex((x) => x.id === o.id)
      if (i >= 0) d.outputs[i] = o
    }
    pictures.value[o.id] = (pictures.value[o.id] ?? 0) + 1
  }

  scene.onEvent((e) => {
    if (e.kind !== 'delivery') return
    if (e.output && list.value.some((d) => d.id === e.delivery)) absorb(e.output)
    else void load()
  })
  watch(
    () => scene.id,
    () => {
      list.value = []
      newest.value = []
      more.value = false
      pictures.value = {}
      failure.value = ''
      loading.value = false
      void load()
    },
    { immediate: true, flush: 'sync' },
  )

  async function deliver(assembly: string, recipe: Recipe, order: Order, changed: boolean) {
    await scene.flushed()
    const of = scene.id
    const d = await ask(
      api.POST('/scenes/{scene}/deliveries', {
        params: { path: { scene: of } },
        body: { assembly, recipe, order, ...(changed ? { changed } : {}) },
      }),
    )
    if (scene.id === of && !list.value.some((x) => x.id === d.id)) list.value = [d, ...list.value]
  }

  /** Makes a sheet of all shots, tells how far it is, and returns what is finished. */
  async function sheet(assembly: string, kind: Sheet, told: (done: number, all: number) => void): Promise<Output> {
    await scene.flushed() // the server draws what is saved
    const of = scene.id
    let d = await ask(
      api.POST('/scenes/{scene}/deliveries', {
        params: { path: { scene: of } },
        body: { assembly, sheet: kind, alternate: scene.alternate || undefined },
      }),
    )
    if (scene.id === of && !list.value.some((x) => x.id === d.id)) list.value = [d, ...list.value]
    for (;;) {
      const o = d.outputs[0]!
      told(o.framesDone, o.frames)
      if (o.state === 'done') return o
      if (o.state === 'failed' || o.state === 'cancelled') throw new Error(o.error || 'The sheet was cancelled.')
      await new Promise((r) => setTimeout(r, 500))
      d = (await page(of, { before: d.number + 1, limit: 1 }))[0] ?? d
    }
  }

  async function change(d: Delivery, what: 'cancel' | 'pause' | 'resume' | 'first') {
    const path = `/deliveries/{delivery}/${what}` as const
    const now = await ask(api.POST(path, { params: { path: { delivery: d.id } } }))
    list.value = list.value.map((x) => (x.id === now.id ? now : x))
  }

  return { list, newest, more, failure, loading, pictures, load, earlier, deliver, sheet, change }
})
