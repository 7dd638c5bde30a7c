package render

import (
	"context"
	"encoding/json"
	"fmt"
	"image"
	"math"
	"path/filepath"
	"slices"
	"strconv"
	"testing"

	"proscen/core/scene"
	"proscen/core/timing"
	"proscen/internal/ffmpeg"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// flicker are small pictures, each of its own.
type flicker struct{}

func (flicker) Size() (width, height int) { return 32, 16 }
func (flicker) Frame(n int, img *image.RGBA) error {
	for i := range img.Pix {
		img.Pix[i] = byte(3*n + i)
	}
	return nil
}

// TestJoinedPartsKeepTime joins parts of 241 frames, which no rate has in whole seconds, to
// twenty minutes, at whole rates to two: each frame has the time of its number, as near as the format can say it.
func TestJoinedPartsKeepTime(t *testing.T) {
	ctx := context.Background()
	const frames = 241
	try := func(pack scene.Pack, rate timing.Rate, off float64) {
		dir := t.TempDir()
		form := Form{pack, "rough", rate}
		part, out := filepath.Join(dir, "1.part"), filepath.Join(dir, "out")
		require.NoError(t, Encode(ctx, flicker{}, timing.Range{Out: frames}, form, part, nil))
		seconds := 20 * 60.0
		if rate.Den == 1 {
			seconds = 2 * 60
		}
		parts := slices.Repeat([]string{part}, int(seconds*rate.PerSecond())/frames+1)
		require.NoError(t, Join(ctx, parts, "", len(parts)*frames, form, out))
		said, err := ffmpeg.Probe(ctx, ffmpeg.VideoFormats, out, "-select_streams", "v:0", "-show_entries", "packet=pts_time,duration_time:stream=avg_frame_rate")
		require.NoError(t, err)
		var probed struct {
			Packets []struct {
				At string `json:"pts_time"`
			} `json:"packets"`
			Streams []struct {
				Rate string `json:"avg_frame_rate"`
			} `json:"streams"`
		}
		require.NoError(t, json.Unmarshal(said, &probed))
		require.Len(t, probed.Packets, len(parts)*frames)
		worst := 0.0
		for n, p := range probed.Packets {
			at, err := strconv.ParseFloat(p.At, 64)
			require.NoError(t, err)
			worst = max(worst, math.Abs(at-rate.Seconds(float64(n))))
		}
		assert.LessOrEqual(t, worst, off, "%s at %s", pack, rate)
		if off < 1e-4 {
			assert.Equal(t, fmt.Sprintf("%d/%d", rate.Num, rate.Den), probed.Streams[0].Rate, "%s at %s", pack, rate)
		}
	}
	for _, rate := range timing.Usual {
		try(scene.H264, rate, 1e-6)
	}
	try(scene.ProRes, timing.Video299, 1e-6)
	try(scene.VP9, timing.Video299, 0.000501) // they tell thousandths of a second
	try(scene.FFV1, timing.Video30, 0.000501)
}
