package edit

import (
	"cmp"
	"fmt"
	"maps"
	"math"
	"slices"
	"strings"

	"proscen/core/curve"
	"proscen/core/kit"
	"proscen/core/scene"
)

// putKey sets a key at a frame, keeping the ease of one that is there.
func putKey(d *Draft, node string, ch scene.Channel, frame, v float64, ease curve.Ease) {
	id, c := d.Doc.CurveOf(node, ch)
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
		case scene.ShiftX:
			return &n.Camera.Shift[0]
		case scene.ShiftY:
			return &n.Camera.Shift[1]
		case scene.FramingX:
			return &n.Camera.Framing[0]
		case scene.FramingY:
			return &n.Camera.Framing[1]
		case scene.Restless:
			if n.Camera.Unrest != nil {
				return &n.Camera.Unrest.Amount
			}
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

// write puts a value on a channel. With key it becomes a key at the frame; the first
// key of a channel leaves what was there as another one where the move opens. Without
// key, a still channel takes the value, and an animated one is shifted
// whole, so that it passes through the value at the frame.
func write(d *Draft, node string, ch scene.Channel, frame, v float64, key bool) error {
	if node == scene.SettingsID {
		return writeLight(d, ch, frame, v, key)
	}
	n, ok := d.Doc.Nodes[node]
	if !ok {
		return fmt.Errorf("the node is not there any more")
	}
	id, c := d.Doc.CurveOf(node, ch)
	compiled := curve.NewChannel(c.Keys)
	if ch == scene.Swing {
		return writeSwing(d, node, n, frame, v, key)
	}
	if angular(ch) && id != "" {
		v = curve.Unwrap(compiled.At(frame), v)
	}
	if key {
		if ch == scene.Travel && n.Path == "" {
			return fmt.Errorf("%s has no path to travel on; draw one first", n.Name)
		}
		if still := static(&n, ch); id == "" && still != nil {
			v = keepOpening(d, node, ch, frame, *still, v)
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
		if camera.Unrest != nil {
			u := *camera.Unrest
			n.Camera.Unrest = &u
		}
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

// keepOpening puts the still value of a channel that is about to get its first key at
// a frame where the move opens, so that the picture there is not lost. It returns the
// value of that first key.
func keepOpening(d *Draft, node string, ch scene.Channel, frame, still, v float64) float64 {
	opens := opening(d, node, frame)
	if opens >= frame || still == v {
		return v
	}
	if angular(ch) {
		v = curve.Unwrap(still, v)
	}
	putKey(d, node, ch, opens, still, "")
	return v
}

// opening returns the story frame at which the move of a node opens that is at a
// frame: that of its first key; without keys the beginning of the shot through the
// camera, or of the story. It is the frame itself when there is nothing before it.
func opening(d *Draft, node string, frame float64) float64 {
	first := frame
	for _, id := range d.Doc.CurvesOf(node) {
		if c := d.Doc.Curves[id]; len(c.Keys) > 0 {
			first = min(first, c.Keys[0].Frame)
		}
	}
	if first < frame {
		return first
	}
	for _, s := range d.Doc.Shots {
		if s.Camera == node && s.Plays == scene.PlaysCamera && s.Speed > 0 && s.StoryIn <= frame && frame < s.StoryOut() {
			first = min(first, math.Ceil(s.StoryIn))
		}
	}
	if first < frame {
		return first
	}
	return min(frame, float64(d.Doc.Settings.Story.In))
}

// writeLight puts a value on a channel of the scene's light; see write. Colours
// have keys only: their still value is the colour in the settings.
func writeLight(d *Draft, ch scene.Channel, frame, v float64, key bool) error {
	id, c := d.Doc.CurveOf(scene.SettingsID, ch)
	s := d.Doc.Settings
	still := staticLight(&s, ch)
	if key {
		if id == "" && still != nil {
			v = keepOpening(d, scene.SettingsID, ch, frame, *still, v)
		}
		putKey(d, scene.SettingsID, ch, frame, v, "")
		return nil
	}
	switch {
	case id != "":
		shiftKeys(d, id, c, v-at(c, frame))
		return nil
	case still != nil:
		*still = v
	case ch == scene.SunHour:
		return fmt.Errorf("the sun does not follow a clock; switch that on first")
	default:
		return fmt.Errorf("%s of the light can only have keys", channelName(ch))
	}
	return d.SetJSON("settings", scene.SettingsID, scene.Canonical(s))
}

// staticLight returns the still value of a channel of the light, which may be changed;
// nil when it has none.
func staticLight(s *scene.Settings, ch scene.Channel) *float64 {
	switch ch {
	case scene.SunPower:
		return &s.Sun.Strength
	case scene.SkyPower:
		return &s.Sky.Strength
	case scene.HazeReach:
		return &s.Haze.Distance
	case scene.SunHour:
		if s.Sun.Clock != nil {
			k := *s.Sun.Clock
			s.Sun.Clock = &k
			return &k.Hour
		}
	}
	return nil
}

func shiftKeys(d *Draft, id string, c scene.Curve, by float64) {
	keys := slices.Clone(c.Keys)
	for i := range keys {
		keys[i].Value += by
	}
	c.Keys = keys
	d.SetCurve(id, c)
}

// axes are three numbers, of which those that are null stay as they are.
type axes [3]*float64

type placeArgs struct {
	ID       string  `json:"id"`
	Frame    float64 `json:"frame"`
	Position axes    `json:"position,omitempty"` // in the parent's space
	Turn     axes    `json:"turn,omitempty"`
	Key      bool    `json:"key,omitempty"`
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
		v  axes
		ch []scene.Channel
	}{
		{a.Position, []scene.Channel{scene.PositionX, scene.PositionY, scene.PositionZ}},
		{a.Turn, []scene.Channel{scene.Pan, scene.Tilt, scene.Roll}},
	}
	for _, g := range groups {
		for i, ch := range g.ch {
			if g.v[i] == nil {
				continue
			}
			if err := write(d, a.ID, ch, a.Frame, *g.v[i], a.Key); err != nil {
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
		a.Key = true
	}
	a.Value = within(d, a.Node, a.Channel, a.Value)
	if err := write(d, a.Node, a.Channel, a.Frame, a.Value, a.Key); err != nil {
		return "", err
	}
	verb := "set"
	if a.Key {
		verb = "key"
	}
	return fmt.Sprintf("%s %s of %s", verb, channelName(a.Channel), ownerName(d, a.Node)), nil
}

// within holds a value that is given to a channel to what there is: a travel to its path, a
// focal length to the lenses of the camera's kit, a door to how far it opens.
func within(d *Draft, node string, ch scene.Channel, v float64) float64 {
	n := d.Doc.Nodes[node]
	switch {
	case ch == scene.Travel:
		return max(0, min(1, v))
	case ch == scene.Focal && n.Camera != nil && v >= 1 && v <= 3000:
		return fitted(d.Doc, n.Camera.Kit, v)
	case ch == scene.Swing && n.Piece != nil:
		return kit.Opens[n.Piece.Stock].Held(n.Piece.Stock, v)
	}
	return v
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

// keyArgs says which keys of a node are meant: Frames of one Channel, or Rows of
// several.
type keyArgs struct {
	Node    string                      `json:"node,omitempty"`
	Channel scene.Channel               `json:"channel,omitempty"`
	Frames  []float64                   `json:"frames,omitempty"`
	Rows    map[scene.Channel][]float64 `json:"rows,omitempty"`
}

// chosen is a curve and which of its keys are meant.
type chosen struct {
	id  string
	c   scene.Curve
	hit []bool
}

// keysOf finds the keys that are meant, with copies of their curves' keys.
func keysOf(d *Draft, a keyArgs) ([]chosen, error) {
	rows := a.Rows
	if len(rows) == 0 {
		rows = map[scene.Channel][]float64{a.Channel: a.Frames}
	}
	var out []chosen
	for _, ch := range slices.Sorted(maps.Keys(rows)) {
		id, c := d.Doc.CurveOf(a.Node, ch)
		c.Keys = slices.Clone(c.Keys)
		hit := make([]bool, len(c.Keys))
		any := false
		for i, k := range c.Keys {
			hit[i] = slices.ContainsFunc(rows[ch], func(f float64) bool { return math.Abs(f-k.Frame) < 1e-6 })
			any = any || hit[i]
		}
		if any {
			out = append(out, chosen{id, c, hit})
		}
	}
	if len(out) == 0 {
		return nil, fmt.Errorf("there is no key of %s at that frame", channelName(a.Channel))
	}
	return out, nil
}

// named says what keys are meant, for labels.
func named(keys []chosen) string {
	if len(keys) == 1 {
		return channelName(keys[0].c.Channel)
	}
	return fmt.Sprintf("%d rows", len(keys))
}

type keySetArgs struct {
	Node     string          `json:"node"`
	Channels []scene.Channel `json:"channels,omitempty"` // none for all that are animated, and where it is
	Frame    float64         `json:"frame"`
}

// keySet sets keys at a frame with the values that are there.
func keySet(d *Draft, a keySetArgs) (string, error) {
	n, ok := d.Doc.Nodes[a.Node]
	if !ok {
		return "", fmt.Errorf("the node is not there any more")
	}
	all := a.Channels
	if len(all) == 0 {
		for _, id := range d.Doc.CurvesOf(a.Node) {
			all = append(all, d.Doc.Curves[id].Channel)
		}
		held := n.Camera != nil && n.Camera.Aim == scene.AimAt
		for i := range places {
			if n.Path == "" && !slices.Contains(all, places[i]) {
				all = append(all, places[i])
			}
			if !held && !slices.Contains(all, turns[i]) {
				all = append(all, turns[i])
			}
		}
		if n.Path != "" && !slices.Contains(all, scene.Travel) {
			all = append(all, scene.Travel)
		}
	}
	count := 0
	for _, ch := range all {
		_, c := d.Doc.CurveOf(a.Node, ch)
		v := 0.0
		if len(c.Keys) > 0 {
			v = at(c, a.Frame)
			if ch == scene.Focus {
				v = d.Stage.Picture(a.Node, a.Frame).Focus
			}
		} else if p := static(&n, ch); p != nil {
			v = *p
		} else if ch != scene.Travel {
			continue
		}
		if ch == scene.Travel && n.Path == "" {
			continue
		}
		putKey(d, a.Node, ch, a.Frame, v, "")
		count++
	}
	if count == 0 {
		return "", fmt.Errorf("%s has nothing of that kind to key", n.Name)
	}
	return fmt.Sprintf("set %d keys of %s", count, n.Name), nil
}

// keyRemove deletes keys. When the last one of a channel goes, its value stays
// as the still value.
func keyRemove(d *Draft, a keyArgs) (string, error) {
	rows, err := keysOf(d, a)
	if err != nil {
		return "", err
	}
	for _, r := range rows {
		var keep []curve.Key
		for i, k := range r.c.Keys {
			if !r.hit[i] {
				keep = append(keep, k)
			}
		}
		if len(keep) > 0 {
			r.c.Keys = keep
			d.SetCurve(r.id, r.c)
			continue
		}
		last := at(r.c, r.c.Keys[0].Frame)
		d.Delete("curves", r.id)
		n := d.Doc.Nodes[a.Node]
		if a.Node == scene.SettingsID || static(&n, r.c.Channel) != nil {
			if err := write(d, a.Node, r.c.Channel, 0, last, false); err != nil {
				return "", err
			}
		}
	}
	return "remove keys of " + named(rows), nil
}

type keyMoveArgs struct {
	keyArgs
	By    float64 `json:"by"`              // frames
	Value float64 `json:"value,omitempty"` // in the channel's unit, for single channels
}

// keyMove shifts keys in time, and in value. In time they stop one frame short
// of keys that stay, and never pass them.
func keyMove(d *Draft, a keyMoveArgs) (string, error) {
	rows, err := keysOf(d, a.keyArgs)
	if err != nil {
		return "", err
	}
	by := a.By
	for _, r := range rows {
		for i, k := range r.c.Keys {
			if !r.hit[i] {
				continue
			}
			if i > 0 && !r.hit[i-1] {
				by = max(by, r.c.Keys[i-1].Frame+1-k.Frame)
			}
			if i < len(r.hit)-1 && !r.hit[i+1] {
				by = min(by, r.c.Keys[i+1].Frame-1-k.Frame)
			}
		}
	}
	for _, r := range rows {
		for i := range r.c.Keys {
			if r.hit[i] {
				r.c.Keys[i].Frame += by
				r.c.Keys[i].Value += a.Value
			}
		}
		d.SetCurve(r.id, r.c)
	}
	if a.Value != 0 {
		return fmt.Sprintf("move keys of %s by %+gf and %+.4g", named(rows), by, a.Value), nil
	}
	return fmt.Sprintf("move keys of %s by %+gf", named(rows), by), nil
}

type keyScaleArgs struct {
	keyArgs
	Time  float64 `json:"time"`            // factor in time from the first of the keys, 0 for 1
	Value float64 `json:"value"`           // factor of the values, 0 for 1
	About string  `json:"about,omitempty"` // which value stays: that of the last ("end", or "") or the first ("start") of the keys
}

// keyScale scales keys in time, from the first of them, and in value, about the
// last or first of each channel. It refuses to pass keys that stay.
func keyScale(d *Draft, a keyScaleArgs) (string, error) {
	rows, err := keysOf(d, a.keyArgs)
	if err != nil {
		return "", err
	}
	if a.Time == 0 {
		a.Time = 1
	}
	if a.Value == 0 {
		a.Value = 1
	}
	if !(a.Time > 0) {
		return "", fmt.Errorf("keys are scaled in time by more than 0, not by %g", a.Time)
	}
	first := math.Inf(1)
	for _, r := range rows {
		for i, k := range r.c.Keys {
			if r.hit[i] {
				first = min(first, k.Frame)
			}
		}
	}
	for _, r := range rows {
		pivot, found := 0.0, false
		for i, k := range r.c.Keys {
			if r.hit[i] && !(found && a.About == "start") {
				pivot, found = k.Value, true
			}
		}
		for i := range r.c.Keys {
			k := &r.c.Keys[i]
			if !r.hit[i] {
				continue
			}
			k.Frame = first + math.Round((k.Frame-first)*a.Time)
			k.Value = pivot + (k.Value-pivot)*a.Value
			k.In, k.Out = scaledHandle(k.In, a.Time, a.Value), scaledHandle(k.Out, a.Time, a.Value)
		}
		for i := 1; i < len(r.c.Keys); i++ {
			if r.c.Keys[i].Frame <= r.c.Keys[i-1].Frame {
				return "", fmt.Errorf("scaled so, keys of %s would meet or pass each other near frame %g; move those aside first", channelName(r.c.Channel), r.c.Keys[i].Frame)
			}
		}
		d.SetCurve(r.id, r.c)
	}
	return fmt.Sprintf("scale keys of %s", named(rows)), nil
}

type keyValueArgs struct {
	keyArgs
	Value float64 `json:"value"` // in the channel's own unit
}

// keyValue gives keys of one channel a value.
func keyValue(d *Draft, a keyValueArgs) (string, error) {
	rows, err := keysOf(d, a.keyArgs)
	if err != nil {
		return "", err
	}
	if len(rows) > 1 {
		return "", fmt.Errorf("the keys are of %s; choose those of one to give them a value", named(rows))
	}
	r := rows[0]
	if lo, hi := reach(r.c.Channel); a.Value < lo || a.Value > hi {
		return "", fmt.Errorf("%s lies between %g and %g", channelName(r.c.Channel), lo, hi)
	}
	v := within(d, a.Node, r.c.Channel, a.Value)
	for i := range r.c.Keys {
		if r.hit[i] {
			r.c.Keys[i].Value, r.c.Keys[i].On = v, "" // a focus follows nobody any more
		}
	}
	d.SetCurve(r.id, r.c)
	return "change keys of " + channelName(r.c.Channel), nil
}

// reach returns between which values a channel makes sense; what has no value of its own
// kind is bounded as places are.
func reach(ch scene.Channel) (lo, hi float64) {
	switch ch {
	case scene.Focal:
		return 1, 3000
	case scene.Stop:
		return 0.5, 128
	case scene.Focus:
		return 0.05, scene.MaxMetres
	case scene.Red, scene.Green, scene.Blue:
		return 0, 1
	case scene.SunHour:
		return 0, 24
	case scene.Strength, scene.SunPower, scene.SkyPower, scene.HazeReach, scene.Restless:
		return 0, scene.MaxMetres
	}
	return -scene.MaxMetres, scene.MaxMetres
}

type keyEaseArgs struct {
	keyArgs
	Ease curve.Ease `json:"ease"`
}

// keyEase gives keys an ease. A key that becomes shaped gets flat handles of a
// third of its neighbouring gaps.
func keyEase(d *Draft, a keyEaseArgs) (string, error) {
	rows, err := keysOf(d, a.keyArgs)
	if err != nil {
		return "", err
	}
	for _, r := range rows {
		for i := range r.c.Keys {
			if r.hit[i] {
				shape(r.c.Keys, i, a.Ease)
			}
		}
		d.SetCurve(r.id, r.c)
	}
	return fmt.Sprintf("make keys of %s %s", named(rows), a.Ease), nil
}

// shape gives a key an ease, and flat handles when it becomes shaped.
func shape(keys []curve.Key, i int, ease curve.Ease) {
	k := &keys[i]
	k.Ease = ease
	if ease != curve.Shaped {
		k.In, k.Out = nil, nil
		return
	}
	if i > 0 && k.In == nil {
		k.In = &curve.Handle{Frames: (k.Frame - keys[i-1].Frame) / 3}
	}
	if i < len(keys)-1 && k.Out == nil {
		k.Out = &curve.Handle{Frames: (keys[i+1].Frame - k.Frame) / 3}
	}
}

type keyHandleArgs struct {
	Node    string        `json:"node"`
	Channel scene.Channel `json:"channel"`
	Frame   float64       `json:"frame"`
	Side    string        `json:"side"`   // "in" or "out"
	Frames  float64       `json:"frames"` // length of the handle in time
	Value   float64       `json:"value"`  // change of value at its end; without Free it is held flat
	Free    bool          `json:"free,omitempty"`
	Alone   bool          `json:"alone,omitempty"` // the other handle does not turn with it
}

// keyHandle drags a handle of a key, which becomes shaped. It is held flat
// unless freed; freed, the handle on the other side stays in line with it.
func keyHandle(d *Draft, a keyHandleArgs) (string, error) {
	rows, err := keysOf(d, keyArgs{Node: a.Node, Channel: a.Channel, Frames: []float64{a.Frame}})
	if err != nil {
		return "", err
	}
	r := rows[0]
	i := slices.Index(r.hit, true)
	shape(r.c.Keys, i, curve.Shaped)
	k := &r.c.Keys[i]
	h := curve.Handle{Frames: max(0, a.Frames)}
	if a.Free {
		h.Value = a.Value
	}
	mine, other := &k.Out, &k.In
	if a.Side == "in" {
		mine, other = &k.In, &k.Out
	}
	if *mine == nil {
		return "", fmt.Errorf("the key at %g has no key on that side to lead to", a.Frame)
	}
	*mine = &h
	if o := *other; o != nil && !a.Alone {
		turned := curve.Handle{Frames: o.Frames}
		if h.Frames > 0 {
			turned.Value = -h.Value / h.Frames * o.Frames
		}
		*other = &turned
	}
	d.SetCurve(r.id, r.c)
	return "shape a key of " + channelName(a.Channel), nil
}

type keyPasteArgs struct {
	Node    string                        `json:"node"`
	Rows    map[scene.Channel][]curve.Key `json:"rows"`
	Frame   float64                       `json:"frame"` // where the first of them comes to stand
	Reverse bool                          `json:"reverse"`
}

// keyPaste puts copied keys at a frame, also on another node, and reversed in
// time if wanted. Keys that stand in their range make room.
func keyPaste(d *Draft, a keyPasteArgs) (string, error) {
	if _, ok := d.Doc.Nodes[a.Node]; !ok && a.Node != scene.SettingsID {
		return "", fmt.Errorf("choose what the keys are to be pasted on")
	}
	from, to := math.Inf(1), math.Inf(-1)
	for _, keys := range a.Rows {
		for _, k := range keys {
			from, to = min(from, k.Frame), max(to, k.Frame)
		}
	}
	if to < from {
		return "", fmt.Errorf("no keys have been copied yet")
	}
	n := d.Doc.Nodes[a.Node]
	count := 0
	for _, ch := range slices.Sorted(maps.Keys(a.Rows)) {
		if n.Kind != "" && ch != scene.Travel && static(&n, ch) == nil && n.Lamp == nil || ch == scene.Travel && n.Path == "" {
			continue
		}
		pasted := slices.Clone(a.Rows[ch])
		if len(pasted) == 0 {
			continue
		}
		for i := range pasted {
			k := &pasted[i]
			if a.Reverse {
				k.Frame = from + to - k.Frame
				k.In, k.Out = k.Out, k.In
			}
			k.Frame += a.Frame - from
		}
		slices.SortStableFunc(pasted, func(a, b curve.Key) int { return cmp.Compare(a.Frame, b.Frame) })
		id, c := d.Doc.CurveOf(a.Node, ch)
		if id == "" {
			id = d.NewID()
		}
		keys := slices.DeleteFunc(slices.Clone(c.Keys), func(k curve.Key) bool {
			return k.Frame >= pasted[0].Frame && k.Frame <= pasted[len(pasted)-1].Frame
		})
		c.Keys = append(keys, pasted...)
		slices.SortStableFunc(c.Keys, func(a, b curve.Key) int { return cmp.Compare(a.Frame, b.Frame) })
		d.SetCurve(id, c)
		count += len(pasted)
	}
	if count == 0 {
		return "", fmt.Errorf("%s has none of the channels that were copied", ownerName(d, a.Node))
	}
	return fmt.Sprintf("paste %d keys on %s", count, ownerName(d, a.Node)), nil
}

type colorKeyArgs struct {
	Nodes []string `json:"nodes"` // lamps and pieces, or the settings for the sun
	Frame float64  `json:"frame"`
	Color string   `json:"color"` // #rrggbb
}

// colorKey sets keys of the colour of lights and pieces at a frame: red, green and blue in
// linear light.
func colorKey(d *Draft, a colorKeyArgs) (string, error) {
	if !scene.IsColor(a.Color) {
		return "", fmt.Errorf("%q is no colour; it is written #rrggbb", a.Color)
	}
	c := kit.Hex(a.Color)
	for _, id := range a.Nodes {
		n, ok := d.Doc.Nodes[id]
		if id != scene.SettingsID && (!ok || n.Lamp == nil && (n.Piece == nil || n.Screen != nil)) {
			return "", fmt.Errorf("only lamps, the sun and pieces of the set have keys of their colour; choose one of them")
		}
		for i, ch := range []scene.Channel{scene.Red, scene.Green, scene.Blue} {
			putKey(d, id, ch, a.Frame, float64(c[i]), "")
		}
	}
	switch len(a.Nodes) {
	case 0:
		return "", fmt.Errorf("choose a lamp or a piece of the set to key its colour")
	case 1:
		return "key the colour of " + ownerName(d, a.Nodes[0]), nil
	}
	return fmt.Sprintf("key the colour of %d things", len(a.Nodes)), nil
}
