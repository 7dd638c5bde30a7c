package interchange_test

import (
	"encoding/base64"
	"encoding/binary"
	"encoding/json"
	"fmt"
	"math"
	"strings"
	"testing"

	"proscen/core/interchange"
	"proscen/core/scenetest"
	"proscen/core/session"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// byHand is a glTF 2.0 file as its specification describes it: a camera that hangs on a
// boom, turned by 90° about Y, which goes 2.4 m along −Z in a second; another one that
// stands, and one without a perspective.
func byHand() string {
	var b []byte
	for _, v := range []float32{0, 1, 0, 1, 0, 0, 1, -2.4} { // two times, two places
		b = binary.LittleEndian.AppendUint32(b, math.Float32bits(v))
	}
	return fmt.Sprintf(`{"asset":{"version":"2.0","generator":"by hand"},"scene":0,"scenes":[{"nodes":[0,2,3]}],
"nodes":[{"name":"boom","children":[1]},{"name":"head","camera":0,"translation":[0,0.5,0],"rotation":[0,0.70710678,0,0.70710678]},
{"camera":1,"translation":[3,2,1]},{"name":"flat","camera":2}],
"cameras":[{"type":"perspective","perspective":{"yfov":0.6,"aspectRatio":1.5,"znear":0.1}},
{"name":"still","type":"perspective","perspective":{"yfov":0.4,"znear":0.1}},{"type":"orthographic","orthographic":{"xmag":1,"ymag":1,"zfar":9,"znear":0.1}}],
"animations":[{"channels":[{"sampler":0,"target":{"node":0,"path":"translation"}}],"samplers":[{"input":0,"output":1}]}],
"accessors":[{"bufferView":0,"componentType":5126,"count":2,"type":"SCALAR","min":[0],"max":[1]},{"bufferView":1,"componentType":5126,"count":2,"type":"VEC3"}],
"bufferViews":[{"buffer":0,"byteLength":8},{"buffer":0,"byteOffset":8,"byteLength":24}],
"buffers":[{"byteLength":32,"uri":"data:application/octet-stream;base64,%s"}]}`, base64.StdEncoding.EncodeToString(b))
}

func TestCamerasOfAFileByHand(t *testing.T) {
	doc := scenetest.Small()
	doc.Settings.Story.In = 10
	in, said, err := interchange.ReadGLTFCameras(doc, []byte(byHand()))
	require.NoError(t, err)
	require.Len(t, in.Cameras, 2)
	assert.Contains(t, strings.Join(said, "\n"), "“flat” has no perspective")
	head, still := in.Cameras[0], in.Cameras[1]
	assert.Equal(t, []string{"head", "still"}, []string{head.Name, still.Name})
	require.Len(t, head.Frames, 25, "a second at 24 frames and its end")
	for n, f := range head.Frames {
		assert.Equal(t, float64(10+n), f.Frame)
		assert.InDeltaSlice(t, []float64{0, 1.5, -0.1 * float64(n)}, f.Position[:], 1e-5, "frame %d", n)
		assert.InDeltaSlice(t, []float64{90, 0, 0}, f.Turn[:], 1e-4)
	}
	// Half of the angle upwards is 0.3: the sensor of 36 mm is 24 mm high for 1.5:1.
	assert.InDelta(t, 12/math.Tan(0.3), head.Frames[0].Focal, 1e-9)
	assert.InDelta(t, 36*9/32.0/math.Tan(0.2), still.Frames[0].Focal, 1e-9, "without an aspect, that of the format that is worked in")
	assert.Equal(t, still.Frames[0].Position, still.Frames[24].Position)

	two := strings.Replace(byHand(), `"animations":[{"ch`, `"animations":[{"name":"out","channels":[{"sampler":0,"target":{"node":1,"path":"translation"}}],"samplers":[{"input":0,"output":1}]},{"ch`, 1)
	_, said, err = interchange.ReadGLTFCameras(doc, []byte(two))
	require.NoError(t, err)
	assert.Contains(t, strings.Join(said, "\n"), "Of 2 animations that move cameras the first, “out”, was taken.")

	brought, err := interchange.ReadCut(doc, "", []byte(byHand()))
	require.NoError(t, err)
	assert.Equal(t, "cameraBring", brought.Operation)
	for change, says := range map[[2]string]string{
		{`"camera":1,`, `"camera":7,`}:                          "camera 7, which is not there",
		{`"count":2,"type":"VEC3"`, `"count":99,"type":"VEC3"`}: "99",
		{`"perspective","perspective"`, `"other","x"`}:          "no camera with a perspective",
		{`"yfov":0.6`, `"yfov":-1`}:                             "",
		{`application/octet-stream;base64,`, `x`}:               "",
		{`"version":"2.0"`, `"version":"1.0"`}:                  "version 2 is read",
	} {
		text := strings.ReplaceAll(byHand(), change[0], change[1])
		require.NotEqual(t, byHand(), text)
		_, _, err := interchange.ReadGLTFCameras(doc, []byte(text))
		if says != "" {
			assert.ErrorContains(t, err, says)
		}
	}
	_, _, err = interchange.ReadGLTFCameras(doc, []byte("glTF and no more"))
	assert.ErrorContains(t, err, "ends after")
}

func FuzzReadGLTFCameras(f *testing.F) {
	f.Add([]byte(byHand()))
	f.Add([]byte(`{"asset":{"version":"2.0"},"nodes":[{"camera":0,"translation":[1,2,3]}],"cameras":[{"type":"perspective","perspective":{"yfov":0.5}}]}`))
	f.Fuzz(func(t *testing.T, data []byte) {
		doc := scenetest.Small()
		in, _, err := interchange.ReadGLTFCameras(doc, data)
		if err != nil {
			return
		}
		// What is read can be brought in, or is refused with a sentence.
		body, err := json.Marshal(in)
		require.NoError(t, err)
		s := session.Open(doc, newIDs())
		_, _ = s.Run("cameraBring", body)
		require.Empty(t, s.Doc.Validate())
	})
}

func FuzzReadMoves(f *testing.F) {
	f.Add([]byte("Z,Camera,Frame,X,Y,Pan,Tilt,Roll\n1,Head,10,2,3,90,0,0\n1,Head,11,2,3.5,91,0,0\n"))
	f.Add([]byte("camera,frame,x,y,z,pan,tilt,roll,focal length,focus,stop,aperture width,story frame\n\"A, b\",0,1,2,3,4,5,6,35,4,2.8,24,7\n"))
	f.Fuzz(func(t *testing.T, data []byte) {
		d := scenetest.Small()
		in, _, err := interchange.ReadMoves(d, data)
		if err == nil {
			fits(t, d, "cameraBring", in)
		}
	})
}

func newIDs() func() string {
	n := 0
	return func() string { n++; return fmt.Sprintf("new%d", n) }
}
