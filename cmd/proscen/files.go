package main

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"math"
	"os"
	"path/filepath"
	"strconv"
	"strings"

	"github.com/spf13/cobra"

	"proscen/core/alternate"
	"proscen/core/kit"
	"proscen/core/motion"
	"proscen/core/scene"
	"proscen/core/session"
	"proscen/internal/demo"
)

// readScene reads a scene document from a file.
func readScene(file string) (*scene.Document, error) {
	f, err := os.Open(file)
	if err != nil {
		if errors.Is(err, fs.ErrNotExist) {
			return nil, badInput("%s: there is no such file", file)
		}
		return nil, badInput("%s: %w", file, errors.Unwrap(err))
	}
	defer func() { _ = f.Close() }()
	body, err := io.ReadAll(io.LimitReader(f, scene.MaxBytes+1))
	if err != nil {
		return nil, badInput("%s: cannot be read: %w", file, err)
	}
	doc, err := scene.Read(body, kit.Known)
	if err != nil {
		return nil, badInput("%s: %w", file, err)
	}
	return doc, nil
}

// readAlternate reads a scene document as an alternate has it, by name or id; what has no
// effect in that is told.
func readAlternate(cmd *cobra.Command, file, name string) (*scene.Document, error) {
	doc, err := readScene(file)
	if err != nil {
		return nil, err
	}
	id, err := alternate.Find(doc, name)
	if err != nil {
		return nil, badInput("--alternate: %w", err)
	}
	out, rests, err := alternate.Resolve(doc, id)
	if err != nil {
		return nil, badInput("--alternate: %w", err)
	}
	var notes []string
	for _, r := range rests {
		notes = append(notes, fmt.Sprintf("%s has no effect: %s", doc.Called("differences", r.Difference), r.Why))
	}
	say(cmd.ErrOrStderr(), notes)
	return out, nil
}

// alternateFlag adds the choice of an alternate.
func alternateFlag(c *cobra.Command, name *string) {
	c.Flags().StringVar(name, "alternate", "", "alternate by name or id (default: the scene itself)")
}

// writeWhole writes a file by way of a temporary one beside it, so that it is
// there whole or not at all.
func writeWhole(file string, body []byte) error {
	return writeFrom(file, func(w io.Writer) error {
		_, err := w.Write(body)
		return err
	})
}

// writeFrom is writeWhole for what is too large to be held.
func writeFrom(file string, write func(w io.Writer) error) error {
	tmp, err := os.CreateTemp(filepath.Dir(file), ".proscen-*")
	if err != nil {
		return fmt.Errorf("%s cannot be written: %w", file, cause(err))
	}
	err = write(tmp)
	err = errors.Join(err, tmp.Close(), os.Chmod(tmp.Name(), 0o644))
	if err == nil {
		err = os.Rename(tmp.Name(), file)
	}
	if err != nil {
		_ = os.Remove(tmp.Name())
		return fmt.Errorf("%s cannot be written: %w", file, cause(err))
	}
	return nil
}

func demoCommand() *cobra.Command {
	c := &cobra.Command{Use: "demo", Short: "The demonstration scene “Last Car Down”"}
	c.AddCommand(&cobra.Command{
		Use: "export FILE", Short: "Write the demonstration scene document",
		Args: exactly(1, "name the file to write: proscen demo export FILE"),
		RunE: func(_ *cobra.Command, args []string) error {
			var b bytes.Buffer
			if err := json.Indent(&b, demo.Scene().Encode(), "", "  "); err != nil {
				return err
			}
			b.WriteByte('\n')
			return writeWhole(args[0], b.Bytes())
		},
	})
	return c
}

