// One camera for the panels that show it: its node, what it is at the frame, and
// the ways to change it.
import { computed } from 'vue'
import { core, type Camera, type Merge, type OperationName, type Operations, type Vec3 } from '@/core/bridge'
import { usePlayhead } from '@/stores/playhead'
import { useScene } from '@/stores/scene'
import { useView } from '@/stores/view'
import { useFrameTick } from '@/view3d/useFrameTick'

export function useCamera(camera: () => string) {
  const scene = useScene()
  const view = useView()
  const head = usePlayhead()
  const { tick, stage } = useFrameTick()
  const node = computed(() => scene.doc.nodes[camera()])
  const cam = computed(() => node.value?.camera)
  const index = computed(() => (tick.value, stage.cameraIndex(camera())))
  const now = computed(() => (tick.value, index.value >= 0 ? stage.state.camera(index.value) : null))
  const at = computed<Vec3>(() => {
    void tick.value
    const m = index.value >= 0 ? stage.state.cameraMatrix(index.value) : null
    return m ? [m[12]!, m[13]!, m[14]!] : [0, 0, 0]
  })
  const curve = (channel: string) =>
    Object.values(scene.doc.curves).find((c) => c.node === camera() && c.channel === channel)
  const keyed = (channel: string) => !!curve(channel)
  /** The value of a channel at the frame: of its keys, or a still one. */
  function valueOf(channel: string, still: number): number {
    const c = curve(channel)
    return c ? core.curve(c.keys, head.story, head.story + 1, 1)[0]! : still
  }

  /** Runs an operation of this camera. */
  const run = <N extends OperationName>(op: N, args: Omit<Operations[N], 'id'>) =>
    scene.run(op, { id: camera(), ...args } as Operations[N])
  /** Runs one of this camera at the frame of the story clock. */
  const runNow = <N extends OperationName>(op: N, args: Omit<Operations[N], 'id' | 'frame'>) =>
    scene.run(op, { id: camera(), frame: head.story, ...args } as Operations[N])
  function merge(fields: Merge<Camera>, label: string) {
    scene.run('set', {
      collection: 'nodes',
      id: camera(),
      merge: { camera: fields },
      label: `${label} of camera ${cam.value!.number}`,
    })
  }
  function value(channel: string, v: number, live = false, key = view.autoKey) {
    const args = { node: camera(), channel, frame: head.story, value: v, key }
    if (live) scene.preview('value', args)
    else scene.run('value', args)
  }
  return { scene, view, head, stage, tick, node, cam, now, at, curve, keyed, valueOf, run, runNow, merge, value }
}
