// Package sheets makes shot lists for people: a spreadsheet and printable pages,
// with pictures made by the renderer.
package sheets

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"image"
	"image/draw"
	"image/jpeg"
	"math"
	"strconv"
	"strings"

	"codeberg.org/go-pdf/fpdf"
	"github.com/xuri/excelize/v2"
	"golang.org/x/image/font/gofont/gobold"
	"golang.org/x/image/font/gofont/goregular"

	"proscen/core/card"
	"proscen/core/interchange"
	"proscen/core/picture"
	"proscen/core/scene"
	"proscen/core/turnover"
)

// Kind is a form of a sheet.
type Kind string

// The forms: a spreadsheet, a printed list with small pictures, and a printed
// storyboard with large ones.
const (
	Spreadsheet Kind = "xlsx"
	List        Kind = "list"
	Storyboard  Kind = "storyboard"
)

// Valid tells whether there is such a sheet.
func (k Kind) Valid() bool { return k == Spreadsheet || k == List || k == Storyboard }

// Media returns the media type of a sheet.
func (k Kind) Media() string {
	if k == Spreadsheet {
		return "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"
	}
	return "application/pdf"
}

// Ending returns the ending of a sheet's file name.
func (k Kind) Ending() string {
	if k == Spreadsheet {
		return "xlsx"
	}
	return "pdf"
}

// ErrKind says that there is no such sheet.
var ErrKind = errors.New("a sheet is an xlsx, a list or a storyboard")

// ErrShots says that there are none, or too many.
var ErrShots = errors.New("the shots cannot be listed")

// Count returns how many pictures a sheet of an assembly has.
func Count(doc *scene.Document, assembly string) (int, error) {
	n := len(interchange.ShotList(doc, assembly))
	switch {
	case n == 0:
		return 0, fmt.Errorf("%w: the assembly has no shots", ErrShots)
	case n > MaxShots:
		return 0, fmt.Errorf("%w: the assembly has %d, and a sheet shows at most %d", ErrShots, n, MaxShots)
	}
	return n, nil
}

// MaxShots bounds how many shots a sheet shows.
const MaxShots = 3000

// Make returns a sheet of an assembly. Paint makes the picture of a screen frame.
func Make(ctx context.Context, doc *scene.Document, assembly string, kind Kind, paint func(frame int) (*image.RGBA, error)) ([]byte, error) {
	if !kind.Valid() {
		return nil, ErrKind
	}
	if _, err := Count(doc, assembly); err != nil {
		return nil, err
	}
	rows := interchange.ShotList(doc, assembly)
	pictures := make([][]byte, len(rows))
	for i, r := range rows {
		if err := ctx.Err(); err != nil {
			return nil, err
		}
		im, err := paint(r.ScreenIn + r.Frames/2)
		if err != nil {
			return nil, err
		}
		var b bytes.Buffer
		if err := jpeg.Encode(&b, im, &jpeg.Options{Quality: 82}); err != nil {
			return nil, err
		}
		pictures[i] = b.Bytes()
	}
	title := doc.Settings.Title + " – " + doc.Assemblies[assembly].Name
	switch kind {
	case Spreadsheet:
		return spreadsheet(title, rows, pictures)
	case Storyboard:
		return printed(title, rows, pictures, 3)
	default:
		return printed(title, rows, pictures, 0)
	}
}

// Size returns the size of the pictures of a sheet for a format.
func Size(f scene.Format) picture.Form {
	w := 384
	h := int(float64(w)/f.Aspect()/2+0.5) * 2
	if h > 400 {
		h = 400
		w = int(float64(h)*f.Aspect()/2+0.5) * 2
	}
	return picture.Form{Width: w, Height: h, Quality: picture.Check}
}

