package compose

import (
	"math"
	"testing"

	"proscen/core/geom"
	"proscen/core/motion"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"gonum.org/v1/gonum/spatial/r3"
	"pgregory.net/rapid"
)

// person is somebody of 1.8 m who stands at a place and looks along a heading in
// degrees, 0 for −Z, positive to the left.
func person(name string, x, z, pan float64) motion.Figure {
	turn := geom.RotateY(pan)
	return motion.Figure{
		Name: name, Stature: 1.8, Feet: r3.Vec{X: x, Z: z}, Eyes: r3.Vec{X: x, Y: 1.62, Z: z}, Top: r3.Vec{X: x, Y: 1.8, Z: z},
		Front: turn.Dir(r3.Vec{Z: -1}),
	}
}

// lens is a gate of 36 x 20.25 mm.
func lens(focal float64) Lens {
	return Lens{Focal: focal, HFov: 2 * geom.Degrees(math.Atan(18/focal)), VFov: 2 * geom.Degrees(math.Atan(10.125/focal))}
}

func view(p Pose, l Lens) motion.CameraState {
	return motion.CameraState{World: geom.PanTiltRoll(p.Pan, p.Tilt, p.Roll).At(p.At), HFov: l.HFov, VFov: l.VFov, Shift: l.Shift}
}

func size(t require.TestingT, name string) Size {
	s, err := SizeByName(name)
	require.NoError(t, err)
	return s
}

func TestAMediumShotByHand(t *testing.T) {
	// Straight in front at eye height with 50 mm: the picture covers
	// 0.47·1.8/0.91 = 0.92967 m; with 20.25 mm of gate that is
	// 0.92967·50/20.25 = 2.2955 m to its plane, but for a little tilt.
	p, err := Place(Wish{Subjects: []motion.Figure{person("Ann", 2, -3, 0)}, Size: size(t, "medium"), Angle: Eye, Lens: lens(50)})
	require.NoError(t, err)
	assert.InDelta(t, 2.2955, p.Distance, 0.03)
	assert.InDelta(t, 2, p.At.X, 1e-6, "in front of her, who looks along −Z")
	assert.InDelta(t, -3-p.Distance, p.At.Z, 1e-6)
	assert.InDelta(t, 1.62, p.At.Y, 1e-9)
	assert.InDelta(t, 180, math.Abs(p.Pan), 1e-6, "looking back at her")
	assert.Less(t, p.Tilt, 0.0, "the middle of the picture is below her eyes")
}

func TestEverySizeIsWhatItSays(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		s := rapid.SampledFrom(Sizes).Draw(t, "size")
		l := lens(rapid.Float64Range(18, 135).Draw(t, "focal"))
		l.Shift = [2]float64{rapid.Float64Range(-0.2, 0.2).Draw(t, "right"), rapid.Float64Range(-0.2, 0.2).Draw(t, "up")}
		f := person("Ann", rapid.Float64Range(-5, 5).Draw(t, "x"), 0, rapid.Float64Range(-180, 180).Draw(t, "pan"))
		w := Wish{
			Subjects: []motion.Figure{f}, Size: s, Lens: l, Around: rapid.Float64Range(-180, 180).Draw(t, "around"),
			Angle: rapid.SampledFrom([]Angle{Eye, Low, High}).Draw(t, "angle"), X: rapid.Float64Range(-0.6, 0.6).Draw(t, "side"),
		}
		p, err := Place(w)
		require.NoError(t, err)
		c := view(p, l)
		top, cut := f.Top, f.Top
		top.Y -= s.Top * f.Stature
		cut.Y -= s.Cut * f.Stature
		x, y, depth := c.Project(top)
		require.Positive(t, depth)
		require.InDelta(t, 1-2*s.Headroom, y, 1e-6, "headroom")
		require.InDelta(t, w.X, x, 1e-6, "side of the frame")
		_, y, _ = c.Project(cut)
		require.InDelta(t, -1, y, 1e-6, "the cut line meets the edge")
		require.GreaterOrEqual(t, p.At.Y, lowest-1e-9, "over the floor")
		require.InDelta(t, 0, p.Roll, 1e-12)
		// Where it stands around her: the angle between her look and the camera.
		way := r3.Sub(p.At, f.Eyes)
		way.Y = 0
		off := math.Acos(max(-1, min(1, r3.Dot(r3.Unit(way), f.Front)))) * 180 / math.Pi
		require.InDelta(t, math.Abs(w.Around), off, 1e-4)
	})
}

