package httpapi_test

import (
	"archive/zip"
	"bytes"
	"crypto/sha256"
	"encoding/binary"
	"encoding/hex"
	"encoding/json"
	"fmt"
	"image"
	"image/color"
	"image/png"
	"io"
	"net/http"
	"net/url"
	"os"
	"os/exec"
	"path"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"proscen/core/picture"
	"proscen/core/scene"
	"proscen/core/turnover"
	"proscen/internal/httpapi"
	"proscen/internal/sheets"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// made is the frames of an item as the core makes them, one after the other.
func made(t *testing.T, doc *scene.Document, o httpapi.Output, r scene.Recipe, at time.Time) []byte {
	t.Helper()
	var i turnover.Item
	require.NoError(t, json.Unmarshal(o.Item, &i))
	f, err := turnover.NewFilm(doc, picture.Files{}, i, r, turnover.Facts{Version: o.Version, Date: at}, 2)
	require.NoError(t, err)
	require.Equal(t, f.Frames(), o.Frames)
	var out []byte
	img := image.NewRGBA(image.Rect(0, 0, i.Width, i.Height))
	for n := range f.Frames() {
		require.NoError(t, f.Frame(n, img))
		out = append(out, img.Pix...)
	}
	return out
}

func TestEveryPackHoldsTheFramesAndTheSound(t *testing.T) {
	r := newRig(t, true)
	doc := short()
	doc.Formats["wide"] = scene.Format{Name: "small", Width: 96, Height: 54}
	var sound struct{ Blob string }
	require.Equal(t, 200, r.call("POST", "/sounds", tone(1), &sound))
	doc.Tracks["t"] = scene.Track{Name: "t", Clock: scene.StoryClock}
	doc.Sounds["tone"] = scene.Sound{Track: "t", Name: "tone", Blob: sound.Blob, Seconds: 1, In: 40, Out: 64} // shot 020 begins at 40
	doc.Lines["l"] = scene.Line{Cast: "walker", Text: "Here.", In: 45, Out: 55}
	info := r.scene(doc)
	doc = r.document(info.Id)
	recipe := scene.Recipe{
		Name: "all", Quality: scene.Check, Head: 6, Tail: 3, Slate: 2, Sound: true, Lines: scene.Beside,
		Burns: []scene.Burn{{Says: scene.SaysShot}, {Says: scene.SaysScreen, X: 1}, {Says: scene.SaysVersion, Y: 1}},
	}
	for _, pack := range scene.Packs {
		recipe.Pack = pack
		d := r.await(info.Id, r.deliver(info.Id, m{"assembly": "cut", "recipe": recipe, "shots": []string{"s2"}}).Id)
		o := d.Outputs[0]
		require.Equal(t, httpapi.OutputStateDone, o.State, "%s: %v", pack, o.Error)
		require.Equal(t, 2+6+48+3, o.Frames)
		file := r.dir + "/" + o.File
		var manifest httpapi.Manifest
		require.Equal(t, 200, r.call("GET", "/deliveries/"+d.Id+"/manifest", nil, &manifest))
		entry := manifest.Outputs[0]
		assert.Equal(t, []int{8, 3}, []int{*entry.Head, *entry.Tail})
		require.NotEmpty(t, entry.Beside)
		assert.True(t, strings.HasSuffix(entry.Beside[0].File, ".srt"))

		// All of it comes as a zip, in which every file is what the manifest says.
		code, header, body := r.raw("/deliveries/" + d.Id + "/files")
		require.Equal(t, 200, code)
		assert.Contains(t, header.Get("Content-Disposition"), ".zip")
		z, err := zip.NewReader(bytes.NewReader(body), int64(len(body)))
		require.NoError(t, err)
		inside := map[string][]byte{}
		for _, f := range z.File {
			open, err := f.Open()
			require.NoError(t, err)
			inside[f.Name], err = io.ReadAll(open)
			require.NoError(t, err)
		}
		assert.Contains(t, string(inside["manifest.json"]), *o.Sha256)
		for _, e := range entry.Beside {
			sum := sha256.Sum256(inside[e.File])
			assert.Equal(t, hex.EncodeToString(sum[:]), e.Sha256, e.File)
		}
		for _, line := range strings.Split(strings.TrimSpace(string(inside["checksums.sha256"])), "\n") {
			hash, name, ok := strings.Cut(line, "  ")
			require.True(t, ok, line)
			sum := sha256.Sum256(inside[name])
			assert.Equal(t, hash, hex.EncodeToString(sum[:]), name)
		}
		assert.Contains(t, string(inside["cut/cut_small.otio"]), strings.TrimPrefix(entry.File, "cut/"))
		assert.Contains(t, string(inside["cut/cut_small.edl"]), "* SOURCE FILE: "+strings.TrimPrefix(entry.File, "cut/"))
		// The line is heard five frames into the shot: after two of the slate and six before.
		assert.Contains(t, string(inside[entry.Beside[0].File]), "00:00:00,542 --> 00:00:00,958")

		if pack.Numbered() {
			assert.Equal(t, 59+7, len(inside), "pictures, lines, sound, manifest, two cut lists, shot list, checksums")
			name := path.Base(o.File)
			var pix []byte
			list := sha256.New()
			for n := range 59 {
				key := entry.File + "/" + name + "." + []string{"000", "00"}[min(1, (n+1)/10)] + itoa(n+1) + "." + pack.Ending()
				require.NotEmpty(t, inside[key], key)
				sum := sha256.Sum256(inside[key])
				_, _ = list.Write([]byte(hex.EncodeToString(sum[:]) + "  " + path.Base(key) + "\n"))
				if pack == scene.PNG {
					img, err := png.Decode(bytes.NewReader(inside[key]))
					require.NoError(t, err)
					pix = append(pix, img.(*image.RGBA).Pix...)
				}
			}
			assert.Equal(t, hex.EncodeToString(list.Sum(nil)), *o.Sha256)
			if pack == scene.PNG {
				assert.Empty(t, differing(made(t, doc, o, recipe, d.At), pix), "the pictures are those of the core")
			}
			rings(t, file+"/"+name+".wav")
			continue
		}
		probe, err := exec.Command("ffprobe", "-v", "error", "-count_frames", "-show_entries", "stream=codec_name,nb_read_frames,r_frame_rate", "-of", "csv=p=0", file).Output()
		require.NoError(t, err)
		streams := strings.Fields(string(probe))
		want := map[scene.Pack][2]string{scene.H264: {"h264", "aac"}, scene.VP9: {"vp9", "opus"}, scene.ProRes: {"prores", "pcm_s16le"}, scene.FFV1: {"ffv1", "flac"}}[pack]
		require.Len(t, streams, 2)
		assert.Equal(t, want[0]+",24/1,59", streams[0])
		assert.True(t, strings.HasPrefix(streams[1], want[1]+","), streams[1])
		if pack == scene.FFV1 {
			pix, err := exec.Command("ffmpeg", "-v", "error", "-i", file, "-f", "rawvideo", "-pix_fmt", "rgba", "-").Output()
			require.NoError(t, err)
			assert.Empty(t, differing(made(t, doc, o, recipe, d.At), pix), "without loss, the frames are those of the core")
			rings(t, file)
		}
	}
}

// differing lists the frames of 96 by 54 pixels in which two films differ.
func differing(a, b []byte) (out []int) {
	const size = 96 * 54 * 4
	for n := 0; n*size < max(len(a), len(b)); n++ {
		if (n+1)*size > min(len(a), len(b)) || !bytes.Equal(a[n*size:(n+1)*size], b[n*size:(n+1)*size]) {
			out = append(out, n)
		}
	}
	return out
}

// rings asserts that the tone is heard for its 24 frames after the eight of the slate and
// the head, in a file of 59 frames, and nowhere else.
func rings(t *testing.T, file string) {
	t.Helper()
	raw, err := exec.Command("ffmpeg", "-v", "error", "-i", file, "-map", "0:a", "-f", "s16le", "-ar", "48000", "-ac", "1", "-").Output()
	require.NoError(t, err)
	assert.InDelta(t, 59*2000, len(raw)/2, 2)
	first, last := -1, -1
	for i := 0; i+1 < len(raw); i += 2 {
		if v := int16(binary.LittleEndian.Uint16(raw[i:])); v > 4000 || v < -4000 {
			if first < 0 {
				first = i / 2
			}
			last = i / 2
		}
	}
	assert.InDelta(t, 8*2000, first, 130, "within the samples of one of the tone's waves")
	assert.InDelta(t, (8+24)*2000, last, 130)
}

func itoa(n int) string {
	b, _ := json.Marshal(n)
	return string(b)
}

func TestOnlyWhatAnEditTouchesIsOutOfDate(t *testing.T) {
	r := newRig(t, true)
	doc := short()
	for i, id := range []string{"s1", "s2", "s3"} { // short enough to be a part each
		s := doc.Shots[id]
		s.ScreenIn, s.ScreenOut = 8*i, 8*(i+1)
		doc.Shots[id] = s
	}
	doc.Formats["wide"] = scene.Format{Name: "small", Width: 64, Height: 36}
	doc.Formats["tall"] = scene.Format{Name: "tall", Width: 36, Height: 64}
	info := r.scene(doc)
	recipe := scene.Recipe{Name: "r", Pack: scene.H264, Quality: scene.Rough, Joined: true}
	order := turnover.Order{Assemblies: []string{"cut"}, Formats: []string{"wide", "tall"}, Each: true, Whole: true}
	d := r.await(info.Id, r.deliver(info.Id, m{"assembly": "cut", "recipe": recipe, "order": order}).Id)
	require.Len(t, d.Outputs, 8)
	look := func() httpapi.Outdated {
		var out httpapi.Outdated
		for range 50 {
			require.Equal(t, 200, r.call("GET", "/scenes/"+info.Id+"/outdated", nil, &out))
			if out.Waiting == 0 {
				break
			}
		}
		require.Zero(t, out.Waiting)
		return out
	}
	operate := func(operation string, args any) {
		t.Helper()
		require.Equal(t, 204, r.call("POST", "/scenes/"+info.Id+"/operations", m{"operation": operation, "arguments": args, "author": "Ida"}, nil))
	}
	assert.Empty(t, look().Outdated)
	operate("markerAdd", m{"clock": "screen", "frame": 3, "name": "look", "assembly": "cut"})
	operate("sceneRename", m{"title": "Another"})
	assert.Empty(t, look().Outdated, "what is not seen does not matter")

	operate("shotSlip", m{"ids": []string{"s2"}, "by": 5})
	var changed []string
	for _, id := range look().Outdated {
		for _, o := range d.Outputs {
			if o.Id == id {
				changed = append(changed, *o.Subject)
			}
		}
	}
	assert.ElementsMatch(t, []string{"shot cut s2 wide", "shot cut s2 tall", "cut cut wide", "cut cut tall"}, changed)

	var again httpapi.Delivery
	body := m{"assembly": "cut", "recipe": recipe, "order": order, "changed": true}
	require.Equal(t, 201, r.call("POST", "/scenes/"+info.Id+"/deliveries", body, &again))
	again = r.await(info.Id, again.Id)
	require.Len(t, again.Outputs, 4)
	for _, o := range again.Outputs {
		assert.Equal(t, 2, o.Version)
		assert.Contains(t, o.File, "_v002.mp4")
	}
	assert.Empty(t, look().Outdated)
	var p httpapi.Problem
	require.Equal(t, 422, r.call("POST", "/scenes/"+info.Id+"/deliveries", body, &p))
	assert.Contains(t, p.Title, "nothing has changed since")
	recipe.Quality = scene.Check
	body["recipe"] = recipe
	require.Equal(t, 201, r.call("POST", "/scenes/"+info.Id+"/deliveries", body, &again), "another recipe makes something else")
	assert.Len(t, r.await(info.Id, again.Id).Outputs, 8)

	// Another size is something else too; what is not known is refused.
	recipe.Quality = scene.Rough
	body["recipe"], body["width"], body["height"] = recipe, 32, 18
	require.Equal(t, 201, r.call("POST", "/scenes/"+info.Id+"/deliveries", body, &again))
	assert.Len(t, r.await(info.Id, again.Id).Outputs, 8)
	for field, wrong := range map[string]string{"recipe": `{"name":"r","pack":"h264","quality":"check","handles":8}`, "order": `{"each":true,"shot":["s1"]}`} {
		require.Equal(t, 422, r.call("POST", "/scenes/"+info.Id+"/deliveries", `{"assembly":"cut","`+field+`":`+wrong+`}`, &p))
		assert.Contains(t, p.Title, "unknown field")
	}

	// What is not there any more is neither.
	operate("shotRemove", m{"ids": []string{"s3"}})
	out := look()
	assert.NotEmpty(t, out.Gone)
	// Its frames, and with them the whole cut's, are fewer.
	assert.NotEmpty(t, out.Outdated)
}

func TestSetAndCamerasAreWrittenByTheServer(t *testing.T) {
	r := newRig(t, false)
	info := r.scene(short())
	for format, begins := range map[string]string{"usda": "#usda 1.0", "gltf": `{"accessors"`, "moves": "camera,shot,frame"} {
		code, header, body := r.raw("/scenes/" + info.Id + "/stage?assembly=cut&format=" + format)
		require.Equal(t, 200, code)
		assert.True(t, strings.HasPrefix(string(body), begins), format)
		assert.Contains(t, header.Get("Content-Disposition"), "t_cut.")
		said, err := url.PathUnescape(header.Get("Proscen-Notes"))
		require.NoError(t, err)
		var notes []string
		require.NoError(t, json.Unmarshal([]byte(said), &notes))
		assert.NotEmpty(t, notes)
	}
	for path, want := range map[string]int{"?assembly=none&format=usda": 422, "?assembly=cut&format=fbx": 400, "?format=usda": 400} {
		code, _, _ := r.raw("/scenes/" + info.Id + "/stage" + path)
		assert.Equal(t, want, code, path)
	}
	// What is to be made next is told, and made before others.
	d := r.deliver(info.Id, m{"assembly": "cut"})
	require.Equal(t, 200, r.call("POST", "/deliveries/"+d.Id+"/first", nil, nil))
	var first int
	require.NoError(t, r.store.Pool.QueryRow(t.Context(), "select count(*) from river_job where priority = 1 and kind = 'render_output'").Scan(&first))
	assert.Equal(t, 3, first)
	assert.Equal(t, 404, r.call("POST", "/deliveries/none/first", nil, &httpapi.Problem{}))
}

// TestPassesAreDeliveredBesideTheirPicture delivers a shot with two passes: each is a
// folder of pictures of its own, stands in the manifest and comes in the zip; the edit
// list knows of the video alone.
func TestPassesAreDeliveredBesideTheirPicture(t *testing.T) {
	r := newRig(t, true)
	info := r.scene(short())
	recipe := m{"name": "passes", "pack": "h264", "quality": "rough", "scale": 0.1, "passes": []string{"depth", "matte"}}
	d := r.deliver(info.Id, m{"assembly": "cut", "order": m{"shots": []string{"s1"}, "each": true}, "recipe": recipe})
	d = r.await(info.Id, d.Id)
	require.Len(t, d.Outputs, 3)
	kinds := []httpapi.OutputKind{}
	for _, o := range d.Outputs {
		require.Equal(t, httpapi.OutputStateDone, o.State, "%v", o.Error)
		kinds = append(kinds, o.Kind)
	}
	assert.Equal(t, []httpapi.OutputKind{"video", "pictures", "pictures"}, kinds)
	var manifest httpapi.Manifest
	require.Equal(t, 200, r.call("GET", "/deliveries/"+d.Id+"/manifest", nil, &manifest))
	require.Len(t, manifest.Outputs, 3)
	assert.Nil(t, manifest.Outputs[0].Pass)
	assert.Equal(t, "depth", *manifest.Outputs[1].Pass)
	assert.Equal(t, manifest.Outputs[0].Frames, manifest.Outputs[1].Frames)
	_, _, body := r.raw("/deliveries/" + d.Id + "/files")
	z, err := zip.NewReader(bytes.NewReader(body), int64(len(body)))
	require.NoError(t, err)
	count := map[string]int{}
	for _, f := range z.File {
		count[path.Ext(f.Name)]++
	}
	assert.Equal(t, 2*manifest.Outputs[1].Frames, count[".exr"])
	assert.Equal(t, []int{1, 1, 1}, []int{count[".mp4"], count[".otio"], count[".edl"]})
	// What has been delivered like this is not made again; another pass is.
	var p httpapi.Problem
	again := m{"assembly": "cut", "order": m{"shots": []string{"s1"}, "each": true}, "recipe": recipe, "changed": true}
	assert.Equal(t, 422, r.call("POST", "/scenes/"+info.Id+"/deliveries", again, &p), p.Title)
	recipe["passes"] = []string{"depth", "matte", "normal"}
	more := r.await(info.Id, r.deliver(info.Id, again).Id)
	found := map[string]bool{}
	for _, o := range more.Outputs {
		var item turnover.Item
		require.NoError(t, json.Unmarshal(o.Item, &item))
		found[string(item.Pass)] = true
	}
	assert.True(t, found["normal"])
}

// TestFilesOfAnotherRate delivers a shot at another rate than the scene's: video, sound
// and lists last as long as the shot, and what compares frame by frame says that it cannot.
func TestFilesOfAnotherRate(t *testing.T) {
	r := newRig(t, true)
	info := r.scene(short())
	recipe := m{"name": "thirty", "pack": "h264", "quality": "rough", "scale": 0.1, "rate": "30", "head": 4, "tail": 4}
	d := r.await(info.Id, r.deliver(info.Id, m{"assembly": "cut", "order": m{"shots": []string{"s1"}, "each": true}, "recipe": recipe}).Id)
	require.Equal(t, httpapi.OutputStateDone, d.Outputs[0].State, "%v", d.Outputs[0].Error)
	assert.Equal(t, "30", d.Rate)
	var i turnover.Item
	require.NoError(t, json.Unmarshal(d.Outputs[0].Item, &i))
	assert.InDelta(t, 0.8, i.Pace, 1e-12)
	of := i.Out - i.In + i.Head + i.Tail
	assert.Equal(t, (of*30+23)/24, d.Outputs[0].Frames)
	out, err := exec.Command("ffprobe", "-v", "error", "-count_frames", "-select_streams", "v:0", "-show_entries", "stream=r_frame_rate,nb_read_frames", "-of", "csv=p=0", filepath.Join(r.dir, d.Outputs[0].File)).Output()
	require.NoError(t, err)
	assert.Equal(t, fmt.Sprintf("30/1,%d", d.Outputs[0].Frames), strings.TrimSpace(string(out)))
	var p httpapi.Problem
	recipe["rate"] = "no rate"
	assert.Equal(t, 422, r.call("POST", "/scenes/"+info.Id+"/deliveries", m{"assembly": "cut", "order": m{"each": true}, "recipe": recipe}, &p))
	assert.Contains(t, p.Title, "rate")
}

// TestThePullListIsPrinted asks for the pages, and for what is not there.
func TestThePullListIsPrinted(t *testing.T) {
	r := newRig(t, false)
	info := r.scene(short())
	code, header, body := r.raw("/scenes/" + info.Id + "/pulls?assembly=cut&head=8&tail=8")
	require.Equal(t, 200, code)
	assert.Equal(t, "application/pdf", header.Get("Content-Type"))
	assert.True(t, bytes.HasPrefix(body, []byte("%PDF-")))
	code, _, body = r.raw("/scenes/" + info.Id + "/pulls?assembly=cut&head=-1")
	assert.Equal(t, 400, code)
	assert.Contains(t, string(body), "at least 0")
	code, _, _ = r.raw("/scenes/" + info.Id + "/pulls?assembly=nowhere")
	assert.Equal(t, 404, code)
}

// TestAFrameIsWhatWouldBeDelivered compares frames that are asked for with delivered
// stills, of the cut in two shapes and of a camera by itself.
func TestAFrameIsWhatWouldBeDelivered(t *testing.T) {
	r := newRig(t, true)
	doc := short()
	doc.Formats["square"] = scene.Format{Name: "square", Width: 320, Height: 320}
	wide := doc.Formats["wide"]
	wide.Width, wide.Height = 320, 180
	doc.Formats["wide"] = wide
	info := r.scene(doc)
	camera := ""
	for _, s := range doc.Shots {
		camera = max(camera, s.Camera)
	}
	decode := func(body []byte) image.Image {
		im, err := png.Decode(bytes.NewReader(body))
		require.NoError(t, err)
		return im
	}
	for _, c := range []struct {
		query, format string
		spot          m
	}{
		{"frame=3", "wide", m{"frame": 3}},
		{"frame=3&format=square", "square", m{"frame": 3}},
		{"frame=3&format=square&width=320&height=320", "square", m{"frame": 3}},
		{"frame=5&camera=" + camera, "wide", m{"frame": 5, "camera": camera}},
	} {
		d := r.await(info.Id, r.deliver(info.Id, m{"assembly": "cut", "order": m{"assemblies": []string{"cut"}, "formats": []string{c.format}, "spots": []m{c.spot}},
			"recipe": m{"name": "stills", "pack": "png", "quality": "check"}}).Id)
		require.Len(t, d.Outputs, 1)
		want, err := os.ReadFile(filepath.Join(r.dir, d.Outputs[0].File))
		require.NoError(t, err)
		code, header, body := r.raw("/scenes/" + info.Id + "/frame?assembly=cut&" + c.query)
		require.Equal(t, 200, code, string(body))
		assert.Equal(t, "image/png", header.Get("Content-Type"))
		a, b := decode(want), decode(body)
		require.Equal(t, a.Bounds(), b.Bounds(), c.query)
		for y := range a.Bounds().Dy() {
			for x := range a.Bounds().Dx() {
				require.Equal(t, color.RGBAModel.Convert(a.At(x, y)), color.RGBAModel.Convert(b.At(x, y)), "%s at %d %d", c.query, x, y)
			}
		}
	}
	for query, says := range map[string]string{ // 400 by the contract, 422 by the scene
		"assembly=nowhere&frame=1": "assembly", "assembly=cut&frame=1&format=no": "format", "assembly=cut&frame=1&camera=no": "camera",
		"assembly=cut": "frame", "assembly=cut&frame=x": "frame", "assembly=cut&frame=1&quality=best": "quality", "assembly=cut&frame=999999": "no shot plays there",
		"assembly=cut&frame=1&width=320": "size", "assembly=cut&frame=1&width=321&height=180": "size", "assembly=&frame=1": "assembly",
	} {
		code, _, body := r.raw("/scenes/" + info.Id + "/frame?" + query)
		assert.Contains(t, []int{400, 422}, code, query)
		assert.Contains(t, string(body), says, query)
	}
	code, _, _ := r.raw("/scenes/01ARZ3NDEKTSV4RRFFQ69G5FAV/frame?assembly=cut&frame=1")
	assert.Equal(t, 404, code)
}

// TestStillsHaveAContactSheet delivers stills in two shapes, of which the sheet comes by
// itself, in the folder and in the zip; a delivery of videos has none.
func TestStillsHaveAContactSheet(t *testing.T) {
	r := newRig(t, true)
	doc := short()
	doc.Formats["square"] = scene.Format{Name: "square", Width: 640, Height: 640}
	info := r.scene(doc)
	d := r.await(info.Id, r.deliver(info.Id, m{"assembly": "cut", "order": m{"assemblies": []string{"cut"}, "formats": []string{"wide", "square"}, "stills": []string{"first", "last"}, "size": []int{64, 36}},
		"recipe": m{"name": "stills", "pack": "png", "quality": "rough"}}).Id)
	require.Len(t, d.Outputs, 12)
	code, header, body := r.raw("/deliveries/" + d.Id + "/contact")
	require.Equal(t, 200, code, string(body))
	assert.Contains(t, header.Get("Content-Disposition"), "delivery-001_contact-sheet.pdf")
	file := filepath.Join(t.TempDir(), "sheet.pdf")
	require.NoError(t, os.WriteFile(file, body, 0o600))
	text, err := exec.Command("pdftotext", "-layout", file, "-").Output()
	require.NoError(t, err)
	for _, o := range d.Outputs {
		assert.Contains(t, string(text), strings.TrimSuffix(path.Base(o.File), ".png")[:12])
	}
	assert.Contains(t, string(text), "camera 2 B")
	require.Eventually(t, func() bool { _, err := os.Stat(filepath.Join(r.dir, d.Folder, "contact-sheet.pdf")); return err == nil }, 10*time.Second, 50*time.Millisecond)
	code, _, body = r.raw("/deliveries/" + d.Id + "/files")
	require.Equal(t, 200, code)
	z, err := zip.NewReader(bytes.NewReader(body), int64(len(body)))
	require.NoError(t, err)
	names := []string{}
	for _, f := range z.File {
		names = append(names, f.Name)
	}
	assert.Contains(t, names, "contact-sheet.pdf")

	// A recipe for videos makes pictures of stills, too, and videos of shots.
	mixed := r.await(info.Id, r.deliver(info.Id, m{"assembly": "cut", "order": m{"assemblies": []string{"cut"}, "shots": []string{"s1"}, "each": true, "stills": []string{"middle"}, "size": []int{64, 36}},
		"recipe": m{"name": "to look at", "pack": "h264", "quality": "rough", "sound": true}}).Id)
	kinds := map[httpapi.OutputKind]string{}
	for _, o := range mixed.Outputs {
		kinds[o.Kind] = path.Ext(o.File)
		if o.Kind == httpapi.OutputKindPicture {
			body, err := os.ReadFile(filepath.Join(r.dir, o.File))
			require.NoError(t, err)
			c, err := png.DecodeConfig(bytes.NewReader(body))
			require.NoError(t, err)
			assert.Equal(t, 64, c.Width)
		}
	}
	assert.Equal(t, map[httpapi.OutputKind]string{httpapi.OutputKindVideo: ".mp4", httpapi.OutputKindPicture: ".png"}, kinds)
	code, _, _ = r.raw("/deliveries/" + mixed.Id + "/contact")
	assert.Equal(t, 200, code)

	videos := r.await(info.Id, r.deliver(info.Id, m{"assembly": "cut", "shots": []string{"s1"}, "quality": "rough", "width": 64, "height": 36}).Id)
	code, _, body = r.raw("/deliveries/" + videos.Id + "/contact")
	assert.Equal(t, 404, code)
	assert.Contains(t, string(body), "no finished stills")
	assert.NoFileExists(t, filepath.Join(r.dir, videos.Folder, "contact-sheet.pdf"))
}

// TestWhatTheServerMakesIsOfTheAlternate asks for sheets, sets, a frame and a pull
// list of an alternate without the first shot, and of one that is not there.
func TestWhatTheServerMakesIsOfTheAlternate(t *testing.T) {
	r := newRig(t, true)
	doc := short()
	doc.Alternates["night"] = scene.Alternate{Name: "Night"}
	gone := scene.Difference{Alternate: "night", Collection: "shots", Thing: "s1", What: scene.Removed}
	doc.Differences[scene.DifferenceID("night", "shots", "s1")] = gone
	info := r.scene(doc)
	for _, path := range []string{"stage?assembly=cut&format=moves", "pulls?assembly=cut", "frame?assembly=cut&frame=0"} {
		code, plain, body := r.raw("/scenes/" + info.Id + "/" + path)
		require.Equal(t, 200, code, path+string(body))
		code, other, night := r.raw("/scenes/" + info.Id + "/" + path + "&alternate=night")
		if strings.HasPrefix(path, "frame") {
			assert.NotEqual(t, 200, code, "no shot plays there")
		} else {
			require.Equal(t, 200, code, path+string(night))
			assert.NotEqual(t, body, night, path)
			assert.NotContains(t, plain.Get("Content-Disposition"), "night")
			assert.Contains(t, other.Get("Content-Disposition"), "night")
		}
		code, _, body = r.raw("/scenes/" + info.Id + "/" + path + "&alternate=gone")
		assert.Equal(t, 422, code, path)
		assert.Contains(t, string(body), "no such alternate")
	}
	d := r.deliver(info.Id, m{"assembly": "cut", "sheet": "xlsx", "alternate": "night"})
	assert.Equal(t, 2, d.Outputs[0].Frames, "a picture of each shot that is left")
	d = r.await(info.Id, d.Id)
	require.EqualValues(t, "done", d.Outputs[0].State)
	assert.Contains(t, d.Outputs[0].File, "t-night_cut_xlsx_v001")
	var no httpapi.Problem
	assert.Equal(t, 422, r.call("POST", "/scenes/"+info.Id+"/deliveries", m{"assembly": "cut", "sheet": "xlsx", "alternate": "gone"}, &no))

	recipe := m{"name": "r", "pack": "h264", "quality": "rough", "scale": 0.1}
	d = r.deliver(info.Id, m{"assembly": "cut", "order": m{"shots": []string{"020"}, "each": true, "alternates": []string{"", "night"}}, "recipe": recipe})
	r.await(info.Id, d.Id)
	var manifest httpapi.Manifest
	require.Equal(t, 200, r.call("GET", "/deliveries/"+d.Id+"/manifest", nil, &manifest))
	require.Len(t, manifest.Outputs, 2)
	assert.Nil(t, manifest.Outputs[0].Alternate)
	assert.Equal(t, "Night", *manifest.Outputs[1].Alternate)
}

// TestPicturesBesideEachOther asks for a sheet of alternates, formats and a camera: each is
// the frame that is asked for by itself, in its place.
func TestPicturesBesideEachOther(t *testing.T) {
	r := newRig(t, false)
	doc := short()
	doc.Formats["square"] = scene.Format{Name: "square", Width: 320, Height: 320}
	doc.Alternates["dusk"] = scene.Alternate{Name: "dusk"}
	doc.Differences[scene.DifferenceID("dusk", "settings", "settings")] = scene.Difference{
		Alternate: "dusk", Collection: "settings", Thing: "settings", What: scene.Changed, Fields: scene.Fields{"sun": map[string]any{"height": 4.0}},
	}
	info := r.scene(doc)
	ask := func(as string, pictures ...m) (*http.Response, []byte) {
		body, err := json.Marshal(m{"as": as, "pictures": pictures})
		require.NoError(t, err)
		res, err := http.Post(r.server.URL+"/api/scenes/"+info.Id+"/beside", "application/json", bytes.NewReader(body))
		require.NoError(t, err)
		defer func() { _ = res.Body.Close() }()
		out, err := io.ReadAll(res.Body)
		require.NoError(t, err)
		return res, out
	}
	all := []m{{"assembly": "cut", "frame": 3}, {"assembly": "cut", "frame": 3, "alternate": "dusk"}, {"assembly": "cut", "frame": 3, "format": "square"}}
	res, body := ask("png", all...)
	require.Equal(t, 200, res.StatusCode, string(body))
	assert.Contains(t, res.Header.Get("Content-Disposition"), "_side-by-side.png")
	sheet, err := png.Decode(bytes.NewReader(body))
	require.NoError(t, err)
	wide := doc.Formats["wide"]
	w, h := sheets.GridSize(wide)
	code, _, one := r.raw(fmt.Sprintf("/scenes/%s/frame?assembly=cut&frame=3&alternate=dusk&width=%d&height=%d", info.Id, w, h))
	require.Equal(t, 200, code)
	dusk, err := png.Decode(bytes.NewReader(one))
	require.NoError(t, err)
	// Two columns of cells as high as the square picture: the second picture is in the middle of its own.
	left, top := 2*16+w, 16+(640-h)/2
	same, day := 0, 0
	for y := 0; y < h; y += 5 {
		for x := 0; x < w; x += 5 {
			at := color.RGBAModel.Convert(dusk.At(x, y))
			if at == color.RGBAModel.Convert(sheet.At(left+x, top+y)) {
				same++
			}
			if at == color.RGBAModel.Convert(sheet.At(16+x, top+y)) {
				day++
			}
		}
	}
	assert.Equal(t, ((w+4)/5)*((h+4)/5), same, "the frame is that of the alternate")
	assert.Less(t, day, same, "and not that of the scene")

	res, body = ask("pdf", all...)
	require.Equal(t, 200, res.StatusCode)
	assert.Equal(t, "application/pdf", res.Header.Get("Content-Type"))
	assert.True(t, bytes.HasPrefix(body, []byte("%PDF-")))
	for says, p := range map[string]m{
		"picture 1: there is no such alternate": {"assembly": "cut", "frame": 3, "alternate": "gone"},
		"picture 1: there is no such assembly":  {"assembly": "gone", "frame": 3},
		"no such format":                        {"assembly": "cut", "frame": 3, "format": "gone"},
		"no shot plays there":                   {"assembly": "cut", "frame": 99999},
	} {
		res, body = ask("png", p)
		assert.Equal(t, 422, res.StatusCode, says)
		assert.Contains(t, string(body), says)
	}
	_, body = ask("png")
	assert.Contains(t, string(body), "1 to 60 pictures, not 0")
	_, body = ask("gif", all[0])
	assert.Contains(t, string(body), "a png or a pdf")
}

// TestWhatIsTheSameInAlternatesIsMadeOnce delivers two shots in the scene and in an alternate
// that differs in one of them.
func TestWhatIsTheSameInAlternatesIsMadeOnce(t *testing.T) {
	r := newRig(t, true)
	doc := short()
	doc.Alternates["dusk"] = scene.Alternate{Name: "dusk"}
	seen := map[string]bool{}
	for _, s := range doc.Shots {
		seen[s.Number] = true
	}
	require.True(t, seen["010"] && seen["020"])
	layer := "dusk@s2"
	doc.Differences[scene.DifferenceID(layer, "settings", "settings")] = scene.Difference{
		Alternate: layer, Collection: "settings", Thing: "settings", What: scene.Changed, Fields: scene.Fields{"sun": map[string]any{"height": 4.0}},
	}
	info := r.scene(doc)
	deliver := func(recipe m) map[string]httpapi.Output {
		recipe["name"], recipe["pack"], recipe["quality"] = "r", "h264", "rough"
		order := m{"assemblies": []string{"cut"}, "shots": []string{"010", "020"}, "each": true, "alternates": []string{"", "dusk"}}
		out := map[string]httpapi.Output{}
		for _, o := range r.await(info.Id, r.deliver(info.Id, m{"assembly": "cut", "order": order, "recipe": recipe}).Id).Outputs {
			require.EqualValues(t, "done", o.State)
			item := struct{ Alternate string }{}
			require.NoError(t, json.Unmarshal(o.Item, &item))
			out[o.Number+" "+item.Alternate] = o
		}
		require.Len(t, out, 4)
		return out
	}
	same := func(all map[string]httpapi.Output) (out []string) {
		for of, o := range all {
			if o.Same != nil {
				out = append(out, of)
				assert.Equal(t, all["010 "].Id, *o.Same)
			}
		}
		return out
	}
	plain := deliver(m{"lines": "file"})
	assert.Equal(t, []string{"010 dusk"}, same(plain))
	assert.Equal(t, *plain["010 "].Sha256, *plain["010 dusk"].Sha256)
	assert.NotEqual(t, *plain["020 "].Sha256, *plain["020 dusk"].Sha256)
	assert.Contains(t, plain["010 dusk"].File, "_dusk_v001")
	for _, o := range plain {
		_, err := os.Stat(filepath.Join(r.dir, o.File))
		assert.NoError(t, err)
	}
	// Its version stands in the pictures: each is made for itself.
	assert.Empty(t, same(deliver(m{"burns": []m{{"says": "version"}}})))
}
