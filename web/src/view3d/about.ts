// What a scene is about: people, things and cameras, or, without any, all of the set.
import { core, type Extent } from '@/core/bridge'
import { useScene } from '@/stores/scene'

export function about(): Extent | null {
  const scene = useScene()
  const of = (set: boolean) =>
    Object.entries(scene.doc.nodes).flatMap(([id, n]) => (!n.hidden && (n.kind === 'set') === set ? [id] : []))
  return core.extent(of(false)) ?? core.extent(of(true))
}
