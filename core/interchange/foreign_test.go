package interchange_test

import (
	"fmt"
	"os"
	"path/filepath"
	"testing"

	"proscen/core/interchange"
	"proscen/core/program"
	"proscen/core/scene"
	"proscen/core/scenetest"
	"proscen/core/timing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// ofOthers returns a file that was written by hand from a format's description.
func ofOthers(t testing.TB, name string) []byte {
	t.Helper()
	data, err := os.ReadFile(filepath.Join("testdata", "foreign", name))
	require.NoError(t, err)
	return data
}

// cutOf reads a foreign edit list into a small scene and tells its shots.
func cutOf(t *testing.T, name string, rate timing.Rate) (d *scene.Document, shots, said []string) {
	t.Helper()
	d = scenetest.Small()
	d.Settings.Rate = rate
	in, said, err := interchange.ReadEDL(d, ofOthers(t, name))
	require.NoError(t, err)
	id := brought(t, d, in)
	for _, s := range program.Shots(d, program.MainLane(d, id)) {
		what := s.Camera + string(s.Plays)
		if s.Card != "" {
			what += " " + d.Cards[s.Card].Name
		}
		line := fmt.Sprintf("%s[%d,%d)@%g×%g", what, s.ScreenIn, s.ScreenOut, s.StoryIn, s.Speed)
		if s.Join != nil {
			line += fmt.Sprintf(" %s %d %d", s.Join.Kind, s.Join.Before, s.Join.After)
		}
		shots = append(shots, line)
	}
	return d, shots, said
}

// TestEditListsOfOthers: each file is written by hand; frames are worked out from its times.
func TestEditListsOfOthers(t *testing.T) {
	t.Run("non-drop at 29.97, a slate before the hour, all channels of picture", func(t *testing.T) {
		d, shots, said := cutOf(t, "nondrop2997.edl", timing.Video299)
		// Ten o'clock is nine hours of 108,000 numbers later.
		assert.Equal(t, []string{"a[0,60)@60×1", "b[60,90)@0×1", "a[90,120)@180×1", "b[972000,972030)@150×1"}, shots)
		assert.Equal(t, []string{"Events of sound were left out.", "The event before the hour was left out."}, said)
		assert.Empty(t, d.Validate())
	})
	t.Run("drop-frame from a line on, small letters, a byte-order mark, CR alone", func(t *testing.T) {
		d, shots, said := cutOf(t, "dropchange.edl", timing.Video299)
		// At 01:01:00;02 of drop-frame 3,600 − 108 seconds' numbers have passed: the 107,892nd frame is
		// one o'clock, the 109,692nd one minute later; counted without dropping, one o'clock is 108,000.
		assert.Equal(t, []string{"a[0,300)@0×1", "b[1692,1992)@1800×1"}, shots)
		assert.Empty(t, said)
		assert.Equal(t, "ridge walk", d.Assemblies["brought"].Name)
	})
	t.Run("drop-frame by semicolons", func(t *testing.T) {
		_, shots, said := cutOf(t, "semicolons.edl", timing.Video299)
		assert.Equal(t, []string{"a[0,60)@0×1", "b[17982,18042)@0×1"}, shots, "ten minutes are 17,982 frames")
		assert.Empty(t, said)
		// At a rate that has none, the numbers are taken as they are.
		_, shots, said = cutOf(t, "semicolons.edl", timing.Film24)
		assert.Equal(t, []string{"a[0,48)@0×1", "b[14400,14448)@0×1"}, shots)
		assert.Contains(t, said[0], "drop-frame, which does not exist at 24")
	})
	t.Run("black, a speed for a reel, out of order, spaces, a source in feet", func(t *testing.T) {
		d, shots, said := cutOf(t, "black.edl", timing.Film24)
		assert.Equal(t, []string{
			"a[0,48)@48×1", "card black[48,96)@0×1",
			"b[96,144)@240×0.5 dip 0 12", "a[144,192)@96×1", "board[192,240)@480×1", "a[240,264)@240×1",
		}, shots)
		assert.Equal(t, []string{
			"The source time 0123+04 of reel CAM01 is of another kind; its shots show the story from their own place on.",
			"Line 10: a speed that belongs to no event was left out.",
			"The events do not stand in order; they were put in the order of their record times.",
			"The scene has no camera for “MY REEL 2”; the shot stands without one.",
		}, said)
		assert.Empty(t, d.Validate())
		for _, c := range d.Cards {
			if c.Name == "black" {
				assert.Equal(t, "#000000", c.Color)
			}
		}
	})
	t.Run("a fade up from black of no length", func(t *testing.T) {
		_, shots, said := cutOf(t, "fadeup.edl", timing.Film24)
		assert.Equal(t, []string{"a[0,48)@0×1", "b[48,120)@96×1 dip 0 24", "a[216,240)@96×1"}, shots)
		assert.Equal(t, []string{"Line 6: nothing plays before it, so that its fade from black was left out."}, said)
	})
}

// TestEDLHasNoTimesBelowZeroAndNoDissolveFromNothing, and comes back all the same.
func TestEDLHasNoTimesBelowZeroAndNoDissolveFromNothing(t *testing.T) {
	d := scenetest.Cut([2]int{0, 40}, [2]int{60, 100})
	s := d.Shots["s1"]
	s.StoryIn = -48
	d.PutShot("s1", s)
	s = d.Shots["s2"]
	s.Join = &scene.Join{Kind: scene.Dissolve, Before: 6, After: 6}
	d.PutShot("s2", s)
	w := interchange.WriteEDL(d, "cut", nil)
	assert.Contains(t, string(w.Data), " 23:59:58:00 23:59:59:16 01:00:00:00 01:00:01:16")
	assert.NotRegexp(t, ` -\d\d:`, string(w.Data))
	in, _, err := interchange.ReadEDL(d, w.Data)
	require.NoError(t, err)
	require.Len(t, in.Lanes[0].Shots, 2)
	assert.Equal(t, -48.0, in.Lanes[0].Shots[0].Shot.StoryIn)
	assert.Equal(t, []int{60, 100}, []int{in.Lanes[0].Shots[1].Shot.ScreenIn, in.Lanes[0].Shots[1].Shot.ScreenOut})
}

// TestCaptionsOfOthers: files written by hand; nothing that is said vanishes.
func TestCaptionsOfOthers(t *testing.T) {
	read := func(name string) (lines, said []string) {
		d := scenetest.Small()
		list, said, err := interchange.ReadCaptions(d, ofOthers(t, name))
		require.NoError(t, err, name)
		for _, l := range list {
			lines = append(lines, fmt.Sprintf("[%d,%d) %s", l.In, l.Out, l.Text))
		}
		return lines, said
	}
	lines, said := read("dialogue.srt")
	assert.Equal(t, []string{
		"[24,48) NOTE the hour, would you?", "[72,96) STYLE REGION", "[120,156) Who is there",
		"[156,192) First half second half, after an empty row", "[216,240) No row between us.",
	}, lines)
	assert.Equal(t, []string{"Lines of nobody went to Walker.", "Cues without an end last until the next one, and no longer than 3 seconds."}, said)
	lines, _ = read("latin1.srt")
	assert.Equal(t, []string{"[24,48) Ein Gruß aus München – bald", "[72,96) “Nur” CR"}, lines)
	for _, name := range []string{"utf16le.srt", "utf16be.srt"} {
		lines, said = read(name)
		assert.Equal(t, []string{"[24,48) Жди меня"}, lines, name)
		assert.Empty(t, said)
	}
	lines, said = read("notes.vtt")
	assert.Equal(t, []string{"[24,48) NOTE is what he says", "[72,96) after a name stray"}, lines)
	assert.Equal(t, []string{"Row 21 belongs to no cue and was left out.", "Lines of nobody went to Walker."}, said)
}

// TestTimelinesOfOthers: a track with a range of its own at 25 frames per second, in a scene at
// 24; its items lie at 0, 10, 20, 45 and 70 frames of 25, of which 5 to 65 are taken.
func TestTimelinesOfOthers(t *testing.T) {
	d := scenetest.Small()
	in, said, err := interchange.ReadOTIO(d, ofOthers(t, "rates.otio"))
	require.NoError(t, err)
	id := brought(t, d, in)
	var got []string
	for _, s := range program.Shots(d, program.MainLane(d, id)) {
		got = append(got, fmt.Sprintf("%s %s[%d,%d)@%.1f", s.Number, s.Camera, s.ScreenIn, s.ScreenOut, s.StoryIn))
	}
	// 5 frames of 25 are 4.8 of 24; the first clip is cut by as much, the last ends with the range.
	// Of the nested stack only the upper clip is seen.
	assert.Equal(t, []string{"010 a[0,5)@100.8", "020 [14,26)@0.0", "030 [26,38)@0.0", "040 a[38,58)@0.0"}, got)
	assert.Empty(t, program.SpareLanes(d, id))
	for _, want := range []string{"“CAM02” is switched off; a gap stands in its place.", "The track “off” is switched off and was left out."} {
		assert.Contains(t, said, want)
	}
	var marks []string
	for _, m := range d.Markers {
		if m.Assembly == id {
			marks = append(marks, fmt.Sprint(m.Name, " ", m.Frame))
		}
	}
	assert.Equal(t, []string{"look 2"}, marks, "the seventh frame of 25, two after the range begins")
}

// TestNestedListsAreLaidOut: of “reel” the frames 12 to 60 from 24 on; from 72 on “over”, where the
// upper layer lies over the lower one from 82 to 94; from 112 on “fast”, twice as fast.
func TestNestedListsAreLaidOut(t *testing.T) {
	d := scenetest.Small()
	in, said, err := interchange.ReadOTIO(d, ofOthers(t, "nested.otio"))
	require.NoError(t, err)
	id := brought(t, d, in)
	var got []string
	shots := program.Shots(d, program.MainLane(d, id))
	for _, s := range shots {
		got = append(got, fmt.Sprintf("%s [%d,%d)@%g×%g", s.Name, s.ScreenIn, s.ScreenOut, s.StoryIn, s.Speed))
	}
	assert.Equal(t, []string{
		"A [0,24)@0×1", "B [24,48)@112×1", "C [48,72)@200×1",
		"D [72,82)@0×1", "E [82,94)@50×1", "D [94,112)@22×1",
		"F [112,120)@10×2", "G [120,132)@0×2", "H [132,156)@0×1",
	}, got)
	assert.Equal(t, &scene.Join{Kind: scene.Dissolve, Before: 4, After: 6}, shots[2].Join)
	for i, s := range shots {
		if i != 2 {
			assert.Nil(t, s.Join, s.Name)
		}
	}
	assert.Equal(t, []string{"“off” is switched off; a gap stands in its place.", "Sound in nested lists was left out."}, said)
	for _, m := range d.Markers {
		if m.Assembly == id {
			assert.Equal(t, [2]any{"in the reel", 58}, [2]any{m.Name, m.Frame})
		}
	}
}

// TestWhatStandsBesideTracksIsALane: a clip in the timeline's stack keeps its speed and the place of
// its marker; a track that runs faster as a whole does; what has no length is said, in a stack too.
func TestWhatStandsBesideTracksIsALane(t *testing.T) {
	d := scenetest.Small()
	const span = `"source_range":{"start_time":{"rate":24,"value":%d},"duration":{"rate":24,"value":%d}}`
	const warp = `"effects":[{"OTIO_SCHEMA":"LinearTimeWarp.1","time_scalar":2}]`
	in, said, err := interchange.ReadOTIO(d, []byte(fmt.Sprintf(`{"OTIO_SCHEMA":"Timeline.1","name":"t","tracks":{"OTIO_SCHEMA":"Stack.1","children":[
 {"OTIO_SCHEMA":"Clip.2","name":"A",`+span+`,`+warp+`,"markers":[{"OTIO_SCHEMA":"Marker.2","name":"m","marked_range":{"start_time":{"rate":24,"value":110},"duration":{"rate":24,"value":0}}}]},
 {"OTIO_SCHEMA":"Track.1","kind":"Video","name":"V2",`+warp+`,"children":[{"OTIO_SCHEMA":"Clip.2","name":"B",`+span+`}]},
 {"OTIO_SCHEMA":"Stack.1","name":"S","children":[{"OTIO_SCHEMA":"Clip.2","name":"nothing"},{"OTIO_SCHEMA":"Clip.2","name":"C",`+span+`}]}]}}`, 100, 48, 10, 40, 0, 12)))
	require.NoError(t, err)
	var got []string
	for _, l := range in.Lanes {
		for _, s := range l.Shots {
			got = append(got, fmt.Sprintf("%s [%d,%d)@%g×%g", s.Shot.Name, s.Shot.ScreenIn, s.Shot.ScreenOut, s.Shot.StoryIn, s.Shot.Speed))
		}
	}
	assert.Equal(t, []string{"A [0,48)@100×2", "B [0,20)@10×2", "C [0,12)@0×1"}, got)
	require.Len(t, in.Markers, 1)
	assert.Equal(t, 10, in.Markers[0].Frame)
	assert.Contains(t, said, "“nothing” has no length and was left out.")
}

// timeline is a track of clips, each so long at a rate.
func timeline(rate float64, frames, count int, names ...string) []byte {
	clips := ""
	for i := range count {
		name := "CAM01"
		if len(names) > 0 {
			name = names[i%len(names)]
		}
		clips += fmt.Sprintf(`{"OTIO_SCHEMA":"Clip.2","name":%q,"source_range":{"start_time":{"rate":%g,"value":%d},"duration":{"rate":%g,"value":%d}}},`, name, rate, 3600*24, rate, frames)
	}
	return []byte(fmt.Sprintf(`{"OTIO_SCHEMA":"Timeline.1","name":"t","tracks":{"OTIO_SCHEMA":"Stack.1","children":[{"OTIO_SCHEMA":"Track.1","kind":"Video","children":[%s]}]}}`, clips[:len(clips)-1]))
}

func TestClipsAtAnotherRateDoNotDrift(t *testing.T) {
	d := scenetest.Small()
	in, _, err := interchange.ReadOTIO(d, timeline(25, 10, 100))
	require.NoError(t, err)
	shots := in.Lanes[0].Shots
	assert.Equal(t, 960, shots[99].Shot.ScreenOut, "a hundred clips of ten at 25 are 960 frames of 24")
	assert.Equal(t, 48, shots[4].Shot.ScreenOut)
	// 23.976 is 24000/1001 with few decimals, and so is 29.97.
	d.Settings.Rate = timing.Film2397
	in, said, err := interchange.ReadOTIO(d, timeline(23.976, 10, 3))
	require.NoError(t, err)
	assert.Empty(t, said)
	assert.Equal(t, 86400.0, in.Lanes[0].Shots[0].Shot.StoryIn)
	assert.Equal(t, 30, in.Lanes[0].Shots[2].Shot.ScreenOut)
}

func TestNumbersOfWhatComesInMeetNoOthers(t *testing.T) {
	d := scenetest.Small()
	in, _, err := interchange.ReadOTIO(d, timeline(24, 10, 6, "CAM01", "010 a", "020 b"))
	require.NoError(t, err)
	id := brought(t, d, in)
	seen := map[string]bool{}
	var numbers []string
	for _, s := range program.Shots(d, program.MainLane(d, id)) {
		assert.False(t, seen[s.Number], s.Number)
		seen[s.Number] = true
		numbers = append(numbers, s.Number)
	}
	assert.Equal(t, []string{"010", "020"}, []string{numbers[1], numbers[2]}, "the first keeps it")
	assert.Empty(t, d.Validate())
}

func TestEmptyLanesAreWrittenWithTheirEmptyList(t *testing.T) {
	d := scenetest.Cut([2]int{0, 40})
	d.Lanes["aside"] = scene.Lane{Assembly: "cut", Name: "spare 1", Order: 1}
	w := interchange.WriteOTIO(d, "cut", nil)
	assert.Regexp(t, `"name": ?"spare 1",[^{}]*"children": ?\[\]`, string(w.Data))
	in, _, err := interchange.ReadOTIO(d, w.Data)
	require.NoError(t, err)
	assert.Len(t, in.Lanes, 2)
}

// TestSubRipWithoutNumbers: what stands right before the times of the next cue is said too.
func TestSubRipWithoutNumbers(t *testing.T) {
	d := scenetest.Small()
	list, _, err := interchange.ReadCaptions(d, []byte("00:00:01,000 --> 00:00:02,000\nWalker: one\n\nand two\n00:00:03,000 --> 00:00:04,000\nWalker: three\n"))
	require.NoError(t, err)
	require.Len(t, list, 2)
	assert.Equal(t, []string{"one and two", "three"}, []string{list[0].Text, list[1].Text})
}

// TestSpeedsOfReelsWithSpaces go to the last event of their reel, in whatever letters.
func TestSpeedsOfReelsWithSpaces(t *testing.T) {
	d := scenetest.Small()
	event := "%03d  %s V C 00:00:00:00 00:00:01:00 01:00:0%d:00 01:00:0%d:00\n"
	body := fmt.Sprintf(event, 1, "My Reel 2", 0, 1) + fmt.Sprintf(event, 2, "My Reel 2", 1, 2) + fmt.Sprintf(event, 3, "CAM01", 2, 3) + "M2   MY REEL 2  048.0  00:00:00:00\n"
	in, said, err := interchange.ReadEDL(d, []byte(body))
	require.NoError(t, err)
	assert.NotContains(t, fmt.Sprint(said), "belongs to no event")
	var speeds []float64
	for _, s := range in.Lanes[0].Shots {
		speeds = append(speeds, s.Shot.Speed)
	}
	assert.Equal(t, []float64{1, 2, 1}, speeds)
}

// TestShotListsOfOthers: shots of the small scene are 48 frames long.
func TestShotListsOfOthers(t *testing.T) {
	t.Run("semicolons, titles above, zeros left out, UTF-16", func(t *testing.T) {
		d := scenetest.Small()
		b, err := interchange.ReadCut(d, "cut", ofOthers(t, "monday.csv"))
		require.NoError(t, err)
		assert.Equal(t, "shotsAsListed", b.Operation)
		assert.Equal(t, []interchange.Change{
			{What: "Shot 010, length", Was: "48 f", Is: "60 f"},
			{What: "Shot 010, status", Is: "agreed"},
			{What: "Shot 010, notes", Is: "slower; and\nwider"},
			{What: "Shot 020, length", Was: "48 f", Is: "60 f"},
			{What: "Shot 030, length", Was: "48 f", Is: "36 f"},
			{What: "The whole", Was: "00:00:06:00", Is: "00:00:06:12"},
		}, b.Will)
		assert.Equal(t, []string{
			"Row 7: “nearly” is no status; it is idea, blocked or agreed. It stays as it is.",
			"Row 9 names shot 10 again; what row 4 says stands.",
			"Row 10 names no shot and is left out.",
			"Not in this cut, and left out: 075.",
			"What the list says otherwise under Camera is not taken over.",
		}, b.Notes)
		fits(t, d, b.Operation, b.Args)
		assert.Equal(t, 156, program.Compile(d, "cut").Length())
		assert.Equal(t, scene.StatusAgreed, d.Shots["s1"].Status)
		assert.Equal(t, [2]int{120, 156}, [2]int{d.Shots["s3"].ScreenIn, d.Shots["s3"].ScreenOut})
		_, err = interchange.ReadCut(d, "cut", ofOthers(t, "monday.csv"))
		assert.ErrorContains(t, err, "nothing in it differs")
	})
	t.Run("tabs, Latin-1, empty cells take away", func(t *testing.T) {
		d := scenetest.Small()
		s := d.Shots["s3"]
		s.Name, s.Notes = "Away", "gone"
		d.PutShot("s3", s)
		s = d.Shots["s2"]
		s.Locked = true
		d.PutShot("s2", s)
		b, err := interchange.ReadCut(d, "cut", ofOthers(t, "latin1.tsv"))
		require.NoError(t, err)
		assert.Equal(t, []interchange.Change{{What: "Shot 030, name", Was: "Away"}, {What: "Shot 030, notes", Was: "gone"}}, b.Will)
		assert.Equal(t, []string{"One shot that the list would change is locked and stays as it is."}, b.Notes)
		s.Locked = false
		d.PutShot("s2", s)
		b, err = interchange.ReadCut(d, "cut", ofOthers(t, "latin1.tsv"))
		require.NoError(t, err)
		fits(t, d, b.Operation, b.Args)
		assert.Equal(t, "Café", d.Shots["s2"].Name)
		assert.Equal(t, "naïve", d.Shots["s2"].Notes)
		assert.Empty(t, d.Shots["s3"].Name)
	})
	t.Run("of the assembly that is meant", func(t *testing.T) {
		_, err := interchange.ReadCut(scenetest.Small(), "", ofOthers(t, "monday.csv"))
		assert.ErrorContains(t, err, "Not in this cut")
	})
}

// FuzzReadShotList: whatever stands in a list, what is read of it can be done.
func FuzzReadShotList(f *testing.F) {
	for _, name := range []string{"monday.csv", "latin1.tsv"} {
		data, err := os.ReadFile(filepath.Join("testdata", "foreign", name))
		require.NoError(f, err)
		f.Add(data)
	}
	f.Add([]byte("Shot,Frames,Name\n010,9999999,\"x\n"))
	f.Fuzz(func(t *testing.T, data []byte) {
		d := scenetest.Small()
		listed, _, _, err := interchange.ReadShotList(d, "cut", data)
		if err == nil {
			fits(t, d, "shotsAsListed", listed)
		}
	})
}
