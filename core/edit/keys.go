package edit

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"proscen/core/curve"
	"proscen/core/kit"
	"proscen/core/scene"
)

// curveOf returns the id and value of a node's curve, or an empty id.
func curveOf(doc *scene.Document, node string, ch scene.Channel) (string, scene.Curve) {
	for id, c := range doc.Curves {
		if c.Node == node && c.Channel == ch {
			return id, c
		}
	}
	return "", scene.Curve{Node: node, Channel: ch}
}

// putKey sets a key at a frame, keeping the ease of one that is there.
func putKey(d *Draft, node string, ch scene.Channel, frame, v float64, ease curve.Ease) {
	id, c := curveOf(d.Doc, node, ch)
	if id == "" {
		id = d.NewID()
	}
	keys := slices.Clone(c.Keys)
	at, found := slices.BinarySearchFunc(keys, frame, func(k curve.Key, f float64) int {
		switch {
		case k.Frame < f:
			return -1
		case k.Frame > f:
			return 1
		}
		return 0
	})
	if found {
		keys[at].Value = v
		if ease != "" {
			keys[at].Ease = ease
		}
	} else {
		if ease == "" {
			ease = curve.Soft
		}
		keys = slices.Insert(keys, at, curve.Key{Frame: frame, Value: v, Ease: ease})
	}
	c.Keys = keys
	d.SetCurve(id, c)
}

// static returns the value that a node's channel has without keys.
func static(n *scene.Node, ch scene.Channel) *float64 {
	switch ch {
	case scene.PositionX:
		return &n.Position[0]
	case scene.PositionY:
		return &n.Position[1]
	case scene.PositionZ:
		return &n.Position[2]
	case scene.Pan:
		return &n.Turn[0]
	case scene.Tilt:
		return &n.Turn[1]
	case scene.Roll:
		return &n.Turn[2]
	}
	if n.Camera != nil {
		switch ch {
		case scene.Focal:
			return &n.Camera.Focal
		case scene.Stop:
			return &n.Camera.Stop
		case scene.Focus:
			return &n.Camera.Focus
		}
	}
	if n.Lamp != nil && ch == scene.Strength {
		return &n.Lamp.Strength
	}
	return nil
}

// at returns the value of a curve with keys at a frame.
func at(c scene.Curve, frame float64) float64 {
	k := curve.NewChannel(c.Keys)
	return k.At(frame)
}

func angular(ch scene.Channel) bool {
	return ch == scene.Pan || ch == scene.Tilt || ch == scene.Roll
}

// write puts a value on a channel. With key it becomes a key at the frame.
// Without it, a still channel takes the value, and an animated one is shifted
// whole, so that it passes through the value at the frame.
func write(d *Draft, node string, ch scene.Channel, frame, v float64, key bool) error {
	if node == scene.SettingsID {
		return writeLight(d, ch, frame, v, key)
	}
	n, ok := d.Doc.Nodes[node]
	if !ok {
		return fmt.Errorf("the node is not there any more")
	}
	id, c := curveOf(d.Doc, node, ch)
	compiled := curve.NewChannel(c.Keys)
	if angular(ch) && id != "" {
		v = curve.Unwrap(compiled.At(frame), v)
	}
	if key {
		if ch == scene.Travel && n.Path == "" {
			return fmt.Errorf("%s has no path to travel on; draw one first", n.Name)
		}
		putKey(d, node, ch, frame, v, "")
		return nil
	}
	if id != "" {
		shiftKeys(d, id, c, v-compiled.At(frame))
		return nil
	}
	if n.Camera != nil {
		camera := *n.Camera
		n.Camera = &camera
	}
	if n.Lamp != nil {
		lamp := *n.Lamp
		n.Lamp = &lamp
	}
	field := static(&n, ch)
	if field == nil {
		return fmt.Errorf("%s has no %s", n.Name, ch)
	}
	*field = v
	d.SetNode(node, n)
	return nil
}

