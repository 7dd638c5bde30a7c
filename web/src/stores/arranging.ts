// What is done with the selection as a whole, from keys, lists and panels alike;
// what comes of it is selected.
import type { Operations, Vec3 } from '@/core/bridge'
import { usePlayhead } from './playhead'
import { useScene } from './scene'
import { useView } from './view'

export function useArranging() {
  const scene = useScene()
  const view = useView()
  const head = usePlayhead()
  /** Of new nodes those that do not hang on other new ones. */
  const tops = (made: string[]) => made.filter((id) => !made.includes(scene.doc.nodes[id]!.parent ?? ''))

  function group(ids = view.nodes) {
    const made = scene.make('nodes', 'group', { ids, frame: head.story })
    if (made.length) view.selectNodes(made)
  }
  function ungroup(id: string) {
    const inside = Object.keys(scene.doc.nodes).filter((k) => scene.doc.nodes[k]!.parent === id)
    if (scene.run('ungroup', { id, frame: head.story })) view.selectNodes(inside)
  }
  function duplicate(ids = view.nodes, more: Partial<Operations['duplicate']> = { by: [0.5, 0, 0.5] }) {
    const made = scene.make('nodes', 'duplicate', { ids, frame: head.story, ...more })
    if (made.length) view.selectNodes(tops(made))
  }
  /** Scatters what is being placed over an area, or along a path. */
  function scatter(where: { corner: [Vec3, Vec3] } | { path: string }) {
    const { stock, name } = view.placing ?? {}
    view.scattering = false
    if (!stock) return
    const made = scene.make('nodes', 'scatter', {
      stock,
      name: name ?? '',
      frame: head.story,
      ...view.scatter,
      ...where,
    })
    const group = made.find((id) => scene.doc.nodes[id]!.kind === 'group')
    if (!group) return
    view.placing = null
    view.select('nodes', group)
  }
  function dropDown(ids = view.nodes) {
    scene.run('dropDown', { ids, frame: head.story })
  }
  return { group, ungroup, duplicate, scatter, dropDown }
}
