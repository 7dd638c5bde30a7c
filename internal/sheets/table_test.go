package sheets

import (
	"archive/zip"
	"bytes"
	"context"
	"image"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"proscen/core/interchange"
	"proscen/core/scenetest"
)

// workbook puts the parts of a workbook together by hand, after ECMA-376: the least that
// there has to be.
func workbook(t testing.TB, sheet string) []byte {
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	for name, text := range map[string]string{
		"[Content_Types].xml":        `<Types xmlns="http://schemas.openxmlformats.org/package/2006/content-types"><Default Extension="rels" ContentType="application/vnd.openxmlformats-package.relationships+xml"/><Default Extension="xml" ContentType="application/xml"/><Override PartName="/xl/workbook.xml" ContentType="application/vnd.openxmlformats-officedocument.spreadsheetml.sheet.main+xml"/><Override PartName="/xl/worksheets/sheet1.xml" ContentType="application/vnd.openxmlformats-officedocument.spreadsheetml.worksheet+xml"/></Types>`,
		"_rels/.rels":                `<Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships"><Relationship Id="r1" Type="http://schemas.openxmlformats.org/officeDocument/2006/relationships/officeDocument" Target="xl/workbook.xml"/></Relationships>`,
		"xl/workbook.xml":            `<workbook xmlns="http://schemas.openxmlformats.org/spreadsheetml/2006/main" xmlns:r="http://schemas.openxmlformats.org/officeDocument/2006/relationships"><sheets><sheet name="Cut" sheetId="1" r:id="rA"/></sheets></workbook>`,
		"xl/_rels/workbook.xml.rels": `<Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships"><Relationship Id="rA" Type="http://schemas.openxmlformats.org/officeDocument/2006/relationships/worksheet" Target="worksheets/sheet1.xml"/></Relationships>`,
		"xl/worksheets/sheet1.xml":   `<worksheet xmlns="http://schemas.openxmlformats.org/spreadsheetml/2006/main"><sheetData>` + sheet + `</sheetData></worksheet>`,
	} {
		w, err := z.Create(name)
		require.NoError(t, err)
		_, err = w.Write([]byte(text))
		require.NoError(t, err)
	}
	require.NoError(t, z.Close())
	return b.Bytes()
}

func TestWorkbooksOfOthersAreTables(t *testing.T) {
	text := func(ref, s string) string { return `<c r="` + ref + `" t="inlineStr"><is><t>` + s + `</t></is></c>` }
	csv, err := Table(workbook(t, `<row r="1">`+text("A1", "Cut of Monday")+`</row><row r="3">`+text("A3", "Shot")+text("C3", "Length")+text("D3", "Notes")+`</row>
		<row r="4"><c r="A4"><v>10</v></c><c r="C4"><v>60</v></c>`+text("D4", "slower, &quot;please&quot;")+`</row>`))
	require.NoError(t, err)
	assert.Equal(t, "Cut of Monday\n\nShot,,Length,Notes\n10,,60,\"slower, \"\"please\"\"\"\n", string(csv))
	// Shot 010 has lost its zero, as spreadsheets do.
	d := scenetest.Small()
	listed, will, said, err := interchange.ReadShotList(d, "cut", csv)
	require.NoError(t, err)
	assert.Empty(t, said)
	require.Len(t, listed.Shots, 1)
	assert.Equal(t, "s1", listed.Shots[0].ID)
	assert.Equal(t, interchange.Change{What: "Shot 010, length", Was: "48 f", Is: "60 f"}, will[0])

	for _, wrong := range [][]byte{nil, []byte("Shot,Frames\n"), []byte("PK\x03\x04 and no more")} {
		_, err := Table(wrong)
		assert.ErrorIs(t, err, ErrTable)
	}
	_, err = Table(workbook(t, strings.Repeat(`<row>`+text("A1", strings.Repeat("x", 20<<10))+`</row>`, 1000)))
	assert.ErrorContains(t, err, "MB of text")
}

// TestOurSpreadsheetComesBack: nothing differs before somebody has written in it.
func TestOurSpreadsheetComesBack(t *testing.T) {
	d := scenetest.Rich()
	data, err := Make(context.Background(), d, "cut", Spreadsheet, func(int) (*image.RGBA, error) { return image.NewRGBA(image.Rect(0, 0, 16, 9)), nil })
	require.NoError(t, err)
	require.True(t, IsTable(data))
	csv, err := Table(data)
	require.NoError(t, err)
	_, _, _, err = interchange.ReadShotList(d, "cut", csv)
	assert.ErrorContains(t, err, "nothing in it differs from the cut")
	assert.NotContains(t, err.Error(), "Row")
	for id, s := range d.Shots {
		if s.Number == "010" {
			s.Notes = "another"
			d.PutShot(id, s)
		}
	}
	_, will, _, err := interchange.ReadShotList(d, "cut", csv)
	require.NoError(t, err)
	assert.Len(t, will, 1)
}

func FuzzTable(f *testing.F) {
	f.Add(workbook(f, `<row r="1"><c r="A1" t="inlineStr"><is><t>Shot</t></is></c><c r="C1"><v>4.5</v></c></row>`))
	f.Fuzz(func(t *testing.T, data []byte) {
		text, err := Table(data)
		if err == nil && len(text) > maxTableText+1<<20 {
			t.Fatalf("%d bytes of text", len(text))
		}
	})
}
