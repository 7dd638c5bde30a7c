package assembly

import (
	"errors"
	"fmt"

	"proscen/core/edit"
	"proscen/core/program"
	"proscen/core/scene"
)

// Listed is what a list says of a shot; what it does not tell stays.
type Listed struct {
	ID     string            `json:"id"`
	Name   *string           `json:"name,omitempty"`
	Frames *int              `json:"frames,omitempty"` // its length on the screen; it ends elsewhere, and what is later follows
	Status *scene.ShotStatus `json:"status,omitempty" jsonschema:"enum=,enum=idea,enum=blocked,enum=agreed"`
	Notes  *string           `json:"notes,omitempty"`
}

// ListedArgs are shots of one assembly.
type ListedArgs struct {
	Shots []Listed `json:"shots"`
}

// asListed gives shots the lengths, names, states and notes of a list.
func asListed(d *edit.Draft, a ListedArgs) (string, error) {
	if len(a.Shots) == 0 {
		return "", errors.New("the list changes no shot")
	}
	c, _, _, err := openShot(d, a.Shots[0].ID)
	if err != nil {
		return "", err
	}
	listed := make(map[string]Listed, len(a.Shots))
	for _, s := range a.Shots {
		if l, _ := c.find(s.ID); l == nil {
			return "", errGone
		}
		if s.Frames != nil && *s.Frames < 1 {
			return "", fmt.Errorf("shot %s has at least one frame", d.Doc.Shots[s.ID].Number)
		}
		listed[s.ID] = s
	}
	for _, l := range c.lanes {
		at := -1
		l.rework(false, func(e program.Entry) (scene.Shot, bool) {
			at++
			s := e.Shot
			k, ok := listed[e.ID]
			if !ok {
				return s, true
			}
			assign(&s.Name, k.Name)
			assign(&s.Status, k.Status)
			assign(&s.Notes, k.Notes)
			if k.Frames != nil {
				by := *k.Frames - s.Screen().Count()
				if _, tail := l.room(at); by > tail {
					c.fail("the footage of shot %s has %d frames more, and not %d", s.Number, tail, by)
				}
				s.ScreenOut += by
			}
			return s, true
		})
	}
	return c.done("take over a list of %d shots", len(a.Shots))
}
