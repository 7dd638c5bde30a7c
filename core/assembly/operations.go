package assembly

import "proscen/core/edit"

// Operations returns the editing operations by name. All are exact to the
// frame; shots of a lane never overlap afterwards, and joins fit.
func Operations() edit.Catalog {
	return edit.Catalog{
		"shotAppend":    edit.Op(appendShot),
		"shotInsert":    edit.Op(insertShot),
		"shotOverwrite": edit.Op(overwriteShot),
		"shotMove":      edit.Op(moveShots),
		"shotTrim":      edit.Op(trimShot),
		"shotRoll":      edit.Op(roll),
		"shotSlip":      edit.Op(slip),
		"shotSlide":     edit.Op(slide),
		"shotReach":     edit.Op(reach),
		"shotFollowOn":  edit.Op(followOn),
		"shotFromMove":  edit.Op(shotFromMove),
		"shotSpeed":     edit.Op(setSpeed),
		"shotFreeze":    edit.Op(freeze),
		"shotSplit":     edit.Op(splitShot),
		"shotRemove":    edit.Op(removeShots),
		"shotSwap":      edit.Op(swap),
		"shotDuplicate": edit.Op(duplicate),
		"shotTry":       edit.Op(trySpare),
		"shotSet":       edit.Op(setShots),
		"shotJoin":      edit.Op(setJoin),
		"shotsAsListed": edit.Op(asListed),
		"cutTo":         edit.Op(cutTo),
		"rangeClear":    edit.Op(clearRange),
		"gapClose":      edit.Op(closeGap),
		"laneAdd":       edit.Op(addLane),
		"laneRemove":    edit.Op(removeLane),
		"laneSet":       edit.Op(setLane),
		"laneMove":      edit.Op(moveLane),

		"rateChange": edit.Op(changeRate),

		"assemblyAdd":       edit.Op(addAssembly),
		"assemblyDuplicate": edit.Op(duplicateAssembly),
		"assemblyRemove":    edit.Op(removeAssembly),
		"assemblySet":       edit.Op(setAssembly),
		"shotsFromCues":     edit.Op(shotsFromCues),
		"cuesFromShots":     edit.Op(cuesFromShots),
		"oneFrameEach":      edit.Op(oneFrameEach),
		"takeRecord":        edit.Op(recordTake),
		"roughCut":          edit.Op(roughCut),
		"boardsDeal":        edit.Op(dealPanels),
		"boardAdd":          edit.Op(addBoard),
		"cardAdd":           edit.Op(addCard),
		"footageAdd":        edit.Op(addFootage),

		"trackAdd":    edit.Op(addTrack),
		"trackTie":    edit.Op(tieTrack),
		"trackRemove": edit.Op(dropTrack),
		"soundAdd":    edit.Op(addSound),
		"soundMove":   edit.Op(moveSound),
		"soundTrim":   edit.Op(trimSound),
		"linesMove":   edit.Op(moveLines),

		"assemblyBring": edit.Op(bringIn),
		"linesBring":    edit.Op(bringLines),
	}
}
