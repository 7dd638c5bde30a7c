package edit

import (
	"encoding/json"
	"errors"
	"fmt"
	"maps"
	"slices"
	"strconv"
	"strings"

	"proscen/core/scene"
)

// Core returns the operations on nodes, paths, keys and markers.
func Core() Catalog {
	return Catalog{
		"set":          Op(set),
		"setMany":      Op(setMany),
		"setEach":      Op(setEach),
		"placeEach":    Op(placeEach),
		"valueEach":    Op(valueEach),
		"remove":       Op(remove),
		"place":        Op(place),
		"value":        Op(value),
		"sceneRename":  Op(sceneRename),
		"reframe":      Op(reframe),
		"formatPut":    Op(formatPut),
		"formatRemove": Op(formatRemove),
		"markerAdd":    Op(markerAdd),

		"stockPlace": Op(stockPlace),
		"modelAdd":   Op(modelAdd),

		"clearUnused": Op(clearUnused),
		"fileReplace": Op(fileReplace),
		"scatter":     Op(scatter),
		"duplicate":   Op(duplicate),

		"move":       Op(move),
		"align":      Op(align),
		"distribute": Op(distribute),
		"mirror":     Op(mirror),
		"dropDown":   Op(dropDown),
		"attach":     Op(attach),
		"detach":     Op(detach),
		"group":      Op(group),
		"ungroup":    Op(ungroup),

		"cameraAdd":     Op(cameraAdd),
		"cameraCopy":    Op(cameraCopy),
		"cameraTake":    Op(cameraTake),
		"cameraOnPath":  Op(cameraOnPath),
		"cameraFolder":  Op(cameraFolder),
		"cameraLike":    Op(cameraLike),
		"cameraMatch":   Op(cameraMatch),
		"planLay":       Op(planLay),
		"screenShow":    Op(screenShow),
		"cameraNumber":  Op(cameraNumber),
		"cameraOrder":   Op(cameraOrder),
		"cameraArchive": Op(cameraArchive),
		"cameraSupport": Op(cameraSupport),
		"cameraAim":     Op(cameraAim),
		"cameraTurn":    Op(cameraTurn),
		"cameraFrame":   Op(cameraFrame),
		"cameraOrbit":   Op(cameraOrbit),
		"kitPut":        Op(kitPut),
		"recipePut":     Op(recipePut),
		"cameraBring":   Op(cameraBring),
		"libraryTake":   Op(libraryTake),
		"lensChoose":    Op(lensChoose),
		"lensMove":      Op(lensMove),
		"focusFollow":   Op(focusFollow),
		"focusPull":     Op(focusPull),
		"focusPick":     Op(focusPick),

		"positionLeave":  Op(positionLeave),
		"positionRetake": Op(positionRetake),
		"positionRemove": Op(positionRemove),
		"positionOrder":  Op(positionOrder),
		"positionTime":   Op(positionTime),
		"positionSpace":  Op(positionSpace),
		"pathFromKeys":   Op(pathFromKeys),
		"moveShape":      Op(moveShape),
		"moveAmount":     Op(moveAmount),
		"moveEase":       Op(moveEase),
		"moveSettle":     Op(moveSettle),

		"keySet":    Op(keySet),
		"keyRemove": Op(keyRemove),
		"keyMove":   Op(keyMove),
		"keyScale":  Op(keyScale),
		"keyValue":  Op(keyValue),
		"keyEase":   Op(keyEase),
		"keyHandle": Op(keyHandle),
		"keyPaste":  Op(keyPaste),
		"colorKey":  Op(colorKey),

		"pathDraw":  Op(pathDraw),
		"pathPoint": Op(pathPoint),
		"pathShift": Op(pathShift),
		"pathShape": Op(pathShape),
		"travel":    Op(travelSet),

		"actionAdd":  Op(actionAdd),
		"actionTime": Op(actionTime),
		"handOver":   Op(handOver),
		"lineAdd":    Op(lineAdd),
	}
}

