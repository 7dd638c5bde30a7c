package interchange

import (
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
	{ID: "csv", Title: "Shot list as CSV", Ending: ".csv", Media: "text/csv", Reads: true},
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

// Brought is what a file brings into a scene: an operation with its arguments, what that
// will do, and what is left out or otherwise than in the file.
type Brought struct {
	Operation string   `json:"operation"`
	Args      any      `json:"args"`
	Will      []Change `json:"will"`
	Notes     []string `json:"notes"`
}

// ReadCut reads a file that brings a cut, lines, cameras, or a shot list of an assembly; what
// it is, its bytes say.
func ReadCut(doc *scene.Document, assembly string, data []byte) (out Brought, err error) {
	begins := plain(data[:min(len(data), 1<<16)])
	start := strings.TrimSpace(begins)
	if _, ok := listBegins(begins); ok {
		shots, will, said, err := ReadShotList(doc, assembly, data)
		return Brought{"shotsAsListed", shots, told(will), said}, err
	}
	switch {
	case gltfBegins(data):
		cameras, said, err := ReadGLTFCameras(doc, data)
		return Brought{"cameraBring", cameras, willShoot(doc, cameras), said}, err
	case strings.HasPrefix(start, "{"):
		in, said, err := ReadOTIO(doc, data)
		return Brought{"assemblyBring", in, told(willCut(doc, in)), said}, err
	case movesBegin(start):
		cameras, said, err := ReadMoves(doc, data)
		return Brought{"cameraBring", cameras, willShoot(doc, cameras), said}, err
	case strings.HasPrefix(start, "WEBVTT") || strings.Contains(start, "-->"):
		lines, said, err := ReadCaptions(doc, data)
		return Brought{"linesBring", map[string]any{"lines": lines}, told(willSay(doc, lines)), said}, err
	case strings.HasPrefix(strings.ToUpper(start), "TITLE:") || edlBegins(start):
		in, said, err := ReadEDL(doc, data)
		return Brought{"assemblyBring", in, told(willCut(doc, in)), said}, err
	}
	return out, fmt.Errorf("%w: it is neither OpenTimelineIO, an edit list, SubRip, WebVTT, glTF, a table of cameras nor a shot list with the columns “Shot” and “Frames”, “Name”, “Status” or “Notes”", ErrCut)
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
