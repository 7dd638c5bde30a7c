// A stage without pictures: what the core evaluates at the playhead's frame.
import { core, FrameState } from '@/core/bridge'
import { usePlayhead } from '@/stores/playhead'
import { useScene } from '@/stores/scene'
import { Matrix4, Vector3 } from 'three'

const drawn = new Set<() => void>()
export const stage = {
  drawn,
  invalidate() {},
  get structure() {
    return core.structure()
  },
  get state() {
    void useScene().changes
    const s = new FrameState(core.structure())
    s.evaluate(usePlayhead().story)
    return s
  },
  cameraIndex: (id: string) => core.structure().cameras.indexOf(id),
  position(node: string) {
    const i = core.structure().nodes.indexOf(node)
    return i < 0 ? null : new Vector3(...this.state.nodePosition(i))
  },
  matrix: () => new Matrix4(),
  still: async (camera: string, frame: number) => `data:image/png,${camera}@${frame}`,
  stillFrom: async (p: { words: string }) => `data:image/png,${p.words}`,
  pick: () => null,
  add() {},
  remove() {},
}
/** A frame has been drawn. */
export const draw = () => drawn.forEach((f) => f())