type setArgs struct {
	Collection string                     `json:"collection"`
	ID         string                     `json:"id"`
	Merge      map[string]json.RawMessage `json:"merge"` // RFC 7386
	Label      string                     `json:"label,omitempty"`
}

// set merges fields into an entity by RFC 7386 (JSON Merge Patch).
func set(d *Draft, a setArgs) (string, error) {
	t := d.Table(a.Collection)
	if t == nil {
		return "", fmt.Errorf("%q is not a collection of a scene", a.Collection)
	}
	if a.Collection == "shots" {
		return "", errors.New("shots are changed by the operations of the cut, which keep them apart and their joins whole")
	}
	body := t.Get(a.ID)
	if body == nil {
		return "", fmt.Errorf("there is nothing with the id %q in %s any more", a.ID, a.Collection)
	}
	merged, err := merge(body, a.Merge)
	if err != nil {
		return "", err
	}
	if err := d.SetJSON(a.Collection, a.ID, merged); err != nil {
		return "", fmt.Errorf("%s/%s %w", a.Collection, a.ID, err)
	}
	if a.Label == "" {
		a.Label = "change " + strings.Join(slices.Sorted(maps.Keys(a.Merge)), ", ")
	}
	return a.Label, nil
}

type setManyArgs struct {
	Collection string                     `json:"collection"`
	IDs        []string                   `json:"ids"`
	Merge      map[string]json.RawMessage `json:"merge"`
	Label      string                     `json:"label,omitempty"`
}

// setMany merges the same fields into several entities.
func setMany(d *Draft, a setManyArgs) (string, error) {
	if len(a.IDs) == 0 {
		return "", fmt.Errorf("nothing is selected to be changed")
	}
	label := ""
	for _, id := range a.IDs {
		l, err := set(d, setArgs{a.Collection, id, a.Merge, a.Label})
		if err != nil {
			return "", err
		}
		label = l
	}
	return label, nil
}

func merge(target json.RawMessage, patch map[string]json.RawMessage) (json.RawMessage, error) {
	fields := map[string]json.RawMessage{}
	if len(target) > 0 && target[0] == '{' {
		if err := json.Unmarshal(target, &fields); err != nil {
			return nil, err
		}
	}
	for name, v := range patch {
		var inner map[string]json.RawMessage
		switch {
		case string(v) == "null":
			delete(fields, name)
		case json.Unmarshal(v, &inner) == nil:
			merged, err := merge(fields[name], inner)
			if err != nil {
				return nil, err
			}
			fields[name] = merged
		default:
			fields[name] = v
		}
	}
	return json.Marshal(fields)
}

type removeArgs struct {
	Collection string   `json:"collection"`
	IDs        []string `json:"ids"`
}

// remove deletes entities together with what has no meaning without them:
// curves and actions of a node, keys of a path's travel. It refuses to delete a
// camera that shots use.
func remove(d *Draft, a removeArgs) (string, error) {
	if len(a.IDs) == 0 {
		return "", fmt.Errorf("nothing is selected to be removed")
	}
	if !slices.Contains([]string{"nodes", "paths", "markers", "lines", "actions", "models", "kits", "boards", "cards", "footage", "sounds", "recipes"}, a.Collection) {
		return "", fmt.Errorf("%q cannot be removed this way", a.Collection)
	}
	label := fmt.Sprintf("remove %d %s", len(a.IDs), a.Collection)
	var b *bonds
	if a.Collection == "nodes" {
		b = bondsOf(d.Doc)
	}
	plays := playsOf(d.Doc)
	for _, id := range a.IDs {
		if d.Table(a.Collection).Value(id) == nil {
			if d.Touched(a.Collection, id) {
				continue // gone with what it hung on
			}
			return "", fmt.Errorf("it is not there any more")
		}
		switch a.Collection {
		case "nodes":
			n := d.Doc.Nodes[id]
			if err := removeNode(d, b, id, n, false); err != nil {
				return "", err
			}
			label = "remove " + n.Name
		case "paths":
			removePath(d, id)
		case "kits":
			if k := d.Doc.Kits[id]; k.Shared {
				return "", fmt.Errorf("%s is a kit of the production; remove it there, or keep it as this scene's own first", k.Name)
			}
			freeKit(d, id)
		case "cards", "footage":
			if s := plays[a.Collection+id]; s != "" {
				return "", fmt.Errorf("shot %s plays this; give it something else first", s)
			}
		case "models":
			for _, n := range d.Doc.Nodes {
				if n.Model == id {
					return "", fmt.Errorf("%s uses this model; remove it first", n.Name)
				}
			}
		}
		d.Delete(a.Collection, id)
	}
	return label, nil
}

