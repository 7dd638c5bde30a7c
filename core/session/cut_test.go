package session

import (
	"math"
	"testing"

	"proscen/core/program"
	"proscen/core/raster"
	"proscen/core/scene"
	"proscen/core/scenetest"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// TestEntrancesAreWhereTheRibbonChanges holds the search against a look at every
// frame.
func TestEntrancesAreWhereTheRibbonChanges(t *testing.T) {
	s := open()
	do(t, s, "set", m{"collection": "nodes", "id": "a", "merge": m{"position": []float64{2, 1.5, -5}, "turn": []float64{90, 0, 0}}})
	do(t, s, "shotAppend", m{"assembly": "cut", "camera": "a", "frames": 240, "storyIn": 0, "id": "whole"})
	do(t, s, "shotSpeed", m{"ids": []string{"whole"}, "speed": 2, "story": true})
	shot := s.Doc.Shots["whole"]
	every := s.Ribbon("a", []string{"walker"}, shot.StoryIn, shot.Speed, shot.Screen().Count())
	var want []int
	for i := 1; i < len(every); i++ {
		if (every[i]&7 == 0) != (every[i-1]&7 == 0) {
			want = append(want, shot.ScreenIn+i)
		}
	}
	require.Len(t, want, 2, "the walker comes in and goes out again")
	assert.Equal(t, want, s.Entrances(shot, []string{"walker"}, -1e6, 1e6))
	var pieces []int
	for at := shot.ScreenIn; at < shot.ScreenOut; at += 6 {
		pieces = append(pieces, s.Entrances(shot, []string{"walker"}, at, at+6)...)
	}
	assert.Equal(t, want, pieces, "found piece by piece")
	shot.Camera = "gone"
	assert.Empty(t, s.Entrances(shot, []string{"walker"}, -1e6, 1e6))
	// The keys of b at story 0 and 96 are met by s2, which begins at story 40.
	assert.Equal(t, []int{8, 104}, s.KeysOf(s.Doc.Shots["s2"]))
	p, ok := s.ShotAt("s2", 100)
	require.True(t, ok)
	assert.Equal(t, 92.0, p.Story, "beyond its end")
}

// TestATravelGoesFromPoseToPose looks at the camera on its way.
func TestATravelGoesFromPoseToPose(t *testing.T) {
	s := open()
	do(t, s, "shotSet", m{"ids": []string{"s1", "s2"}, "change": m{"head": 24, "tail": 24}})
	do(t, s, "set", m{"collection": "nodes", "id": "b", "merge": m{"camera": m{"focal": 72}}})
	do(t, s, "shotJoin", m{"id": "s2", "kind": "travel", "frames": 24, "ease": "even"})
	view := func(screen float64) (x, hfov, pan float64) {
		on := s.OnAir(screen).Playing[0]
		v := s.View(&on)
		return v.World[3], v.HFov, v.Pan
	}
	pose := func(camera string, story float64) (x, hfov, pan float64) {
		s.Evaluate(story)
		c := s.State.Cameras[s.CameraIndex(camera)]
		return c.World[3], c.HFov, c.Pan
	}
	// The middle of frame 48−½: half way between where both cameras are then.
	ax, afov, apan := pose("a", 47.5)
	bx, bfov, bpan := pose("b", 39.5)
	x, fov, pan := view(47.5)
	assert.InDelta(t, (ax+bx)/2, x, 1e-9)
	tan := func(d float64) float64 { return math.Tan(d * math.Pi / 360) }
	assert.InDelta(t, math.Sqrt(tan(afov)*tan(bfov)), tan(fov), 1e-9, "the lens changes by equal ratios")
	assert.Greater(t, pan, math.Min(apan, bpan))
	assert.Less(t, pan, math.Max(apan, bpan))
	// A frame before and after it are the shots' own.
	x, _, _ = view(35)
	ax, _, _ = pose("a", 35)
	assert.InDelta(t, ax, x, 1e-12)
	x, _, _ = view(60)
	bx, _, _ = pose("b", 52)
	assert.InDelta(t, bx, x, 1e-12)
}

func TestOtherAssembliesCanBeWatched(t *testing.T) {
	s := open()
	do(t, s, "assemblyDuplicate", m{"id": "cut", "name": "second", "new": "second"})
	do(t, s, "cutTo", m{"assembly": "second", "at": 10, "camera": "b"})
	var a program.Air
	s.ProgramOf("second").At(10, &a)
	assert.Equal(t, "b", a.Playing[0].Camera)
	assert.Equal(t, "a", s.OnAir(10).Playing[0].Camera)
	require.NoError(t, s.ChooseAssembly("second"))
	assert.Equal(t, "b", s.OnAir(10).Playing[0].Camera)
	// A cue that moves changes what an assembly that follows cues shows.
	do(t, s, "markerAdd", m{"clock": "story", "frame": 30, "camera": "b", "id": "cue-1"})
	do(t, s, "assemblySet", m{"id": "second", "cues": "story"})
	assert.Equal(t, 30.0, s.OnAir(0).Playing[0].Story)
	do(t, s, "set", m{"collection": "markers", "id": "cue-1", "merge": m{"frame": 40}})
	assert.Equal(t, 40.0, s.OnAir(0).Playing[0].Story)
	assert.Equal(t, scene.StoryClock, s.Doc.Assemblies["second"].Cues)
}

func TestLampsShineOnlyInTheirShots(t *testing.T) {
	doc := scenetest.Small()
	lamp := func(id string, k *scene.Shooting) {
		doc.Nodes[id] = scene.Node{Kind: scene.KindLamp, Name: id, Shooting: k, Lamp: &scene.Lamp{Color: "#ffffff", Strength: 1, Reach: 5}}
	}
	lamp("l1", nil)
	lamp("l2", &scene.Shooting{Only: []string{"s2"}})
	lamp("l3", &scene.Shooting{Hidden: true})
	s := Open(doc, nil)
	s.Evaluate(0)
	for shot, want := range map[string]int{"": 1, "s1": 1, "s2": 2} {
		var in raster.Input
		s.Draws(&s.State.Cameras[0], shot, &in)
		assert.Len(t, in.Lamps, want, "in shot %q", shot)
	}
}

// TestTheCutsRibbonIsThatOfWhatIsOnAir, frame for frame, with a shot whose story jumps and
// a gap.
func TestTheCutsRibbonIsThatOfWhatIsOnAir(t *testing.T) {
	s := open()
	do(t, s, "shotSet", m{"ids": []string{"s2"}, "change": m{"storyIn": 100}})
	do(t, s, "shotRemove", m{"ids": []string{"s3"}})
	subjects := []string{"walker", "box"}
	length := s.Program().Length()
	all := s.AirRibbon(subjects, 0, 1, length)
	require.Len(t, all, length*len(subjects))
	seen := map[byte]bool{}
	for f := range length {
		want := []byte{0, 0}
		if air := s.OnAir(float64(f)); len(air.Playing) > 0 {
			p := air.Playing[0]
			want = s.Ribbon(p.Camera, subjects, p.Story, 1, 1)
		}
		require.Equal(t, want, all[2*f:2*f+2], "frame %d", f)
		seen[all[2*f]] = true
	}
	assert.Greater(t, len(seen), 1, "there is something to tell")
	assert.Equal(t, all[20:24], s.AirRibbon(subjects, 10, 1, 2))
	assert.Equal(t, []byte{0, 0}, s.AirRibbon(subjects, float64(length+5), 1, 1), "after the end")
}
