package edit

import "proscen/core/scene"

type boardAddArgs struct {
	scene.Board
	ID string `json:"id"`
}

// boardAdd gives a shot a board; one that it has already goes.
func boardAdd(d *Draft, a boardAddArgs) (string, error) {
	for _, id := range d.Doc.BoardsOf(a.Shot) {
		d.Delete("boards", id)
	}
	d.SetBoard(pick(d, a.ID), a.Board)
	return "hold a board against shot " + d.Doc.Shots[a.Shot].Number, nil
}
