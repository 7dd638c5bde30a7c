package assembly

import (
	"errors"
	"fmt"
	"slices"
	"strings"

	"proscen/core/edit"
	"proscen/core/program"
	"proscen/core/scene"
)

// laneOf returns a lane by its id.
func laneOf(d *edit.Draft, id string) (scene.Lane, error) {
	l, ok := d.Doc.Lanes[id]
	if !ok {
		return l, errors.New("the lane is not there any more")
	}
	return l, nil
}

type laneArgs struct {
	Assembly string `json:"assembly"`
	Name     string `json:"name,omitempty"`
}

// addLane adds a spare lane.
func addLane(d *edit.Draft, a laneArgs) (string, error) {
	c, err := open(d, a.Assembly)
	if err != nil {
		return "", err
	}
	l := c.newSpare(a.Name)
	return c.done("add lane %s", d.Doc.Lanes[l.id].Name)
}

type laneRemoveArgs struct {
	ID string `json:"id"`
}

// removeLane removes a spare lane with what is on it.
func removeLane(d *edit.Draft, a laneRemoveArgs) (string, error) {
	gone, err := laneOf(d, a.ID)
	if err != nil {
		return "", err
	}
	if gone.Main {
		return "", errors.New("the main lane cannot be removed; remove the assembly instead")
	}
	if gone.Locked {
		return "", fmt.Errorf("lane %s is locked; unlock it first", gone.Name)
	}
	c, err := open(d, gone.Assembly)
	if err != nil {
		return "", err
	}
	l := c.lanes[a.ID]
	if l.removeAll(every); c.err != nil {
		return "", c.err
	}
	delete(c.lanes, a.ID)
	d.Delete("lanes", a.ID)
	return c.done("remove lane %s", gone.Name)
}

type laneSetArgs struct {
	ID     string  `json:"id"`
	Name   *string `json:"name,omitempty"`
	Locked *bool   `json:"locked,omitempty"`
}

// setLane names a lane, or locks it.
func setLane(d *edit.Draft, a laneSetArgs) (string, error) {
	l, err := laneOf(d, a.ID)
	if err != nil {
		return "", err
	}
	verb := "rename"
	if a.Name != nil {
		name := strings.TrimSpace(*a.Name)
		if name == "" {
			return "", errors.New("a lane needs a name")
		}
		l.Name = name
	}
	if a.Locked != nil {
		verb = "unlock"
		if l.Locked = *a.Locked; l.Locked {
			verb = "lock"
		}
	}
	d.SetLane(a.ID, l)
	return verb + " lane " + laneName(l), nil
}

type laneMoveArgs struct {
	ID string `json:"id"`
	By int    `json:"by"` // rows down; fewer than none are up
}

// moveLane puts a spare lane elsewhere among the spare lanes.
func moveLane(d *edit.Draft, a laneMoveArgs) (string, error) {
	l, err := laneOf(d, a.ID)
	if err != nil {
		return "", err
	}
	if l.Main {
		return "", errors.New("the main lane stays below the spare ones")
	}
	all := program.SpareLanes(d.Doc, l.Assembly)
	i := slices.Index(all, a.ID)
	to := max(0, min(len(all)-1, i+a.By))
	all = slices.Insert(slices.Delete(all, i, i+1), to, a.ID)
	for i, id := range all {
		if v := d.Doc.Lanes[id]; v.Order != i+1 {
			v.Order = i + 1
			d.SetLane(id, v)
		}
	}
	return "move lane " + l.Name, nil
}
