package sheets

import (
	"bytes"
	"context"
	"fmt"
	"image"
	"image/jpeg"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"github.com/xuri/excelize/v2"

	"proscen/core/picture"
	"proscen/core/scenetest"
	"proscen/core/turnover"
	"proscen/internal/demo"
)

func painted(t *testing.T) func(int) (*image.RGBA, error) {
	t.Helper()
	doc := demo.Scene()
	size := Size(doc.Formats["wide"])
	assert.Equal(t, [2]int{384, 216}, [2]int{size.Width, size.Height})
	p, err := picture.NewPainter(doc, picture.Files{}, "first-cut", size, 2)
	require.NoError(t, err)
	return func(frame int) (*image.RGBA, error) {
		im := image.NewRGBA(image.Rect(0, 0, size.Width, size.Height))
		return im, p.Frame(frame, im)
	}
}

func TestSpreadsheetHasTheShotsAndTheirPictures(t *testing.T) {
	doc := demo.Scene()
	data, err := Make(context.Background(), doc, "first-cut", Spreadsheet, painted(t))
	require.NoError(t, err)
	assert.Contains(t, Spreadsheet.Media(), "spreadsheetml")
	f, err := excelize.OpenReader(bytes.NewReader(data))
	require.NoError(t, err)
	rows, err := f.GetRows("Shots")
	require.NoError(t, err)
	require.Len(t, rows, 2+11)
	assert.Equal(t, []string{"050", "Over Ida", "5", "Over Ida to Tomas", "60", "400", "150"}, rows[6][1:8])
	assert.Contains(t, rows[6][18], "Ida: You're the last one up tonight.")
	for _, cell := range []string{"A3", "A13"} {
		pictures, err := f.GetPictures("Shots", cell)
		require.NoError(t, err)
		require.Len(t, pictures, 1, cell)
		c, _, err := image.DecodeConfig(bytes.NewReader(pictures[0].File))
		require.NoError(t, err)
		assert.Equal(t, 384, c.Width)
	}
}

// pages reads a PDF back with the tools that the program itself uses.
func pages(t *testing.T, data []byte) (text string, count int) {
	t.Helper()
	dir := t.TempDir()
	file := filepath.Join(dir, "x.pdf")
	require.NoError(t, os.WriteFile(file, data, 0o600))
	out, err := exec.Command("pdftotext", "-layout", file, "-").Output()
	require.NoError(t, err)
	return string(out), strings.Count(string(out), "\f")
}

func TestPrintedListsCanBeRead(t *testing.T) {
	doc := demo.Scene()
	for kind, want := range map[Kind]int{List: 2, Storyboard: 2} {
		data, err := Make(context.Background(), doc, "first-cut", kind, painted(t))
		require.NoError(t, err)
		assert.Equal(t, "application/pdf", kind.Media())
		text, n := pages(t, data)
		assert.Equal(t, want, n, kind)
		for _, s := range []string{"Last Car Down – first cut", "010  Up from the valley", "110  The last car down", "1/2", "2/2", "You're the last one"} {
			assert.Contains(t, strings.Join(strings.Fields(text), " "), strings.Join(strings.Fields(s), " "), kind)
		}
	}
	_, err := Make(context.Background(), doc, "first-cut", "docx", painted(t))
	assert.ErrorIs(t, err, ErrKind)
	doc.Shots = nil
	_, err = Make(context.Background(), doc, "first-cut", List, painted(t))
	assert.ErrorContains(t, err, "no shots")
	ctx, stop := context.WithCancel(context.Background())
	stop()
	_, err = Make(ctx, demo.Scene(), "first-cut", List, painted(t))
	assert.ErrorIs(t, err, context.Canceled)
}

// A contact sheet has twelve pictures of any shape on a page.
func TestPullListsCanBePrinted(t *testing.T) {
	doc := scenetest.Small()
	pulled := turnover.PullOf(doc, []string{"cut"}, 8, 4)
	require.NotEmpty(t, pulled.Cameras)
	for range 80 { // more than a page
		pulled.Cameras = append(pulled.Cameras, pulled.Cameras[0])
	}
	sheet, err := Pulls(doc, pulled, "Small · pull list")
	require.NoError(t, err)
	file := filepath.Join(t.TempDir(), "pulls.pdf")
	require.NoError(t, os.WriteFile(file, sheet, 0o600))
	out, err := exec.Command("pdftotext", "-layout", file, "-").Output()
	require.NoError(t, err)
	text := string(out)
	first := pulled.Cameras[0]
	assert.Regexp(t, fmt.Sprintf(`%d +%s +%d +%d +%d`, first.Number, first.Name, first.Ranges[0].In, first.Ranges[0].Out, first.Ranges[0].Count()), text)
	assert.Contains(t, text, fmt.Sprintf("%d frames instead of the %d", pulled.Frames, pulled.Throughout))
	assert.Greater(t, strings.Count(text, "pull list"), 1, "a title on each page")
}

func TestContactSheetsCanBeRead(t *testing.T) {
	var stills []Still
	for i := range 13 {
		var b bytes.Buffer
		size := [2]int{64, 36}
		if i%2 == 1 {
			size = [2]int{36, 64}
		}
		require.NoError(t, jpeg.Encode(&b, image.NewRGBA(image.Rect(0, 0, size[0], size[1])), nil))
		stills = append(stills, Still{b.Bytes(), fmt.Sprintf("%03d  camera 7 Küste", 10*(i+1)), fmt.Sprintf("still_%02d_v001.png", i)})
	}
	data, err := Contact("Last Car Down · delivery 3", stills)
	require.NoError(t, err)
	text, n := pages(t, data)
	assert.Equal(t, 2, n)
	for _, s := range []string{"Last Car Down · delivery 3", "010 camera 7 Küste", "130 camera 7 Küste", "still_12_v001.png", "2/2"} {
		assert.Contains(t, strings.Join(strings.Fields(text), " "), s)
	}
}