// writeLight puts a value on a channel of the scene's light; see write. Colours
// have keys only: their still value is the colour in the settings.
func writeLight(d *Draft, ch scene.Channel, frame, v float64, key bool) error {
	id, c := curveOf(d.Doc, scene.SettingsID, ch)
	if key {
		putKey(d, scene.SettingsID, ch, frame, v, "")
		return nil
	}
	if id != "" {
		shiftKeys(d, id, c, v-at(c, frame))
		return nil
	}
	s := d.Doc.Settings
	switch ch {
	case scene.SunPower:
		s.Sun.Strength = v
	case scene.SkyPower:
		s.Sky.Strength = v
	case scene.HazeReach:
		s.Haze.Distance = v
	case scene.SunHour:
		if s.Sun.Clock == nil {
			return fmt.Errorf("the sun does not follow a clock; switch that on first")
		}
		k := *s.Sun.Clock
		k.Hour = v
		s.Sun.Clock = &k
	default:
		return fmt.Errorf("%s of the light can only have keys", channelName(ch))
	}
	return d.SetJSON("settings", scene.SettingsID, scene.Canonical(s))
}

func shiftKeys(d *Draft, id string, c scene.Curve, by float64) {
	keys := slices.Clone(c.Keys)
	for i := range keys {
		keys[i].Value += by
	}
	c.Keys = keys
	d.SetCurve(id, c)
}

type placeArgs struct {
	ID       string     `json:"id"`
	Frame    float64    `json:"frame"`
	Position *scene.Vec `json:"position"` // in the parent's space
	Turn     *scene.Vec `json:"turn"`
	Key      bool       `json:"key"`
}

// place moves and turns a node; see write for what happens to keys.
func place(d *Draft, a placeArgs) (string, error) {
	n, ok := d.Doc.Nodes[a.ID]
	if !ok {
		return "", fmt.Errorf("the node is not there any more")
	}
	if n.Locked {
		return "", fmt.Errorf("%s is locked; unlock it to move it", n.Name)
	}
	groups := []struct {
		v  *scene.Vec
		ch []scene.Channel
	}{
		{a.Position, []scene.Channel{scene.PositionX, scene.PositionY, scene.PositionZ}},
		{a.Turn, []scene.Channel{scene.Pan, scene.Tilt, scene.Roll}},
	}
	for _, g := range groups {
		if g.v == nil {
			continue
		}
		for i, ch := range g.ch {
			if err := write(d, a.ID, ch, a.Frame, g.v[i], a.Key); err != nil {
				return "", err
			}
		}
	}
	if a.Key {
		return "set keys of " + n.Name, nil
	}
	return "move " + n.Name, nil
}

type valueArgs struct {
	Node    string        `json:"node"`
	Channel scene.Channel `json:"channel"`
	Frame   float64       `json:"frame"`
	Value   float64       `json:"value"`
	Key     bool          `json:"key"`
}

// value sets one channel of a node; see write for what happens to keys.
func value(d *Draft, a valueArgs) (string, error) {
	if a.Channel == scene.Travel {
		a.Value = max(0, min(1, a.Value))
		a.Key = true
	}
	if err := write(d, a.Node, a.Channel, a.Frame, a.Value, a.Key); err != nil {
		return "", err
	}
	verb := "set"
	if a.Key {
		verb = "key"
	}
	return fmt.Sprintf("%s %s of %s", verb, channelName(a.Channel), ownerName(d, a.Node)), nil
}

func ownerName(d *Draft, node string) string {
	if node == scene.SettingsID {
		return "the light"
	}
	return d.Doc.Nodes[node].Name
}

func channelName(ch scene.Channel) string {
	_, name, found := strings.Cut(string(ch), ".")
	if !found {
		return string(ch)
	}
	return name
}

type keyArgs struct {
	Node    string        `json:"node"`
	Channel scene.Channel `json:"channel"`
	Frames  []float64     `json:"frames"`
	By      float64       `json:"by"`
	Ease    curve.Ease    `json:"ease"`
}

