// Leaving a position for a camera's move: where its lens is, or where the free
// view is.
import type { Vec3 } from '@/core/bridge'
import { usePlayhead } from '@/stores/playhead'
import { useScene } from '@/stores/scene'
import { useView } from '@/stores/view'
import { scoutPose } from './memory'
import { tidy } from './screen'
import { useStage } from './stage'

export function useLeaving() {
  const scene = useScene()
  const view = useView()
  const head = usePlayhead()
  /** The place, turn and focal length that the artist looks from. */
  function pose(camera: string): { position: Vec3; turn: Vec3; focal: number } {
    const stage = useStage()
    const i = stage.cameraIndex(camera)
    const c = stage.state.camera(i)
    if (view.through !== camera) return { ...scoutPose(), focal: c.focal }
    const m = stage.state.cameraMatrix(i)
    return {
      position: tidy([m[12]!, m[13]!, m[14]!], 3),
      turn: tidy([c.pan, c.tilt, c.roll], 2),
      focal: c.focal,
    }
  }
  function leave(camera = view.through || view.camera) {
    if (camera) scene.run('positionLeave', { ...pose(camera), id: camera, frame: head.story })
  }
  return { pose, leave }
}
