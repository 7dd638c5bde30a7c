package turnover_test

import (
	"encoding/base64"
	"encoding/binary"
	"encoding/csv"
	"encoding/json"
	"fmt"
	"math"
	"regexp"
	"strconv"
	"strings"
	"testing"

	"proscen/core/edit"
	"proscen/core/interchange"
	"proscen/core/motion"
	"proscen/core/program"
	"proscen/core/scene"
	"proscen/core/scenetest"
	"proscen/core/session"
	"proscen/core/turnover"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// staged is the small scene, whose second camera stands at 8/96 metres a frame along its
// track, with a gap of ten frames before its last shot.
func staged() *session.Session {
	doc := scenetest.Small()
	s := doc.Shots["s3"]
	s.ScreenIn, s.ScreenOut = s.ScreenIn+10, s.ScreenOut+10
	doc.PutShot("s3", s)
	return session.Open(doc, nil)
}

func written(t *testing.T, s *session.Session, format string) string {
	t.Helper()
	w, err := turnover.WriteStage(s, "cut", format)
	require.NoError(t, err)
	assert.NotEmpty(t, w.Notes)
	return string(w.Data)
}

func TestCamerasAreWrittenFrameByFrame(t *testing.T) {
	rows, err := csv.NewReader(strings.NewReader(written(t, staged(), "moves"))).ReadAll()
	require.NoError(t, err)
	column := map[string]int{}
	for i, name := range rows[0] {
		column[name] = i
	}
	of := map[string][][]string{}
	for _, r := range rows[1:] {
		of[r[0]] = append(of[r[0]], r)
	}
	// The one camera performs all shots, and stays as it was in the gap.
	require.Len(t, of["cut"], 154)
	number := func(r []string, name string) float64 {
		v, err := strconv.ParseFloat(r[column[name]], 64)
		require.NoError(t, err)
		return v
	}
	for frame, want := range map[int]struct{ story, x float64 }{0: {0, 0}, 47: {47, 0}, 48: {40, 40 * 8.0 / 96}, 95: {87, 87 * 8.0 / 96}, 100: {87, 87 * 8.0 / 96}, 106: {80, 0}} {
		r := of["cut"][frame]
		assert.Equal(t, strconv.Itoa(frame), r[column["frame"]])
		assert.InDelta(t, want.story, number(r, "story frame"), 1e-6, "frame %d", frame)
		assert.InDelta(t, want.x, number(r, "x"), 1e-5, "frame %d", frame)
	}
	// 18 mm on 36 x 24 for a picture of 16:9: the gate is 36 x 20.25.
	assert.Equal(t, []string{"18", "36", "20.25"}, of["cut"][0][column["focal length"]:column["aperture height"]+1])
	// Each shot's own camera has its frames only.
	require.Len(t, of["shot 020 B"], 48)
	assert.Equal(t, []string{"020", "48", "00:00:02:00"}, of["shot 020 B"][0][1:4])
}

func TestCamerasComeBackFromTheirTable(t *testing.T) {
	s := staged()
	text := written(t, s, "moves")
	brought, err := interchange.ReadCut(s.Doc, "", []byte(text))
	require.NoError(t, err)
	assert.Equal(t, "cameraBring", brought.Operation)
	assert.Equal(t, []string{"The camera “cut” goes back and forth in the story; its keys are at the frames of the cut."}, brought.Notes)
	args, err := json.Marshal(brought.Args)
	require.NoError(t, err)
	doc := s.Doc.Clone()
	n := 0
	to := session.Open(doc, func() string { n++; return fmt.Sprintf("new%d", n) })
	_, err = to.Run("cameraBring", args)
	require.NoError(t, err)
	require.Empty(t, to.Doc.Validate())
	// The second shot's camera is where it was, at every frame of the story, with few keys.
	var id string
	for k, node := range to.Doc.Nodes {
		if node.Name == "shot 020 B" {
			id = k
		}
	}
	require.NotEmpty(t, id)
	for frame := 40.0; frame < 88; frame++ {
		st := to.Evaluate(frame)
		was, is := st.Cameras[to.CameraIndex("b")], st.Cameras[to.CameraIndex(id)]
		assert.InDeltaSlice(t, was.World[:], is.World[:], 2e-3, "frame %v", frame)
		assert.InDelta(t, was.HFov, is.HFov, 1e-3)
	}
	keys := 0
	for _, c := range to.Doc.Curves {
		if c.Node == id {
			keys += len(c.Keys)
		}
	}
	assert.Less(t, keys, 80, "of 48 frames in five rows")

	// As somebody else may write it, and as nobody can read it.
	doc = scenetest.Small()
	in, said, err := interchange.ReadMoves(doc, []byte("\xef\xbb\xbfZ,Camera,Frame,X,Y,Pan,Tilt,Roll\n1,Head,10,2,3,90,0,0\n1,Head,11,2,3.5,91,0,0\n"))
	require.NoError(t, err)
	assert.Empty(t, said)
	require.Len(t, in.Cameras, 1)
	assert.Equal(t, scene.Vec{2, 3.5, 1}, in.Cameras[0].Frames[1].Position)
	other, err := interchange.ReadCut(doc, "", []byte("Z,Camera,Frame,X,Y,Pan,Tilt,Roll\n1,Head,10,2,3,90,0,0\n"))
	require.NoError(t, err)
	assert.Equal(t, "cameraBring", other.Operation)
	for text, says := range map[string]string{
		"":                                   "cannot be read",
		"camera,shot,frame,x\n":              "no column “y”",
		"camera,frame,x,y,z,pan,tilt,roll\n": "no lines",
		"camera,frame,x,y,z,pan,tilt,roll\na,1,2,up,0,0,0,0\n":    "line 2, “up” of the column y",
		"camera,frame,x,y,z,pan,tilt,roll\na,1,2,NaN,0,0,0,0\n":   "is no number",
		"camera,frame,x,y,z,pan,tilt,roll\na,1,2\n":               "wrong number of fields",
		"camera,frame,x,y,z,pan,tilt,roll\na,1,1e300,0,0,0,0,0\n": "is no number from",
	} {
		_, _, err := interchange.ReadMoves(doc, []byte(text))
		assert.ErrorContains(t, err, says, text)
	}
}

// The camera that performs all shots comes back from the glTF file where it was.
func TestCamerasComeBackFromGLTF(t *testing.T) {
	s := staged()
	brought, err := interchange.ReadCut(s.Doc, "", []byte(written(t, s, "gltf")))
	require.NoError(t, err)
	in, ok := brought.Args.(edit.CameraBring)
	require.True(t, ok)
	names := []string{}
	for _, c := range in.Cameras {
		names = append(names, c.Name)
	}
	require.Equal(t, "cut", names[0])
	require.Contains(t, names, "shot 020 B")
	cut := s.ProgramOf("cut")
	var air program.Air
	for _, frame := range []int{0, 30, 60, 95, 130} {
		cut.At(float64(frame), &air)
		was := s.View(&air.Playing[0])
		is := in.Cameras[0].Frames[frame]
		at := was.World.Origin()
		assert.InDeltaSlice(t, []float64{at.X, at.Y, at.Z}, is.Position[:], 1e-4, "frame %d", frame)
		assert.InDeltaSlice(t, []float64{was.Pan, was.Tilt, was.Roll}, is.Turn[:], 1e-2, "frame %d", frame)
	}
	// 18 mm on the 36 mm that the wide format takes.
	assert.InDelta(t, 18, in.Cameras[0].Frames[0].Focal, 1e-4)
}

func TestUSDHasTheSetAndTheCameras(t *testing.T) {
	text := written(t, staged(), "usda")
	assert.True(t, strings.HasPrefix(text, "#usda 1.0\n"))
	assert.Equal(t, strings.Count(text, "{"), strings.Count(text, "}"))
	for _, line := range []string{"upAxis = \"Y\"", "metersPerUnit = 1", "endTimeCode = 153", "timeCodesPerSecond = 24", "def Camera \"cut\"", "def Camera \"shot_020_B\"", "def Mesh \"Box\" ("} {
		assert.Contains(t, text, line)
	}
	// Tenths of a unit: 18 mm are 0.018 m, or 0.18.
	camera := text[strings.Index(text, `def Camera "shot_020_B"`):]
	camera = camera[:strings.Index(camera, "\n    }\n")]
	assert.Contains(t, camera, "focalLength.timeSamples = {\n            48: 0.18,\n            95: 0.18,\n        }")
	assert.Contains(t, camera, "horizontalAperture.timeSamples = {\n            48: 0.36,")
	// The last row of its matrix is where it is; the third points against its view, from
	// the box.
	m := regexp.MustCompile(`\n +48: \( \(([^)]*)\), \(([^)]*)\), \(([^)]*)\), \(([^)]*)\) \)`).FindStringSubmatch(camera)
	require.NotNil(t, m)
	row := func(s string) (out [3]float64) {
		for i, v := range strings.Split(s, ", ")[:3] {
			out[i], _ = strconv.ParseFloat(v, 64)
		}
		return out
	}
	at, back := row(m[4]), row(m[3])
	assert.InDeltaSlice(t, []float64{40 * 8.0 / 96, 2, 0}, at[:], 1e-5)
	assert.Positive(t, back[2])
	assert.Positive(t, back[0], "it looks to the left, where the box is")
	assert.Equal(t, 48, strings.Count(camera[strings.Index(camera, "xformOp:transform"):], ": ( ("))
	// What stands still has one matrix, a walker has one for each frame.
	box := text[strings.Index(text, `def Mesh "Box" (`):]
	box = box[:strings.Index(box, "\n    }\n")]
	assert.Contains(t, box, "matrix4d xformOp:transform = ( (1, 0, 0, 0), (0, 1, 0, 0), (0, 0, 1, 0), (0, 0, -10, 1) )")
	walker := text[strings.Index(text, `def Mesh "Walker" (`):]
	assert.Equal(t, 154, strings.Count(walker[:strings.Index(walker, "\n    }\n")], ": ( ("))
}

func TestGLTFMovesTheCameraAsTheCutDoes(t *testing.T) {
	s := staged()
	var g struct {
		Buffers     []struct{ URI string }
		BufferViews []struct{ ByteOffset, ByteLength int }
		Accessors   []struct {
			BufferView, Count int
			Type              string
			Min, Max          []float64
		}
		Nodes []struct {
			Name   string
			Camera *int
			Mesh   *int
		}
		Cameras []struct {
			Perspective struct{ Yfov, AspectRatio float64 }
		}
		Animations []struct {
			Channels []struct {
				Sampler int
				Target  struct {
					Node int
					Path string
				}
			}
			Samplers []struct{ Input, Output int }
		}
	}
	require.NoError(t, json.Unmarshal([]byte(written(t, s, "gltf")), &g))
	data, err := base64.StdEncoding.DecodeString(strings.TrimPrefix(g.Buffers[0].URI, "data:application/octet-stream;base64,"))
	require.NoError(t, err)
	floats := func(accessor int) (out []float64) {
		a := g.Accessors[accessor]
		v := g.BufferViews[a.BufferView]
		for i := 0; i < v.ByteLength; i += 4 {
			out = append(out, float64(math.Float32frombits(binary.LittleEndian.Uint32(data[v.ByteOffset+i:]))))
		}
		return out
	}
	node := -1
	for i, n := range g.Nodes {
		if n.Name == "cut" {
			node = i
			assert.InDelta(t, 2*math.Atan(20.25/2/18), g.Cameras[*n.Camera].Perspective.Yfov, 1e-9)
			assert.InDelta(t, 16.0/9, g.Cameras[*n.Camera].Perspective.AspectRatio, 1e-9)
		}
	}
	require.GreaterOrEqual(t, node, 0)
	found := 0
	for _, c := range g.Animations[0].Channels {
		if c.Target.Node != node {
			continue
		}
		found++
		sampler := g.Animations[0].Samplers[c.Sampler]
		times, values := floats(sampler.Input), floats(sampler.Output)
		require.Len(t, times, 154)
		assert.InDelta(t, 60.0/24, times[60], 1e-6)
		var want motion.CameraState
		st := s.Evaluate(52)
		want = st.Cameras[s.CameraIndex("b")]
		at := want.World.Origin()
		switch c.Target.Path {
		case "translation":
			assert.InDeltaSlice(t, []float64{at.X, at.Y, at.Z}, values[3*60:3*60+3], 1e-5)
		case "rotation":
			// The camera looks along −Z turned by the quaternion.
			x, y, z, w := values[240], values[241], values[242], values[243]
			look := []float64{-2 * (x*z + y*w), -2 * (y*z - x*w), -(1 - 2*(x*x+y*y))}
			assert.InDeltaSlice(t, []float64{-want.World[2], -want.World[6], -want.World[10]}, look, 1e-5)
		}
	}
	assert.Equal(t, 2, found)
}

func TestWhatCannotBeBakedIsSaid(t *testing.T) {
	doc := scenetest.Small()
	s := session.Open(doc, nil)
	_, err := turnover.WriteStage(s, "none", "usda")
	assert.ErrorContains(t, err, "no such assembly")
	doc = scenetest.Small()
	for id, e := range doc.Shots {
		e.Plays, e.Camera = scene.PlaysBoard, ""
		doc.PutShot(id, e)
	}
	_, err = turnover.WriteStage(session.Open(doc, nil), "cut", "usda")
	assert.ErrorContains(t, err, "no camera is on air")
	doc.Shots = map[string]scene.Shot{}
	_, err = turnover.WriteStage(session.Open(doc, nil), "cut", "usda")
	assert.ErrorContains(t, err, "has no shots")
}