// keysAt finds the curve and marks which of its keys stand at the frames.
func keysAt(d *Draft, a keyArgs) (id string, c scene.Curve, hit []bool, err error) {
	id, c = curveOf(d.Doc, a.Node, a.Channel)
	hit = make([]bool, len(c.Keys))
	any := false
	for i, k := range c.Keys {
		hit[i] = slices.ContainsFunc(a.Frames, func(f float64) bool { return math.Abs(f-k.Frame) < 1e-6 })
		any = any || hit[i]
	}
	if !any {
		err = fmt.Errorf("there is no key of %s at that frame", channelName(a.Channel))
	}
	c.Keys = slices.Clone(c.Keys)
	return id, c, hit, err
}

// keyRemove deletes keys. When the last one goes, its value stays as the still
// value.
func keyRemove(d *Draft, a keyArgs) (string, error) {
	id, c, hit, err := keysAt(d, a)
	if err != nil {
		return "", err
	}
	var keep []curve.Key
	for i, k := range c.Keys {
		if !hit[i] {
			keep = append(keep, k)
		}
	}
	last := c.Keys[0].Value
	if len(keep) > 0 {
		c.Keys = keep
		d.SetCurve(id, c)
	} else {
		d.Delete("curves", id)
		if a.Channel != scene.Travel {
			if err := write(d, a.Node, a.Channel, 0, last, false); err != nil {
				return "", err
			}
		}
	}
	return "remove keys of " + channelName(a.Channel), nil
}

// keyMove shifts keys in time. They stop one frame short of keys that stay, and
// never pass them.
func keyMove(d *Draft, a keyArgs) (string, error) {
	id, c, hit, err := keysAt(d, a)
	if err != nil {
		return "", err
	}
	by := a.By
	for i, k := range c.Keys {
		if !hit[i] {
			continue
		}
		if i > 0 && !hit[i-1] {
			by = max(by, c.Keys[i-1].Frame+1-k.Frame)
		}
		if i < len(hit)-1 && !hit[i+1] {
			by = min(by, c.Keys[i+1].Frame-1-k.Frame)
		}
	}
	for i := range c.Keys {
		if hit[i] {
			c.Keys[i].Frame += by
		}
	}
	d.SetCurve(id, c)
	return fmt.Sprintf("move keys of %s by %+gf", channelName(a.Channel), by), nil
}

// keyEase gives keys an ease. A key that becomes shaped gets flat handles of a
// third of its neighbouring gaps.
func keyEase(d *Draft, a keyArgs) (string, error) {
	id, c, hit, err := keysAt(d, a)
	if err != nil {
		return "", err
	}
	for i := range c.Keys {
		if !hit[i] {
			continue
		}
		k := &c.Keys[i]
		k.Ease = a.Ease
		if a.Ease != curve.Shaped {
			k.In, k.Out = nil, nil
			continue
		}
		if i > 0 && k.In == nil {
			k.In = &curve.Handle{Frames: (k.Frame - c.Keys[i-1].Frame) / 3}
		}
		if i < len(c.Keys)-1 && k.Out == nil {
			k.Out = &curve.Handle{Frames: (c.Keys[i+1].Frame - k.Frame) / 3}
		}
	}
	d.SetCurve(id, c)
	return fmt.Sprintf("make keys of %s %s", channelName(a.Channel), a.Ease), nil
}

type colorKeyArgs struct {
	Node  string  `json:"node"` // a lamp, or the settings for the sun
	Frame float64 `json:"frame"`
	Color string  `json:"color"` // #rrggbb
}

// colorKey sets keys of a light's colour at a frame: red, green and blue in
// linear light.
func colorKey(d *Draft, a colorKeyArgs) (string, error) {
	if n, ok := d.Doc.Nodes[a.Node]; a.Node != scene.SettingsID && (!ok || n.Lamp == nil) {
		return "", fmt.Errorf("choose a lamp to key its colour")
	}
	c := kit.Hex(a.Color)
	for i, ch := range []scene.Channel{scene.Red, scene.Green, scene.Blue} {
		putKey(d, a.Node, ch, a.Frame, float64(c[i]), "")
	}
	return "key the colour of " + ownerName(d, a.Node), nil
}
