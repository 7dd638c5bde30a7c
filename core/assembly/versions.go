package assembly

import (
	"errors"
	"fmt"
	"maps"
	"slices"

	"proscen/core/edit"
	"proscen/core/program"
	"proscen/core/scene"
)

// newAssembly makes an assembly with an empty main lane, under a name that no
// other has.
func newAssembly(d *edit.Draft, id, name string) *lane {
	taken, order := map[string]bool{}, 0
	for _, a := range d.Doc.Assemblies {
		taken[a.Name] = true
		order = max(order, a.Order+1)
	}
	base := name
	for n := 2; taken[name]; n++ {
		name = fmt.Sprintf("%s %d", base, n)
	}
	if id == "" {
		id = d.NewID()
	}
	d.SetAssembly(id, scene.Assembly{Name: name, Order: order})
	main := d.NewID()
	d.SetLane(main, scene.Lane{Assembly: id, Main: true, Name: "main"})
	c := &cut{draft: d, assembly: id, lanes: map[string]*lane{}}
	c.lanes[main] = &lane{cut: c, id: main, main: true}
	return c.lanes[main]
}

type assemblyArgs struct {
	ID   string `json:"id,omitempty"` // of the assembly worked on; for assemblyAdd, of the new one
	Name string `json:"name,omitempty"`
	New  string `json:"new,omitempty"` // id of a copy
}

// addAssembly makes an empty assembly.
func addAssembly(d *edit.Draft, a assemblyArgs) (string, error) {
	if a.Name == "" {
		a.Name = "assembly"
	}
	l := newAssembly(d, a.ID, a.Name)
	return l.cut.done("add assembly %s", d.Doc.Assemblies[l.cut.assembly].Name)
}

// duplicateAssembly copies an assembly with its lanes, shots, boards, markers
// and sounds.
func duplicateAssembly(d *edit.Draft, a assemblyArgs) (string, error) {
	from, err := open(d, a.ID)
	if err != nil {
		return "", err
	}
	old := d.Doc.Assemblies[a.ID]
	if a.Name == "" {
		a.Name = old.Name
	}
	main := newAssembly(d, a.New, a.Name)
	to := main.cut
	v, made := old, d.Doc.Assemblies[to.assembly]
	v.Name, v.Order = made.Name, made.Order
	d.SetAssembly(to.assembly, v)
	boards := d.Doc.BoardsByShot()
	copyLane := func(l, into *lane) {
		for _, e := range l.shots {
			id := d.NewID()
			into.insert(len(into.shots), id, e.Shot)
			for _, b := range boards[e.ID] {
				board := d.Doc.Boards[b]
				board.Shot = id
				d.SetBoard(d.NewID(), board)
			}
			to.hand(e.ID, id)
		}
	}
	copyLane(from.main(), main)
	for _, id := range from.spares() {
		copyLane(from.lanes[id], to.newSpare(d.Doc.Lanes[id].Name))
	}
	for _, id := range slices.Sorted(maps.Keys(d.Doc.Markers)) {
		if m := d.Doc.Markers[id]; m.Assembly == a.ID {
			m.Assembly = to.assembly
			d.SetMarker(d.NewID(), m)
		}
	}
	for _, id := range slices.Sorted(maps.Keys(d.Doc.Tracks)) {
		t := d.Doc.Tracks[id]
		if t.Assembly != a.ID {
			continue
		}
		t.Assembly = to.assembly
		copied := d.NewID()
		d.SetTrack(copied, t)
		for _, k := range slices.Sorted(maps.Keys(d.Doc.Sounds)) {
			if s := d.Doc.Sounds[k]; s.Track == id {
				s.Track = copied
				d.SetSound(d.NewID(), s)
			}
		}
	}
	return to.done("duplicate assembly %s", old.Name)
}

// removeAssembly removes an assembly with all that belongs to it. The last one
// stays.
func removeAssembly(d *edit.Draft, a assemblyArgs) (string, error) {
	c, err := open(d, a.ID)
	if err != nil {
		return "", err
	}
	if len(d.Doc.Assemblies) < 2 {
		return "", errors.New("a scene keeps at least one assembly; make another first")
	}
	name := d.Doc.Assemblies[a.ID].Name
	for id, l := range c.lanes {
		if l.removeAll(every); c.err != nil {
			return "", c.err
		}
		d.Delete("lanes", id)
	}
	c.lanes = nil
	for _, id := range slices.Sorted(maps.Keys(d.Doc.Markers)) {
		if d.Doc.Markers[id].Assembly == a.ID {
			d.Delete("markers", id)
		}
	}
	for _, id := range slices.Sorted(maps.Keys(d.Doc.Tracks)) {
		if d.Doc.Tracks[id].Assembly == a.ID {
			removeTrack(d, id)
		}
	}
	d.Delete("assemblies", a.ID)
	return c.done("remove assembly %s", name)
}

func every(*program.Entry) bool { return true }

type assemblySetArgs struct {
	ID         string       `json:"id"`
	Name       *string      `json:"name,omitempty"`
	Target     *int         `json:"target,omitempty"`
	ShotTarget *int         `json:"shotTarget,omitempty"`
	Cues       *scene.Clock `json:"cues,omitempty" jsonschema:"enum="`
	Fixed      *bool        `json:"fixed,omitempty"`
}

// setAssembly changes the name, the targets, or what an assembly follows.
func setAssembly(d *edit.Draft, a assemblySetArgs) (string, error) {
	v, ok := d.Doc.Assemblies[a.ID]
	if !ok {
		return "", errors.New("the assembly is not there any more")
	}
	assign(&v.Name, a.Name)
	assign(&v.Target, a.Target)
	assign(&v.ShotTarget, a.ShotTarget)
	assign(&v.Cues, a.Cues)
	assign(&v.Fixed, a.Fixed)
	for id, o := range d.Doc.Assemblies {
		if a.Name != nil && id != a.ID && o.Name == v.Name {
			return "", fmt.Errorf("another assembly is called %q already; choose another name", v.Name)
		}
	}
	d.SetAssembly(a.ID, v)
	return "change assembly " + v.Name, nil
}
