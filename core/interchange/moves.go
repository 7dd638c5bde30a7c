package interchange

import (
	"bytes"
	"encoding/csv"
	"errors"
	"fmt"
	"io"
	"math"
	"slices"
	"strconv"
	"strings"

	"proscen/core/edit"
	"proscen/core/scene"
)

// movesNeeds are the columns that a table of cameras has at least.
var movesNeeds = []string{"camera", "frame", "x", "y", "z", "pan", "tilt", "roll"}

// movesBegin tells whether text is a table whose columns are those of cameras.
func movesBegin(text string) bool {
	first, _, _ := strings.Cut(text, "\n")
	names := strings.Split(strings.ToLower(first), ",")
	for i := range names {
		names[i] = strings.Trim(names[i], " \"\r\t")
	}
	return slices.Contains(names, "camera") && slices.Contains(names, "frame") && slices.Contains(names, "pan")
}

// Bounds of a table of cameras.
const (
	maxMoveRows    = 400_000
	maxMoveCameras = 200
)

// ReadMoves reads a table of cameras frame by frame, as WriteStage writes it: columns by
// their names in any order, of which camera, frame, x, y, z, pan, tilt and roll are
// needed. Each camera comes with keys on story time where the table has it and it only
// goes forward, else at its frames.
func ReadMoves(doc *scene.Document, data []byte) (edit.CameraBring, []string, error) {
	var out edit.CameraBring
	var said notes
	if len(data) > MaxCutBytes {
		return out, nil, fmt.Errorf("%w: it has more than %d MB", ErrCut, MaxCutBytes>>20)
	}
	r := csv.NewReader(bytes.NewReader(bytes.TrimPrefix(data, []byte("\xef\xbb\xbf"))))
	r.ReuseRecord = true
	head, err := r.Read()
	if err != nil {
		return out, nil, fmt.Errorf("%w as a table of cameras: %w", ErrCut, err)
	}
	column := map[string]int{}
	for i, name := range head {
		column[strings.ToLower(strings.TrimSpace(name))] = i
	}
	for _, name := range movesNeeds {
		if _, ok := column[name]; !ok {
			return out, nil, fmt.Errorf("%w as a table of cameras: it has no column “%s”", ErrCut, name)
		}
	}
	index := map[string]int{}
	var widths []float64
	var stories [][]float64
	for line := 2; ; line++ {
		row, err := r.Read()
		if errors.Is(err, io.EOF) {
			break
		}
		if err != nil {
			return out, nil, fmt.Errorf("%w as a table of cameras: %w", ErrCut, err)
		}
		if line > maxMoveRows {
			return out, nil, fmt.Errorf("%w as a table of cameras: it has more than %d lines", ErrCut, maxMoveRows)
		}
		var wrong error
		number := func(name string, usual, lo, hi float64) float64 {
			i, ok := column[name]
			if !ok || row[i] == "" {
				return usual
			}
			v, err := strconv.ParseFloat(row[i], 64)
			if err != nil || math.IsNaN(v) || v < lo || v > hi {
				wrong = fmt.Errorf("%w as a table of cameras: line %d, “%s” of the column %s is no number from %g to %g", ErrCut, line, clip(row[i]), name, lo, hi)
			}
			return v
		}
		name := strings.TrimPrefix(row[column["camera"]], "'")
		k, known := index[name]
		if !known {
			if k = len(out.Cameras); k >= maxMoveCameras {
				return out, nil, fmt.Errorf("%w as a table of cameras: it has more than %d", ErrCut, maxMoveCameras)
			}
			index[name] = k
			out.Cameras = append(out.Cameras, edit.BroughtCamera{Name: name, Stop: number("stop", 2.8, 0.5, 64)})
			widths = append(widths, number("aperture width", 0, 0, 1000))
			stories = append(stories, nil)
		}
		const metres = scene.MaxMetres
		f := edit.BroughtFrame{
			Frame:    number("frame", 0, -scene.MaxFrame, scene.MaxFrame),
			Position: scene.Vec{number("x", 0, -metres, metres), number("y", 0, -metres, metres), number("z", 0, -metres, metres)},
			Turn:     scene.Vec{number("pan", 0, -3600, 3600), number("tilt", 0, -3600, 3600), number("roll", 0, -3600, 3600)},
			Focal:    number("focal length", 35, 1, 3000), Focus: number("focus", 4, 0.01, metres),
		}
		story := number("story frame", math.NaN(), -scene.MaxFrame, scene.MaxFrame)
		if wrong != nil {
			return out, nil, wrong
		}
		out.Cameras[k].Frames = append(out.Cameras[k].Frames, f)
		stories[k] = append(stories[k], story)
	}
	if len(out.Cameras) == 0 {
		return out, nil, fmt.Errorf("%w as a table of cameras: it has no lines", ErrCut)
	}
	for k := range out.Cameras {
		c := &out.Cameras[k]
		if forward(stories[k]) {
			for i := range c.Frames {
				c.Frames[i].Frame = stories[k][i]
			}
		} else if column["story frame"] > 0 {
			said.add("The camera “%s” goes back and forth in the story; its keys are at the frames of the cut.", clip(c.Name))
		}
		if widths[k] > 0 {
			c.Width = widths[k]
		}
	}
	return out, said, nil
}

// forward tells whether frames only grow.
func forward(frames []float64) bool {
	for i, f := range frames {
		if math.IsNaN(f) || i > 0 && f <= frames[i-1] {
			return false
		}
	}
	return true
}
