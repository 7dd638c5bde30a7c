// Leaving a position for a camera's move: where its lens is, or where the free
// view is.
import { usePlayhead } from '@/stores/playhead'
import { useScene } from '@/stores/scene'
import { useView } from '@/stores/view'
import { scoutPose } from './memory'
import { useStage } from './stage'

export function useLeaving() {
  const scene = useScene()
  const view = useView()
  const head = usePlayhead()
  /** The place, turn and focal length that the artist looks from. */
  function pose(camera: string) {
    const stage = useStage()
    const i = stage.cameraIndex(camera)
    const c = stage.state.camera(i)
    if (view.through !== camera) return { ...scoutPose(), focal: c.focal }
    const m = stage.state.cameraMatrix(i)
    return {
      position: [m[12], m[13], m[14]].map((v) => +v!.toFixed(3)),
      turn: [c.pan, c.tilt, c.roll].map((v) => +v.toFixed(2)),
      focal: c.focal,
    }
  }
  function leave(camera = view.through || view.camera) {
    if (camera) scene.run('positionLeave', { ...pose(camera), id: camera, frame: head.story })
  }
  return { pose, leave }
}
