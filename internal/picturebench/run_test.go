package picturebench

import (
	"context"
	"encoding/base64"
	"encoding/binary"
	"fmt"
	"image/png"
	"math"
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// square is a model by hand: two metres wide, at the origin, seen from +Z, half red.
func square() []byte {
	var b []byte
	for _, v := range []float32{-1, -1, 0, 1, -1, 0, 1, 1, 0, -1, 1, 0, 0, 0, 1, 0, 0, 1, 0, 0, 1, 0, 0, 1} {
		b = binary.LittleEndian.AppendUint32(b, math.Float32bits(v))
	}
	for _, i := range []uint16{0, 1, 2, 0, 2, 3} {
		b = binary.LittleEndian.AppendUint16(b, i)
	}
	return fmt.Appendf(nil, `{"asset":{"version":"2.0"},"scene":0,"scenes":[{"nodes":[0]}],"nodes":[{"mesh":0,"translation":[0,0,0]}],
"meshes":[{"primitives":[{"attributes":{"POSITION":0,"NORMAL":1},"indices":2,"material":0}]}],
"materials":[{"pbrMetallicRoughness":{"baseColorFactor":[0.5,0,0,1]}}],
"buffers":[{"byteLength":%d,"uri":"data:application/octet-stream;base64,%s"}],
"bufferViews":[{"buffer":0,"byteOffset":0,"byteLength":48},{"buffer":0,"byteOffset":48,"byteLength":48},{"buffer":0,"byteOffset":96,"byteLength":12}],
"accessors":[{"bufferView":0,"componentType":5126,"count":4,"type":"VEC3","min":[-1,-1,0],"max":[1,1,0]},
{"bufferView":1,"componentType":5126,"count":4,"type":"VEC3"},{"bufferView":2,"componentType":5123,"count":6,"type":"SCALAR"}]}`,
		len(b), base64.StdEncoding.EncodeToString(b))
}

// move is a camera five metres before it, and then turned away; the sun shines straight
// onto it.
const move = `{"width":64,"height":64,"aspect":1,"sun":{"direction":[0,0,-1],"color":[0.6,0.6,0.6]},
"hemi":{"sky":[0.2,0.2,0.2],"ground":[0.2,0.2,0.2]},"background":[0,0,1],
"shadow":{"halfExtent":10,"distance":20,"near":1,"far":40,"bias":0.0004,"normalBias":0.05},
"frames":[{"position":[0,0,5],"quaternion":[0,0,0,1],"fov":53.13010235},{"position":[0,0,5],"quaternion":[0,2,0,0],"fov":53.13010235}]}`

func TestTheBenchRendersWhatTheFilesSay(t *testing.T) {
	draws, err := ReadModel(context.Background(), square())
	require.NoError(t, err)
	cameras, err := ReadCameras([]byte(move))
	require.NoError(t, err)
	for _, o := range []Options{{Samples: 1, Threads: 1}, {Samples: 4, Shadow: 256, Threads: 2, Frames: 5}} {
		o.PNG, o.Shown = t.TempDir(), []int{0, 1}
		r, err := Run(context.Background(), draws, cameras, o)
		require.NoError(t, err)
		assert.Equal(t, []int{2, 1, max(2, o.Frames), o.Samples, o.Threads}, []int{r.Triangles, r.Draws, r.Frames, r.Samples, r.Threads})
		assert.Positive(t, r.FPS)
		assert.LessOrEqual(t, r.MedianMS, r.SlowestMS)
		assert.Greater(t, r.MemoryMB, 1.)
		f, err := os.Open(filepath.Join(o.PNG, "000.png"))
		require.NoError(t, err)
		img, err := png.Decode(f)
		require.NoError(t, err)
		require.NoError(t, f.Close())
		// At five metres the picture is five metres high: the square has the middle two
		// fifths of it. Its light is 0.5·(0.6 + 0.2), as sRGB without a curve.
		red, _, blue, _ := img.At(32, 32).RGBA()
		assert.InDelta(t, 255*(1.055*math.Pow(0.4, 1/2.4)-0.055), float64(red>>8), 1)
		assert.Zero(t, blue)
		for _, x := range []int{17, 46} {
			_, _, blue, _ = img.At(x, 32).RGBA()
			assert.Equal(t, uint32(255), blue>>8, "the background at %d", x)
		}
		_, _, blue, _ = img.At(20, 20).RGBA()
		assert.Zero(t, blue)
	}
}

func TestTheBenchRefusesWhatCannotBe(t *testing.T) {
	for text, says := range map[string]string{
		`[]`: "not JSON as expected", `{"width":1,"height":9}`: "1x9", `{"width":64,"height":64}`: "no frames",
		`{"width":64,"height":64,"frames":[{"quaternion":[0,0,0,1],"fov":180}]}`: "frame 0",
		`{"width":64,"height":64,"frames":[{"fov":40}]}`:                         "quaternion",
	} {
		_, err := ReadCameras([]byte(text))
		assert.ErrorContains(t, err, says)
	}
	_, err := ReadModel(context.Background(), []byte("no model"))
	require.Error(t, err)
	draws, err := ReadModel(context.Background(), square())
	require.NoError(t, err)
	cameras, err := ReadCameras([]byte(move))
	require.NoError(t, err)
	_, err = Run(context.Background(), draws, cameras, Options{Samples: 3, Threads: 1})
	assert.ErrorContains(t, err, "1 or 4 samples")
	_, err = Run(context.Background(), draws, cameras, Options{Samples: 1, Threads: 1, PNG: t.TempDir(), Shown: []int{7}})
	assert.ErrorContains(t, err, "frames are 0 to 1")
}
