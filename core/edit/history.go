package edit

// Entry is one edit of a scene's history.
type Entry struct {
	Kind     string `json:"kind"` // do, undo or redo
	Revision int    `json:"revision"`
}

// Stacks works out from a history, oldest first, what can be undone and redone
// now; the last element of each is the next. A new edit ends what could be
// redone. An undo whose edit lies before the history's start is left out.
func Stacks(history []Entry) (undo, redo []Entry) {
	for _, e := range history {
		switch e.Kind {
		case "undo":
			if n := len(undo); n > 0 {
				redo = append(redo, undo[n-1])
				undo = undo[:n-1]
			}
		case "redo":
			if n := len(redo); n > 0 {
				undo = append(undo, redo[n-1])
				redo = redo[:n-1]
			}
		default:
			undo = append(undo, e)
			redo = redo[:0]
		}
	}
	return undo, redo
}