// The forms that inspect prints.
type (
	inspected struct {
		Scene    string         `json:"scene"`
		Assembly string         `json:"assembly,omitempty"`
		Rate     string         `json:"rate"`
		Screen   *float64       `json:"screenFrame,omitempty"`
		Shots    []inspectShot  `json:"shots"`
		Cameras  []inspectedCam `json:"cameras"`
	}
	inspectShot struct {
		Shot       string  `json:"shot,omitempty"` // none of these two where the program follows the cues
		Name       string  `json:"name,omitempty"`
		Camera     string  `json:"camera"`
		Weight     float64 `json:"weight"`
		StoryFrame float64 `json:"storyFrame"`
	}
	inspectedCam struct {
		Camera      string        `json:"camera"`
		Number      int           `json:"number"`
		StoryFrame  float64       `json:"storyFrame"`
		Position    [3]float64    `json:"position"`
		Pan         float64       `json:"pan"`
		Tilt        float64       `json:"tilt"`
		Roll        float64       `json:"roll"`
		Matrix      [4][4]float64 `json:"matrix"`
		FocalLength float64       `json:"focalLength"`
		Sensor      size          `json:"sensor"`
		Gate        size          `json:"gate"`
		HFov        float64       `json:"horizontalFov"`
		VFov        float64       `json:"verticalFov"`
		Squeeze     float64       `json:"squeeze"`
		Stop        float64       `json:"stop"`
		Focus       float64       `json:"focusDistance"`
	}
	size struct {
		Width  float64 `json:"width"`
		Height float64 `json:"height"`
	}
)

func inspectCommand() *cobra.Command {
	var assemblyName, camera, screenText, storyText, other string
	var asJSON bool
	c := &cobra.Command{
		Use:   "inspect FILE",
		Short: "Print what is on air at a screen frame, or what one camera sees at a story frame",
		Args:  exactly(1, "name the scene document: proscen inspect FILE --screen-frame N"),
		RunE: func(cmd *cobra.Command, args []string) error {
			doc, err := readAlternate(cmd, args[0], other)
			if err != nil {
				return err
			}
			s := session.Open(doc, nil)
			if err := s.ChooseAssembly(assemblyName); err != nil {
				return inputError{err}
			}
			out, err := inspect(s, camera, screenText, storyText)
			if err != nil {
				return err
			}
			if asJSON {
				enc := json.NewEncoder(cmd.OutOrStdout())
				enc.SetIndent("", "  ")
				return enc.Encode(out)
			}
			return printInspected(cmd.OutOrStdout(), out)
		},
	}
	f := c.Flags()
	f.StringVar(&assemblyName, "assembly", "", "assembly by name or id (default: the first)")
	f.StringVar(&screenText, "screen-frame", "", "frame of screen time, may have decimals")
	f.StringVar(&camera, "camera", "", "camera by name, number or id")
	f.StringVar(&storyText, "story-frame", "", "frame of story time, may have decimals")
	f.BoolVar(&asJSON, "json", false, "print JSON")
	alternateFlag(c, &other)
	return c
}

func frame(flag, text string) (float64, error) {
	v, err := strconv.ParseFloat(text, 64)
	if err != nil || math.IsNaN(v) || math.Abs(v) > scene.MaxFrame {
		return 0, badInput("--%s %q is not a frame number", flag, text)
	}
	return v, nil
}

func inspect(s *session.Session, camera, screenText, storyText string) (*inspected, error) {
	out := &inspected{Scene: s.Doc.Settings.Title, Assembly: s.Doc.Assemblies[s.Assembly()].Name, Rate: s.Doc.Settings.Rate.String(), Shots: []inspectShot{}, Cameras: []inspectedCam{}}
	switch {
	case screenText != "" && camera == "" && storyText == "":
		at, err := frame("screen-frame", screenText)
		if err != nil {
			return nil, err
		}
		out.Screen = &at
		for _, p := range s.OnAir(at).Playing {
			shot := s.Doc.Shots[p.Shot] // none where the program follows cues
			in := inspectShot{shot.Number, shot.Name, string(shot.Plays), p.Weight, p.Story}
			seen := s.In(p.Shot)
			if view := seen.View(&p); view != nil {
				cam := inspectCamera(seen, view, p.Story)
				in.Camera = cam.Camera
				out.Cameras = append(out.Cameras, cam)
			}
			out.Shots = append(out.Shots, in)
		}
		return out, nil
	case screenText == "" && camera != "" && storyText != "":
		at, err := frame("story-frame", storyText)
		if err != nil {
			return nil, err
		}
		st := s.Evaluate(at)
		i, err := findCamera(s, camera)
		if err != nil {
			return nil, err
		}
		out.Cameras = append(out.Cameras, inspectCamera(s, &st.Cameras[i], at))
		return out, nil
	}
	return nil, badInput("say what to look at: --screen-frame N, or --camera NAME with --story-frame X")
}