// spreadsheet writes a table whose first column holds the pictures.
func spreadsheet(title string, rows []interchange.ShotRow, pictures [][]byte) ([]byte, error) {
	f := excelize.NewFile()
	defer func() { _ = f.Close() }()
	const sheet = "Shots"
	if err := f.SetSheetName("Sheet1", sheet); err != nil {
		return nil, err
	}
	bold, err := f.NewStyle(&excelize.Style{Font: &excelize.Font{Bold: true}})
	if err != nil {
		return nil, err
	}
	top, err := f.NewStyle(&excelize.Style{Alignment: &excelize.Alignment{Vertical: "top", WrapText: true}})
	if err != nil {
		return nil, err
	}
	header := append([]any{"Picture"}, toAny(interchange.ShotColumns)...)
	header = append(header, "Lines")
	steps := []error{
		f.SetCellStr(sheet, "A1", title),
		f.SetSheetRow(sheet, "A2", &header),
		f.SetRowStyle(sheet, 1, 2, bold),
		f.SetColWidth(sheet, "A", "A", 26),
		f.SetColWidth(sheet, "C", "C", 24),
		f.SetColWidth(sheet, "E", "E", 22),
		f.SetColWidth(sheet, "I", "J", 13),
		f.SetColWidth(sheet, "N", "N", 13),
		f.SetColWidth(sheet, "R", "S", 40),
		f.SetPanes(sheet, &excelize.Panes{Freeze: true, YSplit: 2, TopLeftCell: "A3", ActivePane: "bottomLeft"}),
		f.SetDocProps(&excelize.DocProperties{Title: title, Creator: "Proscen"}),
	}
	if err := errors.Join(steps...); err != nil {
		return nil, err
	}
	for i, r := range rows {
		at := i + 3
		cells := append([]any{""}, r.Cells()...)
		cells = append(cells, strings.Join(r.Lines, "\n"))
		if err := errors.Join(
			f.SetRowHeight(sheet, at, 82),
			f.SetRowStyle(sheet, at, at, top),
			f.SetSheetRow(sheet, fmt.Sprintf("A%d", at), &cells),
			f.AddPictureFromBytes(sheet, fmt.Sprintf("A%d", at), &excelize.Picture{
				Extension: ".jpg", File: pictures[i], Format: &excelize.GraphicOptions{AutoFit: true, OffsetX: 2, OffsetY: 2, LockAspectRatio: true, AltText: "Shot " + r.Number},
			}),
		); err != nil {
			return nil, err
		}
	}
	b, err := f.WriteToBuffer()
	if err != nil {
		return nil, err
	}
	return b.Bytes(), nil
}

func toAny(list []string) []any {
	out := make([]any, len(list))
	for i, s := range list {
		out[i] = s
	}
	return out
}

// Measures of a page in millimetres: A4, upright for a list, across for a
// storyboard.
const (
	margin = 12.0
	text   = 8.0 // points
)

// printed writes pages: with columns 0 a list, a shot in a row; otherwise a
// storyboard with so many panels side by side.
func printed(title string, rows []interchange.ShotRow, pictures [][]byte, columns int) ([]byte, error) {
	orientation := "P"
	if columns > 0 {
		orientation = "L"
	}
	p := paper(title, orientation, pictures)
	w, h := p.GetPageSize()
	if columns == 0 {
		list(p, rows, h)
	} else {
		storyboard(p, rows, w, h, columns)
	}
	var b bytes.Buffer
	if err := p.Output(&b); err != nil {
		return nil, err
	}
	return b.Bytes(), nil
}

// paper begins pages with a title, and takes up pictures.
func paper(title, orientation string, pictures [][]byte) *fpdf.Fpdf {
	p := fpdf.New(orientation, "mm", "A4", "")
	p.AddUTF8FontFromBytes("go", "", goregular.TTF)
	p.AddUTF8FontFromBytes("go", "B", gobold.TTF)
	p.SetTitle(title, true)
	p.SetCreator("Proscen", true)
	p.SetMargins(margin, margin, margin)
	p.SetAutoPageBreak(false, margin)
	p.AliasNbPages("{pages}")
	p.SetHeaderFunc(func() {
		p.SetFont("go", "B", 11)
		p.CellFormat(0, 6, title, "", 0, "L", false, 0, "")
		p.SetFont("go", "", text)
		p.CellFormat(0, 6, fmt.Sprintf("%d/{pages}", p.PageNo()), "", 1, "R", false, 0, "")
		p.Ln(2)
	})
	p.AddPage()
	for i := range pictures {
		p.RegisterImageOptionsReader(name(i), fpdf.ImageOptions{ImageType: "JPG"}, bytes.NewReader(pictures[i]))
	}
	return p
}

// Still is a picture of a contact sheet with what is said below it.
type Still struct {
	JPEG        []byte
	Title, Note string
}

// Contact returns a contact sheet, as pages to print (PDF): twelve pictures on each, of
// any shapes.
func Contact(title string, stills []Still) ([]byte, error) {
	const columns, rows, gap, words = 4, 3, 5.0, 10.0
	pictures := make([][]byte, len(stills))
	for i := range stills {
		pictures[i] = stills[i].JPEG
	}
	p := paper(title, "L", pictures)
	width, height := p.GetPageSize()
	top := p.GetY()
	w := (width - 2*margin - gap*(columns-1)) / columns
	h := (height-top-margin)/rows - words
	for i, s := range stills {
		k := i % (columns * rows)
		if i > 0 && k == 0 {
			p.AddPage()
		}
		x, y := margin+float64(k%columns)*(w+gap), top+float64(k/columns)*(h+words)
		put(p, i, x, y, w, h)
		p.SetXY(x, y+h+0.8)
		p.SetFont("go", "B", 8)
		p.CellFormat(w, 3.8, short(p, s.Title, w), "", 2, "L", false, 0, "")
		p.SetFont("go", "", 6.5)
		p.CellFormat(w, 3.2, short(p, s.Note, w), "", 0, "L", false, 0, "")
	}
	var b bytes.Buffer
	if err := p.Output(&b); err != nil {
		return nil, err
	}
	return b.Bytes(), nil
}

