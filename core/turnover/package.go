package turnover

import (
	"bytes"
	"fmt"
	"maps"
	"math"
	"path"
	"slices"
	"strings"

	"proscen/core/interchange"
	"proscen/core/naming"
	"proscen/core/scene"
)

// Made is a finished output: its file, or its folder of numbered pictures, below the
// folder of its delivery, with what lies beside it.
type Made struct {
	Item   Item
	File   string
	Frames int
	Sha256 string
	Beside []Extra
}

// Extra is a file beside an output.
type Extra struct{ File, Sha256 string }

// Paper is a text that goes with a delivery, by its name below the delivery's folder.
type Paper struct {
	Name string
	Data []byte
}

// Papers are what an editor needs besides the files of shots: of each assembly and format
// of which shots were delivered, the cut as OpenTimelineIO and as an edit list, whose
// source times are those of the files; the list of its shots; and the hashes of all files
// as sha256sum reads them.
func Papers(doc *scene.Document, made []Made, r *scene.Recipe) []Paper {
	type cut struct{ assembly, format string }
	by := map[cut]map[string]interchange.Delivered{}
	for _, m := range made {
		if m.Item.What != Shot || m.Item.Pass != "" {
			continue
		}
		k := cut{m.Item.Assembly, m.Item.Format}
		if by[k] == nil {
			by[k] = map[string]interchange.Delivered{}
		}
		by[k][m.Item.Shot] = interchange.Delivered{File: m.File, Head: inScene(&m.Item, slateOf(&m.Item, r)) + m.Item.Head, Frames: inScene(&m.Item, m.Frames)}
	}
	keys := slices.SortedFunc(maps.Keys(by), func(a, b cut) int {
		return strings.Compare(a.assembly+" "+a.format, b.assembly+" "+b.format)
	})
	var out []Paper
	names := naming.Names{}
	for _, k := range keys {
		folder := naming.Slug(doc.Assemblies[k.assembly].Name)
		stem := path.Join(folder, folder+"_"+naming.Slug(doc.Formats[k.format].Name))
		// Their files are called from where the papers lie.
		from := map[string]interchange.Delivered{}
		for shot, d := range by[k] {
			d.File = strings.TrimPrefix(d.File, folder+"/")
			from[shot] = d
		}
		for _, format := range []string{"otio", "edl", "csv"} {
			w, err := interchange.WriteCut(doc, k.assembly, format, scene.ScreenClock, from)
			if err == nil { // its assembly is there: it has been delivered
				out = append(out, Paper{names.Free(stem, format), w.Data})
			}
		}
	}
	return append(out, Paper{"checksums.sha256", checksums(made)})
}

// inScene is how many frames of the scene so many of a file are.
func inScene(i *Item, frames int) int { return int(math.Round(float64(frames) * i.pace())) }

// checksums lists hashes as sha256sum reads them. Numbered pictures have no file of their
// own; the hash of their list stands in the manifest.
func checksums(made []Made) []byte {
	var b bytes.Buffer
	for _, m := range made {
		if path.Ext(m.File) != "" {
			_, _ = fmt.Fprintf(&b, "%s  %s\n", m.Sha256, m.File)
		}
		for _, e := range m.Beside {
			_, _ = fmt.Fprintf(&b, "%s  %s\n", e.Sha256, e.File)
		}
	}
	return b.Bytes()
}