// playsOf returns for each card and footage, by collection and id, the number of a
// shot that plays it.
func playsOf(doc *scene.Document) map[string]string {
	out := map[string]string{}
	for _, s := range doc.Shots {
		switch s.Plays {
		case scene.PlaysCard:
			out["cards"+s.Card] = s.Number
		case scene.PlaysFootage:
			out["footage"+s.Footage] = s.Number
		}
	}
	return out
}

// removeNode removes what refers to a node; with whole, all that hangs on it
// goes too. What has gone already is passed over.
func removeNode(d *Draft, b *bonds, id string, n scene.Node, whole bool) error {
	if used := shotNumbers(d.Doc, b.shots[id]); len(used) > 0 {
		return fmt.Errorf("%s is used by %s; archive it instead, or give those shots another camera first", n.Name, shotList(used))
	}
	removeCurves(d, id, nil)
	looseFocus(d, id, b.focuses[id])
	for _, k := range b.actions[id] {
		v := d.Doc.Actions[k]
		switch {
		case v.Cast == id || v.On == id || v.With == id || v.Face == id && (v.Do == scene.Look || v.Do == scene.Point || v.Do == scene.Reach):
			d.Delete("actions", k)
		case v.Face == id:
			v.Face = ""
			d.SetAction(k, v)
		}
	}
	for _, k := range b.lines[id] {
		if d.Doc.Lines[k].Cast == id {
			d.Delete("lines", k)
		}
	}
	for _, k := range b.markers[id] {
		if v := d.Doc.Markers[k]; v.Camera == id {
			v.Camera = ""
			d.SetMarker(k, v)
		}
	}
	for _, k := range b.children[id] {
		v, ok := d.Doc.Nodes[k]
		if !ok || v.Parent != id {
			continue
		}
		if n.Kind == scene.KindGroup || whole || v.Kind == scene.KindLamp && n.Piece != nil {
			// What a group holds and the lamps of a piece go with it.
			if err := removeNode(d, b, k, v, whole || n.Kind == scene.KindGroup); err != nil {
				return err
			}
			d.Delete("nodes", k)
			continue
		}
		if err := hang(d, k, n.Parent, "", 0); err != nil {
			return err
		}
		b.children[n.Parent] = append(b.children[n.Parent], k)
	}
	for _, k := range b.aims[id] {
		v, ok := d.Doc.Nodes[k]
		if !ok || v.Camera == nil || v.Camera.AimAt != id && v.Camera.FocusOn != id {
			continue
		}
		c := *v.Camera
		if c.AimAt == id {
			c.Aim, c.AimAt = scene.AimFree, ""
		}
		if c.FocusOn == id {
			c.FocusOn = ""
		}
		v.Camera = &c
		d.SetNode(k, v)
	}
	return nil
}