// Picture is one of several pictures of a sheet.
type Picture struct {
	Image       *image.RGBA
	Title, Note string
}

// ContactOf is Contact with the pictures as they were made.
func ContactOf(title string, pictures []Picture) ([]byte, error) {
	stills := make([]Still, len(pictures))
	for i, p := range pictures {
		var b bytes.Buffer
		if err := jpeg.Encode(&b, p.Image, &jpeg.Options{Quality: 88}); err != nil {
			return nil, err
		}
		stills[i] = Still{b.Bytes(), p.Title, p.Note}
	}
	return Contact(title, stills)
}

// Measures of a grid of pictures in pixels.
const (
	gridCell  = 640 // the width of a picture, or the height of one that is taller than wide
	gridGap   = 16
	gridWords = 30
)

// Grid lays pictures of any shapes side by side into one, in rows that are about as many as
// the columns, each with its title and note below it.
func Grid(pictures []Picture) (*image.RGBA, error) {
	columns := int(math.Ceil(math.Sqrt(float64(len(pictures)))))
	rows := (len(pictures) + columns - 1) / columns
	var cell image.Point
	for _, p := range pictures {
		cell.X, cell.Y = max(cell.X, p.Image.Rect.Dx()), max(cell.Y, p.Image.Rect.Dy())
	}
	step := cell.Add(image.Pt(gridGap, gridGap+gridWords))
	out := image.NewRGBA(image.Rect(0, 0, columns*step.X+gridGap, rows*step.Y+gridGap))
	card.Fill(out, card.Color("#11181b"))
	for i, p := range pictures {
		at := image.Pt(gridGap+i%columns*step.X, gridGap+i/columns*step.Y)
		free := cell.Sub(p.Image.Rect.Size()).Div(2)
		draw.Draw(out, p.Image.Rect.Sub(p.Image.Rect.Min).Add(at).Add(free), p.Image, p.Image.Rect.Min, draw.Src)
		words := out.SubImage(image.Rect(at.X, at.Y+cell.Y, at.X+cell.X, at.Y+cell.Y+gridWords)).(*image.RGBA)
		if err := card.Caption(words, p.Title, p.Note); err != nil {
			return nil, err
		}
	}
	return out, nil
}

// GridSize is the size of a picture of a grid for a format, in pixels.
func GridSize(f scene.Format) (width, height int) {
	w, h := float64(gridCell), float64(gridCell)/f.Aspect()
	if h > gridCell {
		w, h = gridCell*f.Aspect(), gridCell
	}
	even := func(v float64) int { return max(16, int(v/2+0.5)*2) }
	return even(w), even(h)
}

// Pulls returns a pull list as pages to print (PDF): each camera with its stretches of the
// story, and what the list saves.
func Pulls(doc *scene.Document, l turnover.Pulled, title string) ([]byte, error) {
	const row = 5.2
	columns := []struct {
		head  string
		width float64
		align string
	}{{"Camera", 52, "L"}, {"Story in", 22, "R"}, {"Story out", 22, "R"}, {"Frames", 18, "R"}, {"From", 34, "R"}, {"To", 34, "R"}}
	p := paper(title, "P", nil)
	_, height := p.GetPageSize()
	line := func(bold string, cells ...string) {
		if p.GetY()+row > height-margin {
			p.AddPage()
		}
		p.SetFont("go", bold, text)
		for i, c := range columns {
			p.CellFormat(c.width, row, short(p, cells[i], c.width), "B", 0, c.align, false, 0, "")
		}
		p.Ln(row)
	}
	var heads []string
	for _, c := range columns {
		heads = append(heads, c.head)
	}
	line("B", heads...)
	code := func(f int) string { return doc.Settings.Timecode(scene.StoryClock, f) }
	for _, n := range l.Cameras {
		for i, r := range n.Ranges {
			who := ""
			if i == 0 {
				who = fmt.Sprintf("%d  %s", n.Number, n.Name)
			}
			line("", who, strconv.Itoa(r.In), strconv.Itoa(r.Out), strconv.Itoa(r.Count()), code(r.In), code(r.Out))
		}
		if len(n.Ranges) > 1 {
			line("B", "", "", "", strconv.Itoa(n.Frames), "", "")
		}
	}
	p.Ln(2)
	p.SetFont("go", "", text)
	said := fmt.Sprintf("%d frames", l.Frames)
	if l.Throughout > 0 {
		said += fmt.Sprintf(" instead of the %d that all cameras would have over the whole story: %.0f %% less", l.Throughout, 100*(1-float64(l.Frames)/float64(l.Throughout)))
	}
	p.CellFormat(0, row, said, "", 1, "L", false, 0, "")
	var b bytes.Buffer
	if err := p.Output(&b); err != nil {
		return nil, err
	}
	return b.Bytes(), nil
}

