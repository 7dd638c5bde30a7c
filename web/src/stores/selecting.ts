// What is selected: one thing, further nodes or shots, and keys of a node.
import { computed, ref } from 'vue'
import type { CollectionName, Key } from '@/core/bridge'
import type { useScene } from './scene'

export interface Selection {
  collection: CollectionName
  id: string
}
/** The key pins that are selected: frames of one node's channels. */
export interface SelectedKeys {
  node: string
  rows: Record<string, number[]>
}

export function selecting(scene: ReturnType<typeof useScene>) {
  const selected = ref<Selection | null>(null)
  const more = ref<string[]>([]) // further selected nodes or shots
  const keys = ref<SelectedKeys | null>(null)
  const copied = ref<Record<string, Key[]> | null>(null)

  const node = computed(() => (selected.value?.collection === 'nodes' ? selected.value.id : ''))
  const camera = computed(() => (scene.doc.nodes[node.value]?.camera ? node.value : ''))
  /** All selected nodes that are still there. */
  const nodes = computed(() => (node.value ? [node.value, ...more.value].filter((id) => scene.doc.nodes[id]) : []))
  /** The selected shot, while it is there. */
  const shot = computed(() => {
    const s = selected.value
    return s?.collection === 'shots' && scene.doc.shots[s.id] ? s.id : ''
  })
  /** All selected shots that are still there. */
  const shots = computed<string[]>((before) => {
    const now = shot.value ? [shot.value, ...more.value].filter((id) => scene.doc.shots[id]) : []
    return before && now.join() === before.join() ? before : now
  })
  /** Selects several shots. */
  function selectShots(ids: string[]) {
    select('shots', ids[0] ?? '')
    more.value = ids.slice(1)
  }
  /** Selects several nodes. */
  function selectNodes(ids: string[]) {
    select('nodes', ids[0] ?? '')
    more.value = ids.slice(1)
  }
  /** Adds a node to the selection, or takes it out. */
  function toggle(id: string) {
    const now = nodes.value
    selectNodes(now.includes(id) ? now.filter((x) => x !== id) : [...now, id])
  }
  function select(collection: CollectionName, id: string) {
    more.value = []
    selected.value = id ? { collection, id } : null
    keys.value = null
  }
  const isSelected = (collection: CollectionName, id: string) =>
    selected.value?.collection === collection &&
    (selected.value.id === id || ((collection === 'nodes' || collection === 'shots') && more.value.includes(id)))

  /** Moves the selected keys in time for good, and keeps them selected. */
  function moveKeys(by: number) {
    const k = keys.value
    if (!k || !scene.run('keyMove', { ...k, by })) return
    const rows = Object.entries(k.rows).map(([ch, frames]) => [ch, frames.map((f) => f + by)] as const)
    keys.value = { node: k.node, rows: Object.fromEntries(rows) }
  }
  /** Copies the selected keys. */
  function copyKeys() {
    const k = keys.value
    if (!k) return
    const rows: Record<string, Key[]> = {}
    for (const c of Object.values(scene.doc.curves)) {
      const frames = c.node === k.node ? k.rows[c.channel] : undefined
      if (frames) rows[c.channel] = c.keys.filter((key) => frames.includes(key.frame))
    }
    copied.value = rows
  }
  /** Selects all keys of a node. */
  function allKeys(of: string) {
    const rows: Record<string, number[]> = {}
    for (const c of Object.values(scene.doc.curves)) if (c.node === of) rows[c.channel] = c.keys.map((k) => k.frame)
    keys.value = Object.keys(rows).length ? { node: of, rows } : null
  }
  function clear() {
    more.value = []
    selected.value = keys.value = null
  }
  return {
    ...{ selected, more, keys, copied, node, camera, nodes, shot, shots },
    ...{ selectShots, selectNodes, toggle, select, isSelected, moveKeys, copyKeys, allKeys, clear },
  }
}
