// Package heavytest makes requests for tests that would take gigabytes, or a processor
// for minutes, if they were believed.
package heavytest

import (
	"bytes"
	"fmt"
	"image"
	"image/color"
	"image/png"
	"strings"

	"proscen/core/scene"
)

// Request is a request to the API, and what its answer says.
type Request struct{ Name, Path, Body, Says string }

// Requests returns one of each sort.
func Requests() []Request {
	document := func(nodes string) string {
		return `{"production":"P","title":"Many","document":{"schema":"` + scene.Schema + `","nodes":{` + nodes + `}}}`
	}
	return []Request{
		{"a wide picture", "/images", picture(image.NewGray(image.Rect(0, 0, 52_000_000, 1))), "more than 50 million"},
		{"a large picture", "/images", picture(image.NewGray(image.Rect(0, 0, 7000, 7000))), `"width":1920`},
		{"a deep picture", "/images", picture(deep{image.Rect(0, 0, 7000, 7000)}), `"width":1920`},
		{"many empty things", "/scenes", document(`"a":[` + strings.Repeat("{},", 4_000_000) + `{}]`), "more than 2000000 things"},
		{"many entities", "/scenes", document(strings.Repeat(`"a":{},`, 1_000_000) + `"b":{}`), "is missing"},
		{"an unknown long id", "/scenes/" + strings.Repeat("a", 900_000) + "/edits", "{}", "the address is longer"},
		{"a page that is slow", "/panels", slowPDF(), "takes longer than 10 seconds"},
	}
}

// deep is a picture of one colour with 16 bits in a channel.
type deep struct{ image.Rectangle }

func (d deep) ColorModel() color.Model { return color.NRGBA64Model }
func (d deep) Bounds() image.Rectangle { return d.Rectangle }
func (d deep) At(int, int) color.Color {
	return color.NRGBA64{R: 0x1234, G: 0x5678, B: 0x9abc, A: 0x8000}
}

func picture(im image.Image) string {
	var b bytes.Buffer
	if err := (&png.Encoder{CompressionLevel: png.BestSpeed}).Encode(&b, im); err != nil {
		panic(err)
	}
	return b.String()
}

// slowPDF is a page that draws a pattern of a pattern of a pattern …
func slowPDF() string {
	var objects []string
	objects = append(objects, "<< /Type /Catalog /Pages 2 0 R >>", "<< /Type /Pages /Kids [3 0 R] /Count 1 >>",
		"<< /Type /Page /Parent 2 0 R /MediaBox [0 0 800 800] /Contents 4 0 R /Resources << /XObject << /X 5 0 R >> >> >>")
	stream := func(head, body string) string {
		return fmt.Sprintf("<< %s /Length %d >>\nstream\n%s\nendstream", head, len(body), body)
	}
	many := strings.Repeat("/X Do ", 60)
	objects = append(objects, stream("", many))
	for i := range 5 {
		objects = append(objects, stream(fmt.Sprintf("/Type /XObject /Subtype /Form /BBox [0 0 800 800] /Resources << /XObject << /X %d 0 R >> >>", 6+i), many))
	}
	objects = append(objects, stream("/Type /XObject /Subtype /Form /BBox [0 0 800 800]", "0 0 m 700 10 800 750 5 300 c f"))
	out, at := "%PDF-1.4\n", []int{}
	for i, o := range objects {
		at = append(at, len(out))
		out += fmt.Sprintf("%d 0 obj\n%s\nendobj\n", i+1, o)
	}
	start := len(out)
	out += fmt.Sprintf("xref\n0 %d\n0000000000 65535 f \n", len(at)+1)
	for _, a := range at {
		out += fmt.Sprintf("%010d 00000 n \n", a)
	}
	return out + fmt.Sprintf("trailer << /Size %d /Root 1 0 R >>\nstartxref\n%d\n%%%%EOF\n", len(at)+1, start)
}
