// The deliveries of the open scene, kept up to date by the server's events.
import { defineStore } from 'pinia'
import { ref, watch } from 'vue'
import { api, ask, type Delivery, type Output } from '@/api/client'
import { useScene } from './scene'

export const useDeliveries = defineStore('deliveries', () => {
  const scene = useScene()
  const list = ref<Delivery[]>([])
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
      const found = await ask(api.GET('/scenes/{scene}/deliveries', { params: { path: { scene: of } } }))
      if (scene.id === of) list.value = found
    } catch (e) {
      if (scene.id === of) failure.value = (e as Error).message
    }
    if (scene.id === of) loading.value = false
  }

  function absorb(o: Output) {
    for (const d of list.value) {
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
      pictures.value = {}
      failure.value = ''
      loading.value = false
      void load()
    },
    { immediate: true, flush: 'sync' },
  )

  async function deliver(assembly: string, quality: 'rough' | 'check' | 'fine', format: string, shots?: string[]) {
    await scene.flushed()
    const of = scene.id
    const d = await ask(
      api.POST('/scenes/{scene}/deliveries', {
        params: { path: { scene: of } },
        body: { assembly, quality, format, ...(shots ? { shots } : {}) },
      }),
    )
    if (scene.id === of && !list.value.some((x) => x.id === d.id)) list.value = [d, ...list.value]
  }

  async function change(d: Delivery, what: 'cancel' | 'resume') {
    const path = what === 'cancel' ? '/deliveries/{delivery}/cancel' : '/deliveries/{delivery}/resume'
    const now = await ask(api.POST(path, { params: { path: { delivery: d.id } } }))
    list.value = list.value.map((x) => (x.id === now.id ? now : x))
  }

  return { list, failure, loading, pictures, load, deliver, change }
})
