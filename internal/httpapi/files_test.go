package httpapi_test

import (
	"archive/zip"
	"bytes"
	"encoding/binary"
	"io"
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"proscen/core/scene"
	"proscen/core/scenetest"
	"proscen/internal/httpapi"
	"proscen/internal/media"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// tone is a WAV of a square wave.
func tone(seconds int) string {
	n := seconds * 8000
	b := append([]byte("RIFF"), binary.LittleEndian.AppendUint32(nil, uint32(36+2*n))...)
	b = append(b, "WAVEfmt \x10\x00\x00\x00\x01\x00\x01\x00\x40\x1f\x00\x00\x80\x3e\x00\x00\x02\x00\x10\x00data"...)
	b = binary.LittleEndian.AppendUint32(b, uint32(2*n))
	for i := range n {
		b = binary.LittleEndian.AppendUint16(b, uint16(int16(8000*(1-2*(i/20%2)))))
	}
	return string(b)
}

// raw asks for something that is no JSON.
func (r *rig) raw(path string) (int, http.Header, []byte) {
	r.t.Helper()
	resp, err := http.Get(r.server.URL + "/api" + path)
	require.NoError(r.t, err)
	defer func() { _ = resp.Body.Close() }()
	body, err := io.ReadAll(resp.Body)
	require.NoError(r.t, err)
	return resp.StatusCode, resp.Header, body
}

func TestSoundsAreKeptAndServed(t *testing.T) {
	r := newRig(t, false)
	var kept media.Sound
	require.Equal(t, 200, r.call("POST", "/sounds", tone(2), &kept))
	assert.Equal(t, 2.0, kept.Seconds)
	code, header, flac := r.raw("/sounds/" + kept.Blob)
	require.Equal(t, 200, code)
	assert.Equal(t, "audio/flac", header.Get("Content-Type"))
	assert.Contains(t, header.Get("Cache-Control"), "immutable")
	assert.Equal(t, "fLaC", string(flac[:4]))
	code, _, peaks := r.raw("/sounds/" + kept.Blob + "/peaks")
	require.Equal(t, 200, code)
	assert.Len(t, peaks, 200, "fifty pairs in a second")
	assert.InDelta(t, 8000/256, float64(int8(peaks[101])), 3)
	var p httpapi.Problem
	assert.Equal(t, 422, r.call("POST", "/sounds", "hello", &p))
	assert.Contains(t, p.Title, "no WAV, FLAC, MP3, Ogg or M4A")
	assert.Equal(t, 404, r.call("GET", "/sounds/"+strings.Repeat("a", 64), nil, &p))
	assert.Equal(t, 404, r.call("GET", "/sounds/..%2f..%2fx/peaks", nil, &p))
}

func TestFootageIsKeptAtTheSceneRate(t *testing.T) {
	r := newRig(t, false)
	file := filepath.Join(t.TempDir(), "f.mp4")
	out, err := exec.Command("ffmpeg", "-loglevel", "error", "-f", "lavfi", "-i", "testsrc=s=96x54:r=30:d=1", file).CombinedOutput()
	require.NoError(t, err, string(out))
	body, err := os.ReadFile(file)
	require.NoError(t, err)
	var kept media.Footage
	require.Equal(t, 200, r.call("POST", "/footage?rate=25", string(body), &kept))
	assert.Equal(t, media.Footage{Blob: kept.Blob, Width: 96, Height: 54, Frames: 25}, kept)
	code, header, _ := r.raw("/footage/" + kept.Blob)
	assert.Equal(t, 200, code)
	assert.Equal(t, "video/mp4", header.Get("Content-Type"))
	req, err := http.NewRequest("GET", r.server.URL+"/api/footage/"+kept.Blob, nil)
	require.NoError(t, err)
	req.Header.Set("Range", "bytes=0-99")
	resp, err := http.DefaultClient.Do(req)
	require.NoError(t, err)
	_ = resp.Body.Close()
	assert.Equal(t, 206, resp.StatusCode, "browsers seek in it")
	code, header, _ = r.raw("/footage/" + kept.Blob + "/picture")
	assert.Equal(t, 200, code)
	assert.Equal(t, "image/jpeg", header.Get("Content-Type"))
	var p httpapi.Problem
	assert.Equal(t, 400, r.call("POST", "/footage", string(body), &p))
	assert.Contains(t, p.Title, `the parameter "rate" is missing (Frames per second`)
	assert.Equal(t, 422, r.call("POST", "/footage?rate=often", string(body), &p))
	assert.Contains(t, p.Title, "say the rate of the scene")
	assert.Equal(t, 422, r.call("POST", "/footage?rate=24", "hello", &p))
	assert.Contains(t, p.Title, "no MP4, MOV")
	assert.Equal(t, 404, r.call("GET", "/footage/"+strings.Repeat("b", 64), nil, &p))
}

func TestPanelsComeFromAPDF(t *testing.T) {
	r := newRig(t, false)
	var p httpapi.Problem
	assert.Equal(t, 422, r.call("POST", "/panels", "hello", &p))
	assert.Contains(t, p.Title, "it is no PDF")
	assert.Equal(t, 422, r.call("POST", "/panels", "%PDF-1.4 and nothing", &p))
	assert.Contains(t, p.Title, "damaged")
}

func TestSheetsAreMadeFromWhatIsSaved(t *testing.T) {
	r := newRig(t, true)
	d := scenetest.Small()
	var kept httpapi.ImageInfo
	require.Equal(t, 200, r.call("POST", "/images", smallPNG(), &kept))
	s := d.Shots["s2"]
	s.Plays = scene.PlaysBoard
	d.Shots["s2"] = s
	d.Boards["b"] = scene.Board{Shot: "s2", Name: "b", Blob: kept.Blob, Width: kept.Width, Height: kept.Height}
	info := r.scene(d)
	made := func(kind string) (http.Header, []byte) {
		var d httpapi.Delivery
		require.Equal(t, 201, r.call("POST", "/scenes/"+info.Id+"/deliveries", m{"assembly": "cut", "sheet": kind}, &d))
		require.Len(t, d.Outputs, 1)
		assert.Equal(t, 3, d.Outputs[0].Frames, "a picture of each shot")
		d = r.await(info.Id, d.Id)
		require.EqualValues(t, "done", d.Outputs[0].State)
		code, header, body := r.raw("/outputs/" + d.Outputs[0].Id + "/file")
		require.Equal(t, 200, code, string(body))
		return header, body
	}
	header, body := made("xlsx")
	assert.Equal(t, `attachment; filename=t_cut_xlsx_v001.xlsx`, header.Get("Content-Disposition"))
	var table struct{ Text string }
	require.Equal(t, 200, r.call("POST", "/tables", string(body), &table))
	assert.Contains(t, table.Text, "\n,020,")
	var p httpapi.Problem
	assert.Equal(t, 422, r.call("POST", "/tables", "hello", &p))
	assert.Contains(t, p.Title, "save it as .xlsx or as CSV")
	z, err := zip.NewReader(bytes.NewReader(body), int64(len(body)))
	require.NoError(t, err)
	pictures := 0
	for _, f := range z.File {
		if strings.HasPrefix(f.Name, "xl/media/") {
			pictures++
		}
	}
	assert.GreaterOrEqual(t, pictures, 2, "equal pictures are kept once")
	header, body = made("storyboard")
	assert.Equal(t, "application/pdf", header.Get("Content-Type"))
	assert.Equal(t, "%PDF-", string(body[:5]))
	header, _ = made("storyboard")
	assert.Equal(t, `attachment; filename=t_cut_storyboard_v002.pdf`, header.Get("Content-Disposition"), "the next version")

	deliver := func(scene string, body m) string {
		assert.Contains(t, []int{422, 404}, r.call("POST", "/scenes/"+scene+"/deliveries", body, &p))
		return p.Title
	}
	assert.Contains(t, deliver(info.Id, m{"assembly": "cut", "sheet": "docx"}), "an xlsx, a list or a storyboard")
	assert.Contains(t, deliver(info.Id, m{"assembly": "none", "sheet": "list"}), "no such assembly")
	assert.Contains(t, deliver("none", m{"assembly": "cut", "sheet": "list"}), "cannot be found")
}
