package motion

import (
	"math"
	"slices"

	"proscen/core/daylight"
	"proscen/core/geom"
	"proscen/core/kit"
	"proscen/core/scene"

	"gonum.org/v1/gonum/spatial/r3"
)

// Look is the light of the whole scene with linear colours, strengths already
// multiplied in; docs/shading.md says what is done with it.
type Look struct {
	Sun      [3]float64
	SunDir   r3.Vec // toward the sun
	Zenith   [3]float64
	Horizon  [3]float64
	Ground   [3]float64
	Haze     float64    // metres, 0 for clear air
	HazeRise float64    // metres over which it thins to 37 %, 0 for even haze
	HazeBase float64    // height in metres where it has its full density
	Gain     [3]float64 // what all light is multiplied by in the end
	Shadow   geom.Mat4  // world to shadow map: x, y in −1..1, z in 0..1 away from the sun
	ShadowPx int
}

const (
	shadowSide   = 2048 // pixels
	shadowMargin = 18.0 // metres around where the action is
	maxShadowBox = 45.0 // half the side of the map in metres, at most
	casterLimit  = 60.0 // metres; larger pieces do not say where the action is
)

// LookIn returns the light at a frame as a shot has it, nil for that of the scene. The
// shadow map covers the place where most of the action is.
func (s *Scene) LookIn(frame float64, shot *scene.Shot) Look {
	animated := func(channel int, still float64) float64 {
		if c := &s.light[channel]; c.Len() > 0 {
			return c.At(frame)
		}
		return still
	}
	sun, sky, haze := &s.settings.Sun, &s.settings.Sky, &s.settings.Haze
	heading, height := sun.Heading, sun.Height
	sunPower, skyPower := max(0, animated(sunPower, sun.Strength)), max(0, animated(skyPower, sky.Strength))
	scaled := func(c [3]float64, k float64) [3]float64 { return [3]float64{c[0] * k, c[1] * k, c[2] * k} }
	natural := daylight.Light{Sun: linear(sun.Color), Zenith: linear(sky.Zenith), Horizon: linear(sky.Horizon), Ground: linear(sky.Ground)}
	if c := sun.Clock; c != nil {
		hour := animated(sunHour, c.Hour)
		if shot != nil && shot.Hour > 0 {
			hour = shot.Hour
		}
		heading, height = daylight.Sun(c.Latitude, c.Day, hour)
		if c.Light {
			natural = daylight.At(height)
		}
	}
	for i := range natural.Sun {
		natural.Sun[i] = max(0, animated(red+i, natural.Sun[i]))
	}
	gain := scaled(filter(s.settings.Tint), math.Exp2(s.settings.Exposure))
	reach := max(0, animated(hazeReach, haze.Distance))
	if shot != nil {
		own := filter(shot.Tint)
		for i := range gain {
			gain[i] *= own[i] * math.Exp2(shot.Exposure)
		}
		if shot.Haze > 0 {
			reach = shot.Haze
		}
	}
	toward := geom.PanTiltRoll(-heading, height, 0)
	l := Look{
		Sun: scaled(natural.Sun, sunPower), SunDir: toward.Dir(r3.Vec{Z: -1}),
		Zenith: scaled(natural.Zenith, skyPower), Horizon: scaled(natural.Horizon, skyPower), Ground: scaled(natural.Ground, skyPower),
		Gain: gain, Haze: reach, HazeRise: haze.Rise, HazeBase: haze.Base,
	}
	if l.Sun == [3]float64{} || height <= 0 {
		l.Sun = [3]float64{}
		return l
	}
	center, half := s.stage.center, s.stage.half
	deep := half*3 + 40
	toward = toward.At(r3.Add(center, r3.Scale(deep/2, l.SunDir)))
	// The map looks from the sun along −SunDir: turn the frame around.
	turn := geom.RotateY(180)
	eye := toward.Mul(&turn)
	view := eye.Inverse()
	scale := geom.Mat4{1 / half, 0, 0, 0, 0, 1 / half, 0, 0, 0, 0, -1 / deep, 0, 0, 0, 0, 1}
	l.Shadow = scale.Mul(&view)
	l.ShadowPx = shadowSide
	for _, v := range l.Shadow {
		if math.IsNaN(v) {
			l.ShadowPx = 0
		}
	}
	return l
}

// stage is the middle of the action and how far around it shadows are drawn, in
// metres.
type stage struct {
	center r3.Vec
	half   float64
}

// linear reads #rrggbb as linear light.
func linear(hex string) [3]float64 {
	c := kit.Hex(hex)
	return [3]float64{float64(c[0]), float64(c[1]), float64(c[2])}
}

// leak is what gets through the darkest filter: two of them do not make a picture black.
const leak = 1e-3

// filter is what a coloured filter leaves of the light; one that is as bright as white
// would be takes nothing away.
func filter(tint string) [3]float64 {
	c := linear(tint)
	brightest := max(c[0], c[1], c[2])
	if tint == "" || brightest == 0 {
		return [3]float64{1, 1, 1}
	}
	return [3]float64{max(leak, c[0]/brightest), max(leak, c[1]/brightest), max(leak, c[2]/brightest)}
}

// Stage returns the middle of the action and how far around it shadows are drawn, in
// metres.
func (s *Scene) Stage() (center r3.Vec, half float64) { return s.stage.center, s.stage.half }

// findStage finds where shadows are drawn. The middle is the median of where
// cast and props are over the story, so that one who comes from far away does
// not draw it along; without them, the middle of the set's smaller pieces.
func (s *Scene) findStage() {
	const usual, fewest, most = 17, 3, 6000 // looks, and places that are looked at
	st := &s.scratch
	s.ready(st)
	var who []int
	for n := range s.Nodes {
		if k := s.Nodes[n].Entity.Kind; k == scene.KindCast || k == scene.KindProp {
			who = append(who, n)
		}
	}
	looks := max(fewest, min(usual, most/max(1, len(who)))) // a crowd tells as much in fewer looks
	var at [3][]float64
	for k := range at {
		at[k] = make([]float64, 0, looks*len(who))
	}
	story := s.settings.Story
	for i := range looks {
		frame := float64(story.In) + float64(story.Out-1-story.In)*float64(i)/float64(looks-1)
		for _, n := range who {
			o := s.Nodes[n].world.Origin()
			if !s.Nodes[n].fixed {
				m := s.plainly(n, frame)
				m = s.bodily(n, frame, m)
				o = m.Origin()
			}
			at[0], at[1], at[2] = append(at[0], o.X), append(at[1], o.Y), append(at[2], o.Z)
		}
	}
	if len(at[0]) == 0 {
		s.Evaluate(float64(story.In), st)
		box := s.Bounds(st, casterLimit)
		if box.Empty() {
			s.stage = stage{half: shadowMargin}
			return
		}
		d := r3.Sub(box.Max, box.Min)
		s.stage = stage{box.Center(), min(maxShadowBox, max(d.X, d.Y, d.Z)/2+2)}
		return
	}
	median := func(v []float64) float64 {
		v = slices.Sorted(slices.Values(v))
		return v[len(v)/2]
	}
	center := r3.Vec{X: median(at[0]), Y: median(at[1]), Z: median(at[2])}
	far := make([]float64, len(at[0]))
	for i := range far {
		far[i] = r3.Norm(r3.Sub(center, r3.Vec{X: at[0][i], Y: at[1][i], Z: at[2][i]}))
	}
	slices.Sort(far)
	s.stage = stage{center, min(maxShadowBox, far[len(far)*3/4]+shadowMargin)}
}