func inspectCamera(s *session.Session, c *motion.CameraState, at float64) inspectedCam {
	e := s.Motion.Nodes[c.Node].Entity
	out := inspectedCam{
		Camera: e.Name, Number: e.Camera.Number, StoryFrame: at, Pan: c.Pan, Tilt: c.Tilt, Roll: c.Roll,
		Position: [3]float64{c.World[3], c.World[7], c.World[11]}, FocalLength: c.Focal,
		Sensor: size{e.Camera.Sensor[0], e.Camera.Sensor[1]}, Gate: size{c.Gate.Width, c.Gate.Height},
		HFov: c.HFov, VFov: c.VFov, Squeeze: c.Squeeze, Stop: c.Stop, Focus: c.Focus,
	}
	for i, v := range c.World {
		out.Matrix[i/4][i%4] = v
	}
	return out
}

func printInspected(w io.Writer, in *inspected) error {
	var b strings.Builder
	fmt.Fprintf(&b, "%s at %s frames per second\n", in.Scene, in.Rate)
	if in.Screen != nil && len(in.Shots) == 0 {
		fmt.Fprintf(&b, "nothing is on air at screen frame %v\n", *in.Screen)
	}
	for _, s := range in.Shots {
		if s.Shot == "" { // the program follows the cues
			fmt.Fprintf(&b, "no shot, as the program follows the cues; weight %.2f, story frame %v, camera %s\n", s.Weight, s.StoryFrame, s.Camera)
			continue
		}
		fmt.Fprintf(&b, "shot %s “%s”, weight %.2f, story frame %v, camera %s\n", s.Shot, s.Name, s.Weight, s.StoryFrame, s.Camera)
	}
	for _, c := range in.Cameras {
		fmt.Fprintf(&b, "camera %d “%s” at %.3f %.3f %.3f m, pan %.2f° tilt %.2f° roll %.2f°\n", c.Number, c.Camera, c.Position[0], c.Position[1], c.Position[2], c.Pan, c.Tilt, c.Roll)
		fmt.Fprintf(&b, "  lens %.1f mm, gate %.2f x %.2f mm, field of view %.2f° x %.2f°, f/%.1f, focus %.2f m\n", c.FocalLength, c.Gate.Width, c.Gate.Height, c.HFov, c.VFov, c.Stop, c.Focus)
	}
	_, err := io.WriteString(w, b.String())
	return err
}

// findShot returns the id of the shot that has an id or a number.
func findShot(doc *scene.Document, shot string) (string, error) {
	if _, ok := doc.Shots[shot]; ok {
		return shot, nil
	}
	for _, e := range doc.ShotsInOrder() {
		if e.Number == shot {
			return e.ID, nil
		}
	}
	return "", badInput("the scene has no shot %q", shot)
}

// findCamera returns the index among the cameras of one by id, name or number.
func findCamera(s *session.Session, camera string) (int, error) {
	for i, n := range s.Motion.Cameras {
		node := &s.Motion.Nodes[n]
		if node.ID == camera || node.Entity.Name == camera || strconv.Itoa(node.Entity.Camera.Number) == camera {
			return i, nil
		}
	}
	return 0, badInput("the scene has no camera %q", camera)
}
