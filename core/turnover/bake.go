package turnover

import (
	"errors"
	"fmt"
	"math"
	"slices"

	"proscen/core/geom"
	"proscen/core/interchange"
	"proscen/core/motion"
	"proscen/core/program"
	"proscen/core/scene"
	"proscen/core/session"
)

// mostPlaces bounds how many matrices a stage holds.
const mostPlaces = 1_500_000

// Bake works an assembly out frame by frame of screen time: where everything is, one
// camera that performs all shots, and the camera of each shot by itself. What stands
// follows the cut: at a frame of screen time it is as at the frame of the story that is
// on air. Where nothing is, the last picture stays.
func Bake(s *session.Session, assembly string) (*interchange.Stage, error) {
	if _, ok := s.Doc.Assemblies[assembly]; !ok {
		return nil, errors.New("there is no such assembly in the scene")
	}
	cut := s.ProgramOf(assembly)
	if cut.Length() == 0 {
		return nil, errors.New("the assembly has no shots")
	}
	out := &interchange.Stage{Title: s.Doc.Settings.Title + " - " + s.Doc.Assemblies[assembly].Name, Rate: s.Doc.Settings.Rate, Count: cut.Length()}
	if cut.Length()*len(s.Motion.Instances) > mostPlaces {
		return nil, fmt.Errorf("the set and %d frames are too much for one file; take a shorter assembly", cut.Length())
	}
	aspect := s.Motion.Aspect()
	defer s.Motion.SetAspect(aspect)
	f := s.Doc.Formats[s.Doc.Settings.Format]
	s.Motion.SetAspect(float64(f.Width) / float64(f.Height))
	worlds := make([][]geom.Mat4, len(s.Motion.Instances))
	all := interchange.StageCamera{Name: "cut"}
	shots := map[string]int{}
	var air program.Air
	for at := range cut.Length() {
		cut.At(float64(at), &air)
		var lens *interchange.StageLens
		in := s
		if len(air.Playing) > 0 && air.Playing[0].Still == nil {
			on := &air.Playing[0]
			if in = s.In(on.Shot); in != s {
				s.Evaluate(on.Story)
			}
			if view := in.View(on); view != nil {
				lens = lensOf(view, on.Story)
				all.Frames = append(all.Frames, *lens)
				own := lens
				if on.Between != nil { // a shot's own camera does not travel
					if i := in.CameraIndex(on.Camera); i >= 0 {
						own = lensOf(&in.Evaluate(on.Story).Cameras[i], on.Story)
					}
				}
				k, known := shots[on.Shot]
				if !known {
					k = len(out.Cameras)
					shots[on.Shot] = k
					e := s.Doc.Shots[on.Shot]
					name := fmt.Sprintf("shot %s %s", e.Number, s.Doc.Nodes[on.Camera].Name)
					out.Cameras = append(out.Cameras, interchange.StageCamera{Name: name, Shot: e.Number, First: at})
				}
				out.Cameras[k].Frames = append(out.Cameras[k].Frames, *own)
			}
		}
		if lens == nil {
			if n := len(all.Frames); n > 0 {
				all.Frames = append(all.Frames, all.Frames[n-1])
			} else {
				all.First = at + 1
			}
			if at == 0 {
				s.Evaluate(float64(s.Doc.Settings.Story.In))
			}
		}
		for i := range worlds {
			w := stands(s, in, i)
			if n := len(worlds[i]); n == 1 && at > 1 && worlds[i][0] != w { // it has stood still until now
				for range at - 1 {
					worlds[i] = append(worlds[i], worlds[i][0])
				}
				worlds[i] = append(worlds[i], w)
			} else if n == 0 || n > 1 || worlds[i][0] != w {
				worlds[i] = append(worlds[i], w)
			}
		}
	}
	if len(all.Frames) == 0 {
		return nil, errors.New("no camera is on air in the assembly")
	}
	out.Cameras = append([]interchange.StageCamera{all}, out.Cameras...)
	for i, w := range worlds {
		in := &s.Motion.Instances[i]
		m := s.Motion.Meshes[in.Mesh]
		out.Things = append(out.Things, interchange.StageThing{Name: s.Motion.Nodes[in.Node].Entity.Name, Key: m.Key, Mesh: m.Mesh, Worlds: w})
	}
	return out, nil
}

// stands is where an instance of a scene is in a shot that may have it elsewhere. What the
// shot has not stays where it was, since a stage has one set of things.
func stands(s, in *session.Session, i int) geom.Mat4 {
	if in == s {
		return s.State.Instances[i]
	}
	part := i
	for part > 0 && s.Motion.Instances[part-1].Node == s.Motion.Instances[i].Node {
		part--
	}
	node := in.Motion.Index(s.Motion.Nodes[s.Motion.Instances[i].Node].ID)
	at, found := slices.BinarySearchFunc(in.Motion.Instances, node, func(x motion.Instance, node int) int { return x.Node - node })
	at += i - part
	if !found || at >= len(in.Motion.Instances) || in.Motion.Instances[at].Node != node {
		return s.State.Instances[i]
	}
	return in.State.Instances[at]
}

// lensOf tells of a camera what other programs need. Its aperture is what makes its
// angles of view with its focal length and no squeeze.
func lensOf(c *motion.CameraState, story float64) *interchange.StageLens {
	aperture := func(degrees float64) float64 { return 2 * c.Focal * math.Tan(degrees/2*math.Pi/180) }
	return &interchange.StageLens{
		World: c.World, Story: story, Pan: c.Pan, Tilt: c.Tilt, Roll: c.Roll, Focal: c.Focal, Width: aperture(c.HFov), Height: aperture(c.VFov),
		Shift: [2]float64{c.Shift[0] * c.Focal, c.Shift[1] * c.Focal}, Focus: c.Focus, Stop: c.Stop,
	}
}

// WriteStage bakes an assembly and writes it in one of interchange.StageFormats.
func WriteStage(s *session.Session, assembly, format string) (interchange.Written, error) {
	stage, err := Bake(s, assembly)
	if err != nil {
		return interchange.Written{}, err
	}
	return interchange.WriteStage(stage, format, func(f int) string { return s.Doc.Settings.Timecode(scene.ScreenClock, f) })
}
