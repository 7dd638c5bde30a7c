package assembly

import (
	"errors"
	"fmt"

	"proscen/core/edit"
	"proscen/core/scene"
	"proscen/core/timing"
)

// Panel is a picture among the files that becomes a board.
type Panel struct {
	Name   string `json:"name"`
	Blob   string `json:"blob"`
	Width  int    `json:"width"`
	Height int    `json:"height"`
}

type dealArgs struct {
	Assembly string  `json:"assembly"`
	Frames   int     `json:"frames"` // length of each new shot
	Panels   []Panel `json:"panels"`
}

// dealPanels makes a shot of each panel, one after the other at the end of the
// main lane, that shows the panel until it has a camera.
func dealPanels(d *edit.Draft, a dealArgs) (string, error) {
	c, err := open(d, a.Assembly)
	if err != nil {
		return "", err
	}
	if len(a.Panels) == 0 {
		return "", errors.New("there are no panels to deal; choose pictures or a PDF first")
	}
	l := c.main()
	for _, p := range a.Panels {
		i := len(l.shots)
		s, err := l.newShot(i, l.end(), placeArgs{Frames: a.Frames, Plays: scene.PlaysBoard, Name: p.Name})
		if err != nil {
			return "", err
		}
		l.insert(i, "", s)
		d.SetBoard(d.NewID(), scene.Board{Shot: l.shots[i].ID, Name: p.Name, Blob: p.Blob, Width: p.Width, Height: p.Height})
	}
	return c.done("deal %d panels onto shots", len(a.Panels))
}

type boardArgs struct {
	Shot string `json:"shot"`
	Panel
	At int    `json:"at,omitempty"` // frames after the shot's first
	ID string `json:"id,omitempty"`
}

func addBoard(d *edit.Draft, a boardArgs) (string, error) {
	return "hold a board against shot " + d.Doc.Shots[a.Shot].Number, PutBoard(d, a.Shot, a.Panel, a.At, a.ID)
}

// PutBoard gives a shot a board from one of its frames on; one that begins at the same
// frame goes. With an id it is stored as that entity.
func PutBoard(d *edit.Draft, shot string, p Panel, at int, id string) error {
	s, ok := d.Doc.Shots[shot]
	if !ok {
		return errGone
	}
	if at < 0 || at >= s.Screen().Count() {
		return fmt.Errorf("a board of shot %s begins from 0 to %d frames after its start, not %d", s.Number, s.Screen().Count()-1, at)
	}
	for _, k := range d.Doc.BoardsOf(shot) {
		if d.Doc.Boards[k].At == at {
			d.Delete("boards", k)
		}
	}
	if id == "" {
		id = d.NewID()
	}
	d.SetBoard(id, scene.Board{Shot: shot, Name: p.Name, Blob: p.Blob, Width: p.Width, Height: p.Height, At: at})
	return nil
}

type cardArgs struct {
	scene.Card
	ID string `json:"id,omitempty"`
}

// addCard adds a card that shots can play.
func addCard(d *edit.Draft, a cardArgs) (string, error) {
	c := a.Card
	if c.Color == "" {
		c.Color = "#11181b"
	}
	if c.Ink == "" {
		c.Ink = "#efe9dc"
	}
	if c.Name == "" {
		c.Name = fmt.Sprintf("card %d", len(d.Doc.Cards)+1)
	}
	if a.ID == "" {
		a.ID = d.NewID()
	}
	d.SetCard(a.ID, c)
	return "add " + c.Name, nil
}

type footageArgs struct {
	scene.Footage
	From string `json:"from,omitempty"` // the rate of the library that it is taken from, "" for the scene's
	ID   string `json:"id,omitempty"`
}

// addFootage adds a video that shots can play.
func addFootage(d *edit.Draft, a footageArgs) (string, error) {
	if a.ID == "" {
		a.ID = d.NewID()
	}
	if here := d.Doc.Settings.Rate; a.From != "" {
		from, err := timing.ParseRate(a.From)
		if err != nil {
			return "", err
		}
		if from != here {
			a.Footage = paced(filed(a.Footage, from, here), here.PerSecond()/from.PerSecond())
		}
	}
	d.SetFootage(a.ID, a.Footage)
	return "add footage " + a.Footage.Name, nil
}
