package interchange

import (
	"bytes"
	"fmt"
	"strings"

	"proscen/core/scene"
)

// CutFormat is an open format for cuts, lines and lists.
type CutFormat struct {
	ID     string `json:"id"`
	Title  string `json:"title"`
	Ending string `json:"ending"`
	Media  string `json:"media"`
	Reads  bool   `json:"reads"` // and not only written
	Lines  bool   `json:"lines"` // carries lines of dialogue, on one of the clocks
	Stage  bool   `json:"stage"` // holds the set and the cameras frame by frame
}

// CutFormats lists the formats in the order in which they are offered.
var CutFormats = []CutFormat{
	{ID: "otio", Title: "OpenTimelineIO", Ending: ".otio", Media: "application/json", Reads: true},
	{ID: "edl", Title: "Edit list (CMX 3600)", Ending: ".edl", Media: "text/plain", Reads: true},
	{ID: "srt", Title: "Lines as SubRip", Ending: ".srt", Media: "application/x-subrip", Reads: true, Lines: true},
	{ID: "vtt", Title: "Lines as WebVTT", Ending: ".vtt", Media: "text/vtt", Reads: true, Lines: true},
	{ID: "csv", Title: "Shot list as CSV", Ending: ".csv", Media: "text/csv"},
}

// Delivered is the file of a shot: Head is how many of its frames come before the shot's
// first one.
type Delivered struct {
	File   string `json:"file"`
	Head   int    `json:"head"`
	Frames int    `json:"frames"`
}

// WriteCut writes an assembly in a format. Lines are written on a clock.
func WriteCut(doc *scene.Document, id, format string, clock scene.Clock, deliveries map[string]Delivered) (Written, error) {
	if _, ok := doc.Assemblies[id]; !ok {
		return Written{}, fmt.Errorf("there is no such assembly to write")
	}
	switch format {
	case "otio":
		return WriteOTIO(doc, id, deliveries), nil
	case "edl":
		return WriteEDL(doc, id, deliveries), nil
	case "srt":
		return WriteSRT(doc, id, clock), nil
	case "vtt":
		return WriteVTT(doc, id, clock), nil
	case "csv":
		return WriteCSV(doc, id), nil
	}
	return Written{}, fmt.Errorf("the format %q is not written; choose otio, edl, srt, vtt or csv", clip(format))
}

// Brought is what a file brings into a scene: an operation with its arguments.
type Brought struct {
	Operation string   `json:"operation"`
	Args      any      `json:"args"`
	Notes     []string `json:"notes"`
}

// ReadCut reads a file that brings a cut or lines; what it is, its bytes say.
func ReadCut(doc *scene.Document, data []byte) (Brought, error) {
	start := bytes.TrimSpace(bytes.TrimPrefix(data[:min(len(data), 4096)], []byte("\xef\xbb\xbf")))
	switch {
	case gltfBegins(data):
		cameras, said, err := ReadGLTFCameras(doc, data)
		return Brought{"cameraBring", cameras, said}, err
	case bytes.HasPrefix(start, []byte("{")):
		in, said, err := ReadOTIO(doc, data)
		return Brought{"assemblyBring", in, said}, err
	case movesBegin(string(start)):
		cameras, said, err := ReadMoves(doc, data)
		return Brought{"cameraBring", cameras, said}, err
	case bytes.HasPrefix(start, []byte("WEBVTT")) || bytes.Contains(start, []byte("-->")):
		lines, said, err := ReadCaptions(doc, data)
		return Brought{"linesBring", map[string]any{"lines": lines}, said}, err
	case bytes.HasPrefix(start, []byte("TITLE:")) || edlBegins(string(start)):
		in, said, err := ReadEDL(doc, data)
		return Brought{"assemblyBring", in, said}, err
	}
	return Brought{}, fmt.Errorf("%w: it is neither OpenTimelineIO, an edit list, SubRip, WebVTT, glTF nor a table of cameras", ErrCut)
}

// edlBegins tells whether text has an event of an edit list among its first
// lines.
func edlBegins(text string) bool {
	for line := range strings.Lines(text) {
		if edlEvent.MatchString(strings.TrimSpace(line)) {
			return true
		}
	}
	return false
}
