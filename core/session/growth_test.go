package session

import (
	"encoding/json"
	"fmt"
	"maps"
	"math"
	"slices"
	"strings"
	"testing"

	"proscen/core/clip"
	"proscen/core/curve"
	"proscen/core/scene"
	"proscen/core/scenetest"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// large is the rich scene with so many things, shots, lines, markers and sounds, and
// a twentieth as many cameras and people. Each thing has keys, and so has each camera.
type large struct {
	*Session
	things, cameras, people, shots, lines, actions, markers, boards, sounds []string
}

func grown(n int) *large {
	d := scenetest.Rich()
	g := &large{}
	name := func(list *[]string, what string, i int) string {
		id := fmt.Sprintf("%s-%05d", what, i)
		*list = append(*list, id)
		return id
	}
	keys := func(node string, channel scene.Channel, values ...float64) {
		c := scene.Curve{Node: node, Channel: channel}
		for i, v := range values {
			c.Keys = append(c.Keys, curve.Key{Frame: float64(40 * i), Value: v, Ease: curve.Soft})
		}
		d.Curves[node+"-"+string(channel)] = c
	}
	d.Nodes["plane"] = scene.Node{Kind: scene.KindSet, Name: "plane", Position: scene.Vec{0, 0, -40}, Piece: &scene.Piece{Stock: "screen"}}
	side := int(math.Sqrt(float64(n))) + 1
	for i := range n {
		id := name(&g.things, "thing", i)
		at := scene.Vec{float64(i%side) * 3, 2, 20 + float64(i/side)*3}
		d.Nodes[id] = scene.Node{Kind: scene.KindProp, Name: id, Position: at, Piece: &scene.Piece{Stock: "crate"}}
		keys(id, scene.PositionX, at[0], at[0]+1, at[0])
		shot := name(&g.shots, "shot", i)
		d.PutShot(shot, scene.Shot{Lane: "main", Number: fmt.Sprintf("%d", 1000+i), Camera: "a", ScreenIn: 192 + 48*i, ScreenOut: 240 + 48*i, StoryIn: float64(i % 100), Speed: 1})
		d.Boards[name(&g.boards, "board", i)] = scene.Board{Shot: shot, Blob: d.Boards["board"].Blob, Width: 16, Height: 9}
		d.Markers[name(&g.markers, "marker", i)] = scene.Marker{Clock: scene.StoryClock, Frame: i, Name: "m", Color: "#ffffff"}
		d.Sounds[name(&g.sounds, "sound", i)] = scene.Sound{Track: "wind", Name: "gust", Blob: d.Sounds["gust"].Blob, Seconds: 1, In: 200 + 24*i, Out: 212 + 24*i}
	}
	for i := range max(2, n/20) {
		k := scene.Camera{Number: 10 + i, Color: "#6fa8dc", Support: scene.Sticks, Aim: scene.AimFree, Sensor: [2]float64{36, 24}, Focal: 35, Stop: 2.8, Focus: 3}
		id := name(&g.cameras, "camera", i)
		d.Nodes[id] = scene.Node{Kind: scene.KindCamera, Name: id, Position: scene.Vec{float64(i), 1.6, 10}, Camera: &k}
		for c, channel := range []scene.Channel{scene.PositionX, scene.PositionY, scene.PositionZ, scene.Pan, scene.Tilt} {
			keys(id, channel, float64(c), float64(c)+1)
		}
		id = name(&g.people, "person", i)
		way := fmt.Sprintf("way-%05d", i)
		d.Paths[way] = scene.Path{Name: way, Form: curve.Straight, Points: []scene.Vec{{float64(i), 0, 0}, {float64(i), 0, 9}}}
		d.Nodes[id] = scene.Node{Kind: scene.KindCast, Name: id, Position: scene.Vec{float64(i), 0, 0}, Cast: &scene.Cast{Height: 1.7, Coat: "#804040", Legs: "#404080"}}
		d.Actions[name(&g.actions, "act", i)] = scene.Action{Cast: id, Do: scene.Walk, In: 0, Out: 200, Path: way}
		d.Lines[name(&g.lines, "line", i)] = scene.Line{Cast: id, Text: "Here.", In: 10 * i, Out: 10*i + 8}
	}
	g.Session = Open(d, counter())
	return g
}

// acts are arguments of every operation on a large scene: on all that it takes at
// once, and on one where it takes one.
var acts = map[string]func(g *large) m{
	"actionAdd":         func(g *large) m { return m{"cast": g.people[0], "do": "wave", "in": 210, "out": 220} },
	"actionTime":        func(g *large) m { return m{"ids": g.actions, "by": 5} },
	"align":             func(g *large) m { return m{"ids": g.things, "frame": 0, "axis": 0, "to": "low"} },
	"alternateAdd":      func(g *large) m { return m{"name": "night", "parent": "dusk"} },
	"alternateChange":   func(g *large) m { return m{"id": "dusk", "name": "late", "format": "wide"} },
	"alternateRemove":   func(g *large) m { return m{"id": "dusk"} },
	"differencesBack":   func(g *large) m { return m{"ids": g.differences()} },
	"differencesCopy":   func(g *large) m { return m{"ids": g.differences(), "to": "other"} },
	"differencesDown":   func(g *large) m { return m{"ids": g.differences()} },
	"assemblyAdd":       func(g *large) m { return m{"name": "another"} },
	"assemblyBring":     func(g *large) m { return bring(g) },
	"assemblyDuplicate": func(g *large) m { return m{"id": "cut", "name": "again"} },
	"assemblyRemove":    func(g *large) m { return m{"id": "cut"} },
	"assemblySet":       func(g *large) m { return m{"id": "cut", "target": 5000} },
	"attach":            func(g *large) m { return m{"ids": g.things, "to": "engine", "frame": 0} },
	"boardAdd":          func(g *large) m { return m{"shot": g.shots[1], "name": "b", "blob": g.blob(), "width": 8, "height": 8} },
	"boardsDeal":        func(g *large) m { return deal(g) },
	"cameraAdd":         func(g *large) m { return m{"position": v(0, 1, 0), "turn": v(0, 0, 0), "focal": 35} },
	"cameraAim":         func(g *large) m { return m{"id": g.cameras[0], "aim": "at", "at": "box", "frame": 0} },
	"cameraBring": func(g *large) m {
		return m{"cameras": []m{{"name": "From outside", "stop": 4, "frames": []m{{"frame": 0, "position": v(0, 1, 0), "turn": v(0, 0, 0), "focal": 35, "focus": 3}, {"frame": 24, "position": v(2, 1, 0), "turn": v(9, 0, 0), "focal": 50, "focus": 3}}}}}
	},
	"cameraArchive": func(g *large) m { return m{"id": g.cameras[0], "archive": true} },
	"cameraCopy":    func(g *large) m { return m{"id": g.cameras[0], "keys": true, "frame": 0} },
	"cameraFrame":   func(g *large) m { return m{"id": "b", "framing": []float64{0.1, 0}, "frame": 10, "key": true} },
	"cameraNumber":  func(g *large) m { return m{"id": g.cameras[0], "number": 9_998} },
	"cameraOrbit": func(g *large) m {
		return m{"id": g.cameras[0], "about": v(0, 1, 0), "around": 10, "over": 5, "frame": 0, "key": true}
	},
	"cameraOrder":   func(g *large) m { return m{"ids": append(slices.Clone(g.cameras), "b", "a")} },
	"cameraSupport": func(g *large) m { return m{"id": g.cameras[0], "support": "handheld", "frame": 0} },
	"cameraTake": func(g *large) m {
		return m{"id": g.cameras[0], "frame": 5, "position": v(1, 1, 1), "turn": v(0, 0, 0), "focal": 40, "focus": 4, "key": true}
	},
	"cameraFolder": func(g *large) m { return m{"ids": g.cameras[:1], "folder": "Night"} },
	"cameraLike": func(g *large) m {
		return m{"id": g.cameras[0], "from": g.cameras[1], "frame": 5, "what": "picture", "as": "still"}
	},
	"cameraMatch": func(g *large) m {
		match := m{"blob": strings.Repeat("a", 64), "width": 1600, "height": 900, "free": true, "points": []m{
			{"at": v(0, 0, -8), "in": []float64{-0.5, -0.2}}, {"at": v(4, 0, -8), "in": []float64{0.6, -0.2}},
			{"at": v(4, 3, -9), "in": []float64{0.6, 0.5}}, {"at": v(0, 3, -9), "in": []float64{-0.5, 0.4}}, {"at": v(2, 0, -6), "in": []float64{0.1, -0.5}}}}
		return m{"id": g.cameras[0], "frame": 5, "match": match}
	},
	"screenShow": func(g *large) m {
		return m{"id": "plane", "screen": m{"name": "sky", "blob": strings.Repeat("a", 64), "width": 1600, "height": 900}}
	},
	"cameraOnPath":  func(g *large) m { return m{"path": "walk", "frame": 5} },
	"cameraTurn":    func(g *large) m { return m{"id": g.cameras[0], "turn": v(5, 0, 0), "frame": 5, "key": true} },
	"cardAdd":       func(g *large) m { return m{"name": "c", "color": "#000000", "ink": "#ffffff"} },
	"clearUnused":   func(g *large) m { return m{"things": []m{{"collection": "kits", "id": "spare"}}} },
	"colorKey":      func(g *large) m { return m{"nodes": []string{"lamp"}, "frame": 5, "color": "#ff0000"} },
	"cuesFromShots": func(g *large) m { return m{"assembly": "cut", "clock": "screen"} },
	"cutTo":         func(g *large) m { return m{"assembly": "cut", "at": 220, "camera": "b"} },
	"detach":        func(g *large) m { return m{"ids": g.things, "frame": 0} },
	"distribute":    func(g *large) m { return m{"ids": g.things, "frame": 0, "axis": 0} },
	"dropDown":      func(g *large) m { return m{"ids": g.things, "frame": 0} },
	"duplicate":     func(g *large) m { return m{"ids": g.things[:min(len(g.things), 500)], "by": v(0, 0, 100), "frame": 0} },
	"fileReplace": func(g *large) m {
		return m{"kind": "images", "blob": g.blob(), "with": m{"blob": other, "width": 8, "height": 8}}
	},
	"focusFollow":  func(g *large) m { return m{"id": g.cameras[0], "on": "box"} },
	"focusPick":    func(g *large) m { return m{"id": g.cameras[0], "frame": 5, "node": "box", "pull": true, "key": true} },
	"focusPull":    func(g *large) m { return m{"id": "b", "frame": 5, "on": "box", "focus": 0} },
	"footageAdd":   func(g *large) m { return m{"name": "f", "blob": g.blob(), "width": 8, "height": 8, "frames": 10} },
	"formatPut":    func(g *large) m { return m{"name": "f", "width": 640, "height": 480} },
	"reframe":      func(g *large) m { return m{"id": g.cameras[0], "format": "tall", "shift": [2]float64{0.1, 0}} },
	"formatRemove": func(g *large) m { return m{"id": "tall"} },
	"gapClose":     func(g *large) m { return m{"assembly": "cut", "at": 50, "all": true} },
	"group":        func(g *large) m { return m{"ids": g.things, "name": "all", "frame": 0} },
	"handOver":     func(g *large) m { return m{"from": "walker", "to": "other", "thing": "case", "in": 130, "out": 150} },
	"keyEase":      func(g *large) m { return m{"node": g.things[0], "rows": rows, "ease": "even"} },
	"keyHandle": func(g *large) m {
		return m{"node": g.things[0], "channel": "position.x", "frame": 40, "side": "out", "frames": 5, "value": 1}
	},
	"keyMove": func(g *large) m { return m{"node": g.things[0], "rows": rows, "by": 3} },
	"keyPaste": func(g *large) m {
		return m{"node": g.things[0], "rows": m{"position.x": []m{{"frame": 0, "value": 1, "ease": "even"}}}, "frame": 7, "reverse": false}
	},
	"keyRemove": func(g *large) m { return m{"node": g.things[0], "rows": rows} },
	"keyScale":  func(g *large) m { return m{"node": g.things[0], "rows": rows, "time": 2, "value": 1} },
	"keyValue": func(g *large) m {
		return m{"node": g.things[0], "channel": "position.x", "frames": []float64{0, 40}, "value": 3}
	},
	"keySet":      func(g *large) m { return m{"node": g.cameras[0], "frame": 7} },
	"kitPut":      func(g *large) m { return m{"name": "k", "primes": []float64{20, 40}} },
	"laneAdd":     func(g *large) m { return m{"assembly": "cut", "name": "l"} },
	"laneSet":     func(g *large) m { return m{"id": "aside", "name": "tries", "locked": true} },
	"laneMove":    func(g *large) m { return m{"id": "aside", "by": 1} },
	"laneRemove":  func(g *large) m { return m{"id": "aside"} },
	"lensChoose":  func(g *large) m { return m{"id": g.cameras[0], "focal": 50, "keep": "place", "frame": 0, "key": false} },
	"lensMove":    func(g *large) m { return m{"id": g.cameras[0], "in": 0, "out": 40, "focal": 70, "subject": "box"} },
	"libraryTake": func(g *large) m { return m{"kits": m{"k": m{"name": "k", "primes": []float64{20}, "shared": true}}} },
	"lineAdd":     func(g *large) m { return m{"cast": "walker", "text": "There.", "in": 60, "out": 80} },
	"shotsAsListed": func(g *large) m {
		list := make([]m, len(g.shots))
		for i, id := range g.shots {
			list[i] = m{"id": id, "frames": 30 + i%3, "notes": "listed"}
		}
		return m{"shots": list}
	},
	"linesBring": func(g *large) m { return m{"lines": []m{{"cast": "walker", "text": "There.", "in": 60, "out": 80}}} },
	"linesMove":  func(g *large) m { return m{"ids": g.lines, "by": 5, "with": true} },
	"markerAdd":  func(g *large) m { return m{"clock": "story", "frame": 50, "name": "n"} },
	"mirror":     func(g *large) m { return m{"ids": g.things, "frame": 0, "axis": 0} },
	"modelAdd": func(g *large) m {
		return m{"name": "m", "blob": other, "size": v(1, 1, 1), "triangles": 1, "with": m{
			"kind": "prop", "cameras": []m{{"name": "C", "stop": 2.8, "frames": []m{{"frame": 0, "position": v(0, 1, 2), "turn": v(0, 0, 0), "focal": 35, "focus": 4}}}},
		}}
	},
	"move":         func(g *large) m { return m{"ids": g.things, "frame": 0, "by": v(1, 0, 0)} },
	"moveAmount":   func(g *large) m { return m{"id": g.cameras[0], "amount": 0.5} },
	"moveEase":     func(g *large) m { return m{"id": g.cameras[0], "easeIn": "hold", "easeOut": "even"} },
	"moveSettle":   func(g *large) m { return m{"id": g.cameras[0], "in": 1, "out": 2} },
	"moveShape":    func(g *large) m { return m{"id": g.cameras[0], "by": 5} },
	"oneFrameEach": func(g *large) m { return m{"story": 10, "name": "stills"} },
	"paste":        func(g *large) m { return m{"clip": g.copied(), "assembly": "cut", "at": 1000 + 48*len(g.shots)} },
	"pathDraw":     func(g *large) m { return m{"form": "curve", "points": []scene.Vec{v(0, 0, 0), v(1, 0, 1), v(3, 0, 1)}} },
	"pathFromKeys": func(g *large) m { return m{"id": g.cameras[0]} },
	"pathPoint":    func(g *large) m { return m{"id": "walk", "index": 1, "to": v(0, 0, -9)} },
	"pathShape":    func(g *large) m { return m{"id": "walk", "reverse": true} },
	"pathShift":    func(g *large) m { return m{"id": "walk", "by": v(1, 0, 0)} },
	"place":        func(g *large) m { return m{"id": g.things[0], "frame": 0, "position": v(1, 1, 1)} },
	"planLay": func(g *large) m {
		return m{"picture": m{"name": "Plan", "blob": strings.Repeat("d", 64), "width": 1000, "height": 500}, "metres": 40}
	},
	"positionLeave": func(g *large) m {
		return m{"id": g.cameras[0], "frame": 80, "position": v(2, 1, 2), "turn": v(0, 0, 0), "focal": 35}
	},
	"positionOrder":  func(g *large) m { return m{"id": g.cameras[0], "from": 0, "to": 1} },
	"positionRemove": func(g *large) m { return m{"id": g.cameras[0], "index": 0} },
	"positionRetake": func(g *large) m {
		return m{"id": g.cameras[0], "index": 1, "position": v(2, 1, 2), "turn": v(0, 0, 0), "focal": 35}
	},
	"positionSpace": func(g *large) m { return m{"id": g.cameras[0], "in": 0, "out": 60} },
	"positionTime":  func(g *large) m { return m{"id": g.cameras[0], "index": 1, "frame": 50} },
	"rangeClear": func(g *large) m {
		return m{"assembly": "cut", "in": 100, "out": 200 + 48*len(g.shots)/2, "close": true}
	},
	"rateChange": func(g *large) m { return m{"rate": "25", "keep": "seconds", "drop": true} },
	"recipePut":  func(g *large) m { return m{"name": "r", "pack": "h264", "quality": "check"} },
	"remove":     func(g *large) m { return m{"collection": "nodes", "ids": g.things} },
	"roughCut":   func(g *large) m { return rough(g) },
	"scatter": func(g *large) m {
		return m{"stock": "rock", "name": "Rock", "count": 100, "seed": 1, "corner": []scene.Vec{v(0, 0, 0), v(50, 0, 50)}, "width": 0, "vary": 0.1, "apart": 1, "frame": 0}
	},
	"sceneRename": func(g *large) m { return m{"title": "Another"} },
	"set":         func(g *large) m { return m{"collection": "nodes", "id": g.things[0], "merge": m{"name": "X"}} },
	"setEach": func(g *large) m {
		merges := m{}
		for _, id := range g.things {
			merges[id] = m{"hidden": true}
		}
		return m{"collection": "nodes", "merges": merges}
	},
	"placeEach": func(g *large) m {
		places := m{}
		for i, id := range g.things {
			places[id] = m{"position": []any{nil, float64(i), nil}}
		}
		return m{"places": places, "frame": 5, "key": true}
	},
	"valueEach": func(g *large) m {
		values := m{}
		for i, id := range g.things {
			values[id] = i % 90
		}
		return m{"channel": "piece.swing", "values": values, "frame": 5, "key": true}
	},
	"setMany":       func(g *large) m { return m{"collection": "nodes", "ids": g.things, "merge": m{"hidden": true}} },
	"shotAppend":    func(g *large) m { return m{"assembly": "cut", "camera": "b", "frames": 24} },
	"shotDuplicate": func(g *large) m { return m{"ids": g.shots} },
	"shotFollowOn":  func(g *large) m { return m{"ids": g.shots[1:]} },
	"shotFreeze":    func(g *large) m { return m{"assembly": "cut", "at": 210, "frames": 12} },
	"shotFromMove":  func(g *large) m { return m{"assembly": "cut", "camera": g.cameras[0]} },
	"shotInsert":    func(g *large) m { return m{"assembly": "cut", "camera": "b", "at": 192, "frames": 24} },
	"shotJoin":      func(g *large) m { return m{"id": g.shots[1], "kind": "dissolve", "frames": 6, "give": true} },
	"shotMove":      func(g *large) m { return m{"ids": g.shots[len(g.shots)/2:], "by": 24} },
	"shotOverwrite": func(g *large) m { return m{"assembly": "cut", "camera": "b", "at": 200, "frames": 100} },
	"shotReach":     func(g *large) m { return m{"id": g.shots[0], "at": 250, "ripple": true} },
	"shotRemove":    func(g *large) m { return m{"ids": g.shots[:len(g.shots)/2], "close": true} },
	"shotRoll":      func(g *large) m { return m{"id": g.shots[1], "by": 4} },
	"shotSet":       func(g *large) m { return m{"ids": g.shots, "change": m{"camera": "b"}} },
	"shotSlide":     func(g *large) m { return m{"id": g.shots[1], "by": 4} },
	"shotSlip":      func(g *large) m { return m{"ids": g.shots, "by": 4} },
	"shotSpeed":     func(g *large) m { return m{"ids": g.shots, "speed": 2, "story": true} },
	"shotSplit":     func(g *large) m { return m{"assembly": "cut", "at": 210} },
	"shotSwap":      func(g *large) m { return m{"a": g.shots[0], "b": g.shots[1]} },
	"shotTrim":      func(g *large) m { return m{"id": g.shots[0], "edge": "out", "by": -4, "ripple": true} },
	"shotTry":       func(g *large) m { return m{"id": "s1"} },
	"shotsFromCues": func(g *large) m { return m{"assembly": "cut", "clock": "screen"} },
	"soundAdd": func(g *large) m {
		return m{"track": "bell", "name": "s", "blob": g.blob(), "seconds": 1, "in": 200, "out": 210, "gain": 0}
	},
	"soundMove":   func(g *large) m { return m{"id": "ring", "by": 4} },
	"soundTrim":   func(g *large) m { return m{"id": "gust", "edge": "out", "by": -4} },
	"stockPlace":  func(g *large) m { return m{"kind": "set", "stock": "rock", "name": "Rock", "position": v(0, 0, 5)} },
	"takeRecord":  func(g *large) m { return take(g) },
	"trackAdd":    func(g *large) m { return m{"name": "t", "clock": "story", "gain": 0} },
	"trackRemove": func(g *large) m { return m{"id": "wind"} },
	"trackTie":    func(g *large) m { return m{"id": "wind", "clock": "screen", "assembly": "cut"} },
	"travel":      func(g *large) m { return m{"node": g.things[0], "path": "walk", "in": 0, "out": 100} },
	"ungroup":     func(g *large) m { return m{"id": "group", "frame": 0} },
	"value": func(g *large) m {
		return m{"node": g.things[0], "channel": "position.y", "frame": 5, "value": 1, "key": true}
	},
}

const other = "cdcdcdcdcdcdcdcdcdcdcdcdcdcdcdcdcdcdcdcdcdcdcdcdcdcdcdcdcdcdcdcd"

func v(x, y, z float64) scene.Vec { return scene.Vec{x, y, z} }
func (g *large) blob() string     { return g.Doc.Boards["board"].Blob }

// rows are the keys of a thing.
var rows = map[string][]int{"position.x": {0, 40, 80}}

// copied is everything that stands there, with a half of the shots.
func (g *large) copied() any {
	c, err := g.Clip(clip.Selection{Nodes: g.things, Shots: g.shots[:len(g.shots)/2]}, 0)
	if err != nil {
		panic(err)
	}
	return json.RawMessage(c.Encode())
}

func bring(g *large) m {
	var shots []m
	for i, id := range g.shots {
		s := g.Doc.Shots[id]
		s.ScreenIn, s.ScreenOut = 48*i, 48*i+48
		shots = append(shots, m{"shot": s})
	}
	return m{"assembly": m{"name": "brought"}, "lanes": []m{{"name": "main", "shots": shots}}}
}

func deal(g *large) m {
	var panels []m
	for range g.shots {
		panels = append(panels, m{"name": "p", "blob": g.blob(), "width": 16, "height": 9})
	}
	return m{"assembly": "calm", "frames": 24, "panels": panels}
}

func rough(g *large) m {
	speakers := m{}
	for i, p := range g.people {
		speakers[p] = g.cameras[i]
	}
	return m{"from": 0, "to": 10*len(g.lines) + 100, "speakers": speakers, "wide": "a", "lead": 2, "lag": 2, "minimum": 3, "opening": 12, "closing": 12}
}

func take(g *large) m {
	var switches []m
	for i := range g.shots {
		switches = append(switches, m{"at": 24 * (i + 1), "camera": []string{"a", "b"}[i%2]})
	}
	return m{"assembly": "calm", "in": 0, "out": 24 * (len(g.shots) + 2), "storyIn": 0, "opening": "a", "switches": switches}
}

// differences are those of an alternate in which every thing stands elsewhere.
func (g *large) differences() (ids []string) {
	g.Doc.Alternates["other"] = scene.Alternate{Name: "other"}
	for _, thing := range g.things {
		d := scene.Difference{Alternate: "dusk", Collection: "nodes", Thing: thing, What: scene.Changed, Fields: scene.Fields{"name": "moved"}, Was: scene.Fields{"name": thing}}
		id := scene.DifferenceID(d.Alternate, d.Collection, d.Thing)
		g.Doc.Differences[id] = d
		ids = append(ids, id)
	}
	return ids
}

// prepare makes a large scene ready for an operation that wants something more of it,
// and reports whether it has changed it.
func (g *large) prepare(name string) bool {
	run := func(name string, args m) {
		body, err := json.Marshal(args)
		if err == nil {
			_, err = g.Run(name, body)
		}
		if err != nil {
			panic(err)
		}
	}
	switch {
	case name == "laneMove":
		run("laneAdd", m{"assembly": "cut"})
	case name == "ungroup":
		run("setMany", m{"collection": "nodes", "ids": g.things, "merge": m{"parent": "group"}})
	case name == "detach":
		run("attach", m{"ids": g.things, "to": "engine", "frame": 0})
	case name == "clearUnused":
		run("kitPut", m{"name": "spare", "primes": []float64{50}, "id": "spare"})
	case name == "gapClose":
		run("shotRemove", m{"ids": []string{"s2"}})
	case strings.HasPrefix(name, "position") && name != "positionLeave", name == "moveEase":
		for i := range 2 {
			run("positionLeave", m{"id": g.cameras[0], "frame": 60 * i, "position": v(float64(i), 1, 2), "turn": v(0, 0, 0), "focal": 35})
		}
	default:
		return false
	}
	return true
}

func TestEveryOperationWorksOnALargeScene(t *testing.T) {
	require.Empty(t, grown(40).Doc.Validate())
	for name := range Operations() {
		act := acts[name]
		if !assert.NotNil(t, act, "%s is tried on a large scene", name) {
			continue
		}
		g := grown(40)
		g.prepare(name)
		args, err := json.Marshal(act(g))
		require.NoError(t, err)
		r, err := g.Run(name, args)
		if assert.NoError(t, err, name) {
			assert.NotEmpty(t, r.Patch, name)
		}
	}
	assert.Len(t, acts, len(Operations()))
}

// BenchmarkGrowth measures each operation as it is previewed and evaluated in a drag,
// with 500 to 4,000 things and shots, and how that grows.
func BenchmarkGrowth(b *testing.B) {
	large := map[int]*large{}
	for _, n := range scenetest.Sizes {
		large[n] = grown(n)
	}
	for _, name := range slices.Sorted(maps.Keys(acts)) {
		b.Run(name, func(b *testing.B) {
			scenetest.Growth(b, func(n int) func() {
				g := large[n]
				g.Cancel()
				if other := grown(n); other.prepare(name) {
					g = other
				}
				args, err := json.Marshal(acts[name](g))
				require.NoError(b, err)
				return func() {
					if err := g.Preview(name, args); err != nil {
						b.Fatal(err)
					}
					g.Evaluate(10)
				}
			})
		})
	}
}

// BenchmarkAlternate measures opening an alternate of a scene of 5,000 things in which a
// hundred differ, and following an edit of the scene in it.
func BenchmarkAlternate(b *testing.B) {
	g := grown(5000)
	g.differences()
	for id, d := range g.Doc.Differences {
		if d.Thing > g.things[100] {
			delete(g.Doc.Differences, id)
		}
	}
	b.Run("open", func(b *testing.B) {
		for b.Loop() {
			if _, err := NewSides(g.Session).At("dusk"); err != nil {
				b.Fatal(err)
			}
		}
	})
	b.Run("follow", func(b *testing.B) {
		s := NewSides(g.Session)
		if _, err := s.At("dusk"); err != nil {
			b.Fatal(err)
		}
		for i := 0; b.Loop(); i++ {
			args := fmt.Sprintf(`{"id":%q,"frame":0,"position":[%d,0,0]}`, g.things[200], i%50)
			if _, err := s.Run("", "place", json.RawMessage(args), nil); err != nil {
				b.Fatal(err)
			}
		}
	})
}
