package turnover

import "proscen/core/scene"

// Usual are the recipes that every production has until it writes its own.
func Usual() []scene.Recipe {
	corners := []scene.Burn{
		{Says: scene.SaysShot, X: 0, Y: 0}, {Says: scene.SaysVersion, X: 1, Y: 0},
		{Says: scene.SaysCamera, X: 0, Y: 1}, {Says: scene.SaysLens, X: 0.5, Y: 1}, {Says: scene.SaysScreen, X: 1, Y: 1},
	}
	return []scene.Recipe{
		{Name: "To look at", Pack: scene.H264, Quality: scene.Check, Joined: true, Sound: true},
		{Name: "For notes", Pack: scene.H264, Quality: scene.Check, Scale: 0.5, Joined: true, Sound: true, Lines: scene.InPicture, Slate: 24, Burns: corners},
		{Name: "For the edit", Pack: scene.ProRes, Quality: scene.Fine, Head: 12, Tail: 12, Sound: true},
		{Name: "Pictures", Pack: scene.PNG, Quality: scene.Fine},
	}
}