func name(i int) string { return fmt.Sprintf("p%d", i) }

// put draws a picture as large as it goes in the middle of a box.
func put(p *fpdf.Fpdf, i int, x, y, w, h float64) {
	info := p.GetImageInfo(name(i))
	pw, ph := w, w*info.Height()/info.Width()
	if ph > h {
		pw, ph = h*info.Width()/info.Height(), h
	}
	p.ImageOptions(name(i), x+(w-pw)/2, y+(h-ph)/2, pw, ph, false, fpdf.ImageOptions{ImageType: "JPG"}, 0, "")
	p.Rect(x+(w-pw)/2, y+(h-ph)/2, pw, ph, "D")
}

func list(p *fpdf.Fpdf, rows []interchange.ShotRow, height float64) {
	const row, picture = 27.0, 44.0
	for i, r := range rows {
		if p.GetY()+row > height-margin {
			p.AddPage()
		}
		y := p.GetY()
		put(p, i, margin, y, picture, row-3)
		x := margin + picture + 4
		p.SetXY(x, y)
		p.SetFont("go", "B", 10)
		p.CellFormat(0, 5, strings.TrimSpace(r.Number+"  "+r.Name), "", 2, "L", false, 0, "")
		p.SetFont("go", "", text)
		for _, s := range facts(r) {
			p.SetX(x)
			p.CellFormat(0, 4, s, "", 2, "L", false, 0, "")
		}
		said := strings.Join(append(r.Lines, r.Notes), "  ")
		p.SetX(x)
		p.CellFormat(0, 4, short(p, said, 210-x-margin), "", 2, "L", false, 0, "")
		p.SetXY(margin, y+row)
	}
}

func facts(r interchange.ShotRow) []string {
	through := r.Shows
	if r.Camera != "" {
		through = fmt.Sprintf("camera %s, %s, %s mm", r.Camera, r.Shows, r.Lens)
	}
	speed := ""
	switch r.Speed {
	case 1:
	case 0:
		speed = ", held"
	default:
		speed = fmt.Sprintf(", %g×", r.Speed)
	}
	return []string{
		through,
		fmt.Sprintf("screen %s, %d f  ·  story %.4g–%.4g%s", r.TimeIn, r.Frames, r.StoryIn, r.StoryOut, speed),
		fmt.Sprintf("begins with %s  ·  handles %d + %d f  %s", r.Join, r.Head, r.Tail, r.Status),
	}
}

func storyboard(p *fpdf.Fpdf, rows []interchange.ShotRow, width, height float64, columns int) {
	const gap, words = 6.0, 22.0
	w := (width - 2*margin - gap*float64(columns-1)) / float64(columns)
	info := p.GetImageInfo(name(0))
	h := min(w*info.Height()/info.Width(), (height-2*margin-20)/2-words)
	x, y := margin, p.GetY()
	for i, r := range rows {
		if i > 0 && i%columns == 0 {
			x, y = margin, y+h+words
			if y+h+words > height-margin+2 {
				p.AddPage()
				y = p.GetY()
			}
		}
		put(p, i, x, y, w, h)
		p.SetXY(x, y+h+1)
		p.SetFont("go", "B", 9)
		p.CellFormat(w-16, 4.5, short(p, strings.TrimSpace(r.Number+"  "+r.Name), w-17), "", 0, "L", false, 0, "")
		p.SetFont("go", "", text)
		p.CellFormat(16, 4.5, fmt.Sprintf("%d f", r.Frames), "", 2, "R", false, 0, "")
		p.SetX(x)
		p.MultiCell(w, 3.8, clipLines(p, strings.Join(append(r.Lines, r.Notes), "\n"), w, 4), "", "L", false)
		x += w + gap
	}
}

// short cuts text to a width.
func short(p *fpdf.Fpdf, s string, width float64) string {
	if p.GetStringWidth(s) <= width {
		return s
	}
	r := []rune(s)
	for len(r) > 0 && p.GetStringWidth(string(r)+"…") > width {
		r = r[:len(r)-1]
	}
	return string(r) + "…"
}

// clipLines keeps text to a number of lines.
func clipLines(p *fpdf.Fpdf, s string, width float64, most int) string {
	lines := p.SplitText(strings.TrimSpace(s), width)
	if len(lines) > most {
		lines = append(lines[:most-1], short(p, lines[most-1]+"…", width))
	}
	return strings.Join(lines, "\n")
}