func removePath(d *Draft, id string) {
	for _, k := range ids(d.Doc.Nodes) {
		v := d.Doc.Nodes[k]
		if v.Path == id {
			v.Path, v.AlongYaw = "", false
			if v.Camera != nil {
				c := *v.Camera
				if c.Support == scene.Dolly {
					c.Support = scene.Sticks
				}
				if c.Aim == scene.AimAlong {
					c.Aim = scene.AimFree
				}
				v.Camera = &c
			}
			// What stood on the path stays where the path began.
			v.Position = d.Doc.Paths[id].Points[0]
			d.SetNode(k, v)
			removeCurves(d, k, []scene.Channel{scene.Travel})
		} else if v.Piece != nil && v.Piece.Along == id {
			p := *v.Piece
			p.Along = ""
			v.Piece = &p
			d.SetNode(k, v)
		}
	}
	for _, k := range ids(d.Doc.Actions) {
		if d.Doc.Actions[k].Path == id {
			d.Delete("actions", k)
		}
	}
}

// removeCurves deletes curves of a node; channels nil means all.
func removeCurves(d *Draft, node string, channels []scene.Channel) {
	for _, k := range d.Doc.CurvesOf(node) {
		if channels == nil || slices.Contains(channels, d.Doc.Curves[k].Channel) {
			d.Delete("curves", k)
		}
	}
}

func ids[T any](m map[string]T) []string { return slices.Sorted(maps.Keys(m)) }

func pick(d *Draft, id string) string {
	if id == "" {
		return d.NewID()
	}
	return id
}

// freeName returns a name that no node has: the one asked for, or with a number.
func freeName(doc *scene.Document, name string) string { return Names(doc)(name) }

// Names returns a function that gives out names which no node has, and none twice.
func Names(doc *scene.Document) func(name string) string {
	taken := make(map[string]bool, len(doc.Nodes))
	for _, n := range doc.Nodes {
		taken[n.Name] = true
	}
	next := map[string]int{} // by the name without its number
	return func(name string) string {
		if !taken[name] {
			taken[name] = true
			return name
		}
		stem := strings.TrimRight(strings.TrimRight(name, "0123456789"), " ")
		for i := max(2, next[stem]); ; i++ {
			if out := stem + " " + strconv.Itoa(i); !taken[out] {
				taken[out], next[stem] = true, i+1
				return out
			}
		}
	}
}

type markerAddArgs struct {
	Clock    scene.Clock `json:"clock"`
	Assembly string      `json:"assembly,omitempty"`
	Frame    int         `json:"frame"`
	Name     string      `json:"name,omitempty"`
	Color    string      `json:"color,omitempty"`
	Camera   string      `json:"camera,omitempty"`
	Frames   int         `json:"frames,omitempty"`
	Note     string      `json:"note,omitempty"`
	ID       string      `json:"id,omitempty"`
}

// markerAdd drops a marker on one of the clocks.
func markerAdd(d *Draft, a markerAddArgs) (string, error) {
	if a.Name == "" {
		count := 1
		for _, m := range d.Doc.Markers {
			if m.Clock == a.Clock {
				count++
			}
		}
		a.Name = "Marker " + strconv.Itoa(count)
	}
	if a.Color == "" {
		a.Color = "#e2b45a"
	}
	if a.Clock == scene.StoryClock {
		a.Assembly = ""
	}
	d.SetMarker(pick(d, a.ID), scene.Marker{Assembly: a.Assembly, Clock: a.Clock, Frame: a.Frame, Frames: a.Frames, Name: a.Name, Note: a.Note, Color: a.Color, Camera: a.Camera})
	return "drop " + a.Name, nil
}

type sceneRenameArgs struct {
	Production *string `json:"production,omitempty"` // what is left out stays
	Title      *string `json:"title,omitempty"`
}

func sceneRename(d *Draft, a sceneRenameArgs) (string, error) {
	s := d.Doc.Settings
	if a.Production != nil {
		s.Production = *a.Production
	}
	if a.Title != nil {
		s.Title = *a.Title
	}
	return "rename the scene", d.SetJSON("settings", scene.SettingsID, scene.Canonical(s))
}
