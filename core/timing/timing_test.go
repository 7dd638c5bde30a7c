package timing

import (
	"encoding/json"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

func TestTimecodeAgainstPublishedValues(t *testing.T) {
	for _, c := range []struct {
		rate  Rate
		frame int
		drop  bool
		want  string
	}{
		{Film24, 0, false, "00:00:00:00"},
		{Film24, 24*3600 + 25, false, "01:00:01:01"},
		{Film2397, 48, false, "00:00:02:00"},
		{Video25, -26, false, "-00:00:01:01"},
		{Film24, 100, true, "00:00:04:04"},      // no drop at 24: the wish is ignored
		{Video299, 1799, true, "00:00:59;29"},   // last number before the first skip
		{Video299, 1800, true, "00:01:00;02"},   // ;00 and ;01 do not exist
		{Video299, 17981, true, "00:09:59;29"},  // nine skips later
		{Video299, 17982, true, "00:10:00;00"},  // the tenth minute keeps its numbers
		{Video299, 107892, true, "01:00:00;00"}, // one hour = 107892 frames
		{Rate{60000, 1001}, 3600, true, "00:01:00;04"},
	} {
		assert.Equal(t, c.want, c.rate.Timecode(c.frame, c.drop), "frame %d", c.frame)
	}
}

func TestTimecodeReadsBackEveryFrame(t *testing.T) {
	rates := []Rate{Film24, Film2397, Video25, Video30, Video299, {60, 1}, {60000, 1001}}
	rapid.Check(t, func(t *rapid.T) {
		r := rapid.SampledFrom(rates).Draw(t, "rate")
		frame := rapid.IntRange(-5_000_000, 5_000_000).Draw(t, "frame")
		drop := rapid.Bool().Draw(t, "drop")
		got, err := r.ParseTimecode(r.Timecode(frame, drop))
		if err != nil || got != frame {
			t.Fatalf("%s → %d, %v", r.Timecode(frame, drop), got, err)
		}
	})
}

func TestTimecodeRefusesWithReason(t *testing.T) {
	for in, want := range map[string]string{
		"00:01:00;00": "skipped in drop-frame",
		"1:2:3":       "four numbers",
		"00:61:00:00": "end at 59",
		"00:00:00:30": "frames at 29",
		"aa:00:00:00": "not a number",
	} {
		_, err := Video299.ParseTimecode(in)
		assert.ErrorContains(t, err, want, in)
	}
	_, err := Film24.ParseTimecode("00:00:01;00")
	assert.ErrorContains(t, err, "does not exist at 24")
}

func TestRateReadsAndWrites(t *testing.T) {
	for _, s := range []string{"24", "24000/1001", "60"} {
		r, err := ParseRate(s)
		require.NoError(t, err)
		assert.Equal(t, s, r.String())
		b, err := json.Marshal(r)
		require.NoError(t, err)
		var back Rate
		require.NoError(t, json.Unmarshal(b, &back))
		assert.Equal(t, r, back)
	}
	for _, s := range []string{"", "0", "-24", "24/0", "24/", "x", "99999999", "5000"} {
		_, err := ParseRate(s)
		assert.ErrorContains(t, err, "frames per second", "%q", s)
	}
	assert.Equal(t, 24, Film2397.Nominal())
	assert.InDelta(t, 23.976, Film2397.PerSecond(), 0.001)
	assert.InDelta(t, 10.0, Film24.Seconds(240), 1e-12)
}

func TestRangeIsHalfOpen(t *testing.T) {
	r := Range{10, 20}
	assert.Equal(t, 10, r.Count())
	assert.Equal(t, 19, r.Last())
	assert.True(t, r.Contains(10) && r.Contains(19))
	assert.False(t, r.Contains(20))
	assert.False(t, r.Overlaps(Range{20, 30}), "touching ranges share no frame")
	assert.True(t, r.Overlaps(Range{19, 30}))
	assert.Equal(t, Range{15, 20}, r.Intersect(Range{15, 99}))
	assert.Equal(t, "10–19 (10)", r.String())
	assert.Equal(t, "5 (no frames)", Range{5, 5}.String())
	assert.Equal(t, Range{7, 17}, r.Shift(-3))
}

func TestTimecodeIsReadTheSameAtAnotherRate(t *testing.T) {
	for _, c := range []struct {
		from   Rate
		drop   bool
		code   string
		to     Rate
		toDrop bool
		want   string
	}{
		{Film24, false, "01:00:00:00", Video25, false, "01:00:00:00"},
		{Film24, false, "00:59:50:12", Video25, false, "00:59:50:13"}, // 12.5
		{Film24, false, "01:00:00:00", Video299, true, "01:00:00;00"},
		{Film24, false, "00:01:00:00", Video299, true, "00:01:00;02"}, // ;00 does not exist
		{Video299, true, "10:00:00;00", Film24, false, "10:00:00:00"},
		{Rate{60, 1}, false, "00:00:00:59", Film24, false, "00:00:00:23"},
	} {
		f, err := c.from.ParseTimecode(c.code)
		require.NoError(t, err)
		assert.Equal(t, c.want, c.to.Timecode(c.from.Recount(f, c.drop, c.to, c.toDrop), c.toDrop), c.code)
	}
}

func TestRatesAsPeopleWriteThem(t *testing.T) {
	for s, want := range map[string]Rate{
		"23.976": Film2397, "23.98 f/s": Film2397, "29.97": Video299, " 59.94f/s": {60000, 1001}, "25": Video25, "30000/1001": Video299, "25.0": Video25, "18": {18, 1},
	} {
		r, err := ReadRate(s)
		require.NoError(t, err, s)
		assert.Equal(t, want, r, s)
	}
	for _, s := range []string{"0.5", "24.5", "fast", "", "f/s", "1/2"} {
		_, err := ReadRate(s)
		assert.ErrorContains(t, err, "from 1 to 1000", s)
	}
}

func TestRatesBelowOneAreRefused(t *testing.T) {
	for _, s := range []string{"1/2", "0.5", "0", "-24", "1000/1001", "1001"} {
		_, err := ParseRate(s)
		assert.ErrorContains(t, err, "from 1 to 1000", s)
	}
	for _, r := range append([]Rate{{1, 1}, {1000, 1}}, Usual...) {
		assert.True(t, r.Valid(), r)
	}
}
