package demo

import (
	"encoding/json"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"proscen/core/interchange"
	"proscen/core/program"
	"proscen/core/scene"
	"proscen/core/session"
)

// TestEditListOfTheDemonstration holds the list against times worked out by
// hand: 24 frames a second, source the story, record the screen from one o'clock.
// The dissolve into 020 runs over record frames 168 to 183, so it begins at
// 7:00; there shot 010 has reached story 224 (9:08), and 020 begins at story 220
// (9:04), eight frames before its own 228.
func TestEditListOfTheDemonstration(t *testing.T) {
	var events []string
	for _, line := range strings.Split(string(interchange.WriteEDL(Scene(), "first-cut", nil).Data), "\r\n") {
		if line != "" && !strings.HasPrefix(line, "*") {
			events = append(events, line)
		}
	}
	assert.Equal(t, []string{
		"TITLE: Last Car Down - first cut",
		"FCM: NON-DROP FRAME",
		"001  CAM01    V     C         00:00:02:08 00:00:09:08 01:00:00:00 01:00:07:00",
		"002  CAM01    V     C         00:00:09:08 00:00:09:08 01:00:07:00 01:00:07:00",
		"002  CAM02    V     D    016  00:00:09:04 00:00:12:00 01:00:07:00 01:00:09:20",
		"003  CAM03    V     C         00:00:11:06 00:00:14:14 01:00:09:20 01:00:13:04",
		"004  CAM04    V     C         00:00:14:10 00:00:17:22 01:00:13:04 01:00:16:16",
		"005  CAM05    V     C         00:00:17:22 00:00:24:04 01:00:16:16 01:00:22:22",
		"006  CAM06    V     C         00:00:24:04 00:00:29:08 01:00:22:22 01:00:28:02",
		"007  CAM07    V     C         00:00:29:08 00:00:31:20 01:00:28:02 01:00:30:14",
		"008  CAM09    V     C         00:00:29:20 00:00:32:16 01:00:30:14 01:00:33:10",
		"009  CAM10    V     C         00:00:40:16 00:00:43:18 01:00:33:10 01:00:36:12",
		"010  CAM11    V     C         00:00:44:08 00:00:46:22 01:00:36:12 01:00:39:02",
		"011  CAM08    V     C         00:00:46:22 00:00:49:20 01:00:39:02 01:00:42:00",
	}, events)
}

// TestTheDemonstrationComesBack writes the cut in the formats that are read and
// reads it again.
func TestTheDemonstrationComesBack(t *testing.T) {
	for _, format := range []string{"otio", "edl"} {
		s := session.Open(Scene(), func() func() string {
			n := 0
			return func() string {
				n++
				return "new-" + strings.Repeat("x", n%7) + string(rune('a'+n/7%26)) + string(rune('a'+n/182))
			}
		}())
		w, err := interchange.WriteCut(s.Doc, "first-cut", format, scene.ScreenClock, nil)
		require.NoError(t, err)
		b, err := interchange.ReadCut(s.Doc, "cut", w.Data)
		require.NoError(t, err)
		assert.Empty(t, b.Notes, format)
		args, err := json.Marshal(b.Args)
		require.NoError(t, err)
		_, err = s.Run(b.Operation, args)
		require.NoError(t, err)
		require.Len(t, s.Doc.Assemblies, 2)
		for id := range s.Doc.Assemblies {
			assert.Empty(t, program.Differences(s.Doc, "first-cut", id), format)
		}
	}
}
