package page

import (
	"encoding/json"

	"proscen/core/scene"
)

// Calls returns every call by name.
func Calls() map[string]Call { return calls }

// none is the arguments of a call that takes none.
type none struct{}

// done is the answer of a command that has nothing to tell.
type done struct{}

var calls map[string]Call

// What several calls take.
type (
	operation struct {
		Name string          `json:"name"`
		Args json.RawMessage `json:"args"`
	}
	assemblyNamed struct {
		Assembly string `json:"assembly"` // id
	}
	cameraSubjects struct {
		Camera   string   `json:"camera"`
		Subjects []string `json:"subjects"`
	}
	nodeNamed struct {
		Node string `json:"node"`
	}
	onClock struct {
		Clock scene.Clock `json:"clock" jsonschema:"enum=story,enum=screen"`
		Frame float64     `json:"frame"`
	}
	stretch struct {
		From  float64 `json:"from"`
		To    float64 `json:"to"`
		Least float64 `json:"least"` // frames that a piece lasts to be listed for itself
	}
)

func init() {
	calls = map[string]Call{
		// This copy of the scene and its edits.
		"join":    ask((*Page).join),
		"run":     try((*Page).run),
		"turn":    try((*Page).turn),
		"next":    ask((*Page).next),
		"pending": ask((*Page).pending),
		"synced":  ask((*Page).stands),
		"receive": ask((*Page).receive),
		"refused": ask((*Page).refused),
		"fetched": try((*Page).fetched),
		"guest":   ask((*Page).guest),
		"held":    ask((*Page).held),

		// Alternates.
		"workIn":       try((*Page).workIn),
		"alternates":   ask((*Page).alternates),
		"differ":       ask((*Page).fieldsThatDiffer),
		"differing":    try((*Page).differing),
		"compareSides": try((*Page).compareSides),
		"beside":       try((*Page).beside),
		"homeward":     ask((*Page).homeward),
		"comparing":    ask((*Page).comparing),
		"back":         ask((*Page).back),
		"preview":      ask((*Page).preview),
		"cancel":       ask((*Page).cancel),
		"warm":         ask((*Page).warm),
		"document":     ask((*Page).document),
		"newID":        anywhere(ask((*Page).makeID)),

		// The cut.
		"onAir":       ask((*Page).onAir),
		"airOf":       ask((*Page).airOf),
		"screenAt":    ask((*Page).screenAt),
		"cut":         ask((*Page).cut),
		"choose":      try((*Page).choose),
		"rhythm":      ask((*Page).rhythm),
		"differences": ask((*Page).differences),
		"joinLack":    ask((*Page).joinLack),
		"schedule":    ask((*Page).schedule),
		"gainAt":      anywhere(ask((*Page).gainAt)),
		"lines":       ask((*Page).lines),
		"uses":        ask((*Page).uses),
		"keysOf":      ask((*Page).keysOf),
		"entrances":   ask((*Page).entrances),
		"shotAt":      ask((*Page).shotAt),
		"formats":     anywhere(ask((*Page).formats)),
		"writeCut":    try((*Page).writeCut),

		// What is delivered.
		"planned":      try((*Page).planned),
		"doubts":       try((*Page).doubts),
		"moreDoubts":   try((*Page).moreDoubts),
		"airNow":       try((*Page).airNow),
		"pulls":        ask((*Page).pulls),
		"pullTable":    ask((*Page).pullTable),
		"recipeWrong":  anywhere(ask((*Page).recipeWrong)),
		"usualRecipes": anywhere(ask((*Page).usualRecipes)),
		"burnTexts":    try((*Page).burnTexts),

		// The scene as it is evaluated.
		"structure": ask((*Page).structure),
		"outlines":  ask((*Page).outlines),
		"missing":   ask((*Page).missing),
		"path":      try((*Page).path),
		"handles":   ask((*Page).handles),
		"strike":    ask((*Page).strike),
		"ground":    ask((*Page).ground),
		"extent":    ask((*Page).extent),
		"aimPoint":  ask((*Page).aimPoint),
		"snap":      ask((*Page).snap),
		"way":       ask((*Page).way),

		// Cameras and their pictures.
		"compose":     try((*Page).compose),
		"suggest":     try((*Page).suggest),
		"newLens":     ask((*Page).newLens),
		"usualHeight": ask((*Page).usualHeight),
		"lasting":     ask((*Page).lasting),
		"matched":     ask((*Page).matched),
		"corner":      ask((*Page).corner),
		"surfaces":    ask((*Page).surfaces),
		"framing":     ask((*Page).framing),
		"numbers":     ask((*Page).numbers),
		"overshoots":  ask((*Page).overshoots),
		"sharpZone":   anywhere(ask((*Page).sharpZone)),
		"aimAngles":   anywhere(ask((*Page).aimAngles)),
		"trade":       anywhere(ask((*Page).trade)),

		// Clocks, and what scenes are made of.
		"timecode":      ask((*Page).timecode),
		"parseTimecode": try((*Page).parseTimecode),
		"offered":       anywhere(ask((*Page).offered)),
		"atRate":        try((*Page).atRate),
		"clip":          try((*Page).clip),
		"unused":        ask((*Page).unused),
		"stock":         anywhere(ask((*Page).stock)),
		"sunAt":         anywhere(ask((*Page).sunAt)),
	}
}