func TestAnglesLookUpAndDown(t *testing.T) {
	at := map[Angle]Pose{}
	for _, a := range []Angle{Eye, Low, High, Overhead} {
		p, err := Place(Wish{Subjects: []motion.Figure{person("Ann", 0, 0, 0)}, Size: size(t, "medium"), Angle: a, Lens: lens(35)})
		require.NoError(t, err)
		at[a] = p
	}
	assert.Less(t, at[Low].At.Y, 1.3)
	assert.Greater(t, at[High].At.Y, 2.0)
	assert.Greater(t, at[Low].Tilt, 5.0)
	assert.Less(t, at[High].Tilt, -20.0)
	over := at[Overhead]
	assert.Equal(t, -90.0, over.Tilt)
	assert.InDelta(t, 0, math.Hypot(over.At.X, over.At.Z), 1e-9, "straight above")
	// 0.92967 m high at the head: 0.92967·35/20.25 = 1.6068 m above it.
	assert.InDelta(t, 1.8+1.6068, over.At.Y, 1e-3)
	assert.InDelta(t, 0, over.Pan, 1e-9, "up in the picture is where she looks")
}

func TestOverAShoulder(t *testing.T) {
	ann, ben := person("Ann", 0, 0, 0), person("Ben", 0.3, -1.6, 180)
	w := Wish{Subjects: []motion.Figure{ann}, Over: &ben, Size: size(t, "medium close-up"), Angle: Over, X: 0.3, Lens: lens(75)}
	p, err := Place(w)
	require.NoError(t, err)
	c := view(p, w.Lens)
	x, _, depth := c.Project(ann.Eyes)
	assert.InDelta(t, 0.3, x, 0.02)
	bx, _, near := c.Project(ben.Eyes)
	assert.Less(t, near, depth-1, "Ben is nearer")
	assert.Less(t, bx, -0.2, "on the other side")
	assert.Greater(t, near, 0.3, "and the camera is behind him")
	w.X = -0.3
	q, err := Place(w)
	require.NoError(t, err)
	assert.Greater(t, math.Abs(p.At.X-q.At.X), 0.5, "past the other shoulder")
	w.Lens = lens(25)
	_, err = Place(w)
	var short *ErrLens
	require.ErrorAs(t, err, &short)
	assert.ErrorContains(t, err, "in front of Ben")
	w.Lens = lens(math.Ceil(short.Needs * 1.03))
	_, err = Place(w)
	assert.NoError(t, err, "the lens that is named does it")
	w.Over = nil
	_, err = Place(w)
	assert.ErrorContains(t, err, "over whose shoulder")
	close := person("Cal", 0.1, 0.1, 0)
	w.Over = &close
	_, err = Place(w)
	assert.ErrorContains(t, err, "too close")
	_, err = Place(Wish{})
	assert.ErrorContains(t, err, "whom the picture is of")
}

func TestTwoFitTheWidth(t *testing.T) {
	for _, apart := range []float64{0.8, 2, 5} {
		ann, ben := person("Ann", -apart/2, 0, -90), person("Ben", apart/2, 0, 90)
		l := lens(35)
		p, err := Place(Wish{Subjects: []motion.Figure{ann, ben}, Size: size(t, "medium"), Angle: Eye, Lens: l})
		require.NoError(t, err)
		c := view(p, l)
		for _, f := range []motion.Figure{ann, ben} {
			x, y, depth := c.Project(f.Eyes)
			assert.Positive(t, depth)
			assert.Less(t, math.Abs(x), 0.95, "%v apart", apart)
			assert.Less(t, math.Abs(y), 1.0)
		}
		assert.InDelta(t, 0, p.At.X, 1e-6, "from the side, between them")
	}
}

func TestSizesAreOrderedAndFoundAgain(t *testing.T) {
	for i, s := range Sizes {
		if i > 0 {
			assert.Greater(t, s.Statures(), Sizes[i-1].Statures())
			assert.GreaterOrEqual(t, Comfortable(s), Comfortable(Sizes[i-1]), "wider shots want more time")
		}
		assert.Equal(t, s.Name, SizeOf(s.Statures()).Name)
		assert.Equal(t, s.Name, SizeOf(s.Statures()*1.05).Name)
	}
	_, err := SizeByName("enormous")
	assert.ErrorContains(t, err, "extreme close-up, close-up")
	// A medium shot of somebody of 1.8 m covers 0.47/0.91 statures.
	assert.InDelta(t, 0.5165, Sizes[3].Statures(), 1e-4)
	assert.InDelta(t, 5.58, FastestPan(39.1, 24), 0.01, "a seventh of the picture in a second")
	assert.InDelta(t, 11.17, FastestPan(39.1, 48), 0.01)
}

func TestLookingRoomIsWhereTheFaceLooks(t *testing.T) {
	// From her right, she looks to the right of the picture: she sits to the left.
	assert.Less(t, LookingRoom(40, 0.3), 0.0)
	assert.InDelta(t, 0.15, LookingRoom(-30, 0.3), 1e-12)
	assert.Zero(t, LookingRoom(0, 0.3))
}
