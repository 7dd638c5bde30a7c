package edit

import "proscen/core/scene"

// Loosen frees nodes that stay together from all others, as each looks at a frame of
// story time: they keep their place in the world without what they hang on, and
// cameras their picture without the subject that they hold.
func Loosen(d *Draft, stays map[string]float64) error {
	outside := func(id string) bool {
		_, ok := stays[id]
		return id != "" && !ok
	}
	for _, id := range ids(stays) {
		n, frame := d.Doc.Nodes[id], stays[id]
		if outside(n.Parent) {
			if err := hang(d, id, "", "", frame); err != nil {
				return err
			}
		}
		k := n.Camera
		if k == nil {
			continue
		}
		if k.Aim == scene.AimAt && outside(k.AimAt) {
			if _, err := cameraAim(d, cameraAimArgs{ID: id, Aim: scene.AimFree, Frame: frame}); err != nil {
				return err
			}
		}
		if outside(k.FocusOn) {
			focus := d.Stage.Picture(id, frame).Focus
			if _, err := editCamera(d, id, func(_ *scene.Node, k *scene.Camera) error {
				k.FocusOn, k.Focus = "", focus
				return nil
			}); err != nil {
				return err
			}
		}
	}
	return nil
}
