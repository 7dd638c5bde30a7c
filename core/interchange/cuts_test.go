package interchange_test

import (
	"encoding/json"
	"fmt"
	"strings"
	"testing"

	"proscen/core/assembly"
	"proscen/core/curve"
	"proscen/core/edit"
	"proscen/core/interchange"
	"proscen/core/program"
	"proscen/core/scene"
	"proscen/core/scenetest"
	"proscen/core/timing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

var catalog = assembly.Operations()

func tools() edit.Tools {
	n := 0
	return edit.Tools{NewID: func() string { n++; return fmt.Sprintf("id-%04d", n) }}
}

// rich is a cut with everything that a cut can have.
func rich() *scene.Document {
	d := scenetest.Small()
	d.Settings.Rate = timing.Film24
	blob := func(c string) string { return strings.Repeat(c, 32) }
	d.Cards["title"] = scene.Card{Name: "title", Title: "Last Car Down", Color: "#000000", Ink: "#ffffff"}
	d.Footage["plate"] = scene.Footage{Name: "plate", Blob: blob("ab"), Width: 16, Height: 9, Frames: 90}
	d.Lanes["aside"] = scene.Lane{Assembly: "cut", Name: "spare 1", Order: 1}
	d.Assemblies["cut"] = scene.Assembly{Name: "cut", Target: 500, ShotTarget: 40}
	shots := map[string]scene.Shot{
		"s1": {Number: "010", Name: "Waiting = long", Camera: "a", ScreenIn: 0, ScreenOut: 48, StoryIn: 10, Speed: 1, Head: 12, Tail: 12, Status: scene.StatusAgreed},
		"s2": {Number: "020", Name: "=1+1", Camera: "b", ScreenIn: 48, ScreenOut: 96, StoryIn: 40.5, Speed: 0.5, Head: 12, Tail: 12, Join: &scene.Join{Kind: scene.Dissolve, Before: 8, After: 8}, Notes: "slow"},
		"s3": {Number: "030", Camera: "a", ScreenIn: 96, ScreenOut: 120, StoryIn: 80, Speed: 0, Head: 4, Tail: 4, Join: &scene.Join{Kind: scene.Dip, Before: 6, After: 6, Color: "#ffffff"}},
		"s4": {Number: "040", Plays: scene.PlaysCard, Card: "title", ScreenIn: 130, ScreenOut: 150, StoryIn: 104, Speed: 1},
		"s5": {Number: "050", Name: "From outside", Plays: scene.PlaysFootage, Footage: "plate", FootageIn: 5, ScreenIn: 150, ScreenOut: 190, StoryIn: 124, Speed: 2, Tail: 10},
		"s6": {Number: "060", Camera: "b", ScreenIn: 190, ScreenOut: 230, StoryIn: 44, Speed: 1, Head: 16, Tail: 16, Locked: true},
		"s7": {Number: "070", Camera: "a", ScreenIn: 230, ScreenOut: 270, StoryIn: 90, Speed: 1, Head: 16, Tail: 16, Join: &scene.Join{Kind: scene.Travels, Before: 12, After: 12, Ease: curve.Even, Rest: 8}},
		"s8": {Number: "080", Name: "drawn", Plays: scene.PlaysBoard, ScreenIn: 270, ScreenOut: 300, StoryIn: 130, Speed: 1},
	}
	d.Shots = map[string]scene.Shot{}
	for id, s := range shots {
		s.Lane = "main"
		d.Shots[id] = s
	}
	d.Shots["alt"] = scene.Shot{Lane: "aside", Number: "015", Camera: "b", ScreenIn: 20, ScreenOut: 40, StoryIn: 33, Speed: 1}
	d.Boards["p1"] = scene.Board{Shot: "s8", Name: "p1", Blob: blob("01"), Width: 16, Height: 9}
	d.Boards["p2"] = scene.Board{Shot: "s8", Name: "p2", Blob: blob("02"), Width: 16, Height: 9, At: 12}
	d.Markers["bell"] = scene.Marker{Assembly: "cut", Clock: scene.ScreenClock, Frame: 60, Frames: 5, Name: "bell", Note: "thrice", Color: "#e2b45a", Camera: "b"}
	d.Tracks["t"] = scene.Track{Name: "bell", Clock: scene.ScreenClock, Assembly: "cut", Gain: -6, Mute: true, Order: 1}
	d.Sounds["n"] = scene.Sound{Track: "t", Name: "stroke", Blob: blob("cd"), Seconds: 3, In: 60, Out: 100, From: 0.5, Gain: -2, FadeOut: 10}
	d.Lines["l1"] = scene.Line{Cast: "walker", Text: "Then I'm the last one down.", In: 20, Out: 44}
	d.Lines["l2"] = scene.Line{Cast: "walker", Text: "Is <it> open & here?", In: 50, Out: 70}
	return d
}

// brought brings an assembly into a scene and returns its id.
func brought(t *testing.T, d *scene.Document, in assembly.Incoming) string {
	t.Helper()
	in.ID = "brought"
	args, err := json.Marshal(in)
	require.NoError(t, err)
	_, err = catalog.Run(d, "assemblyBring", args, tools())
	require.NoError(t, err)
	return "brought"
}

// lanes writes all lanes of an assembly with all that shots have, but for ids.
func lanes(d *scene.Document, id string) (out []string) {
	list := append([]string{program.MainLane(d, id)}, program.SpareLanes(d, id)...)
	for i, lane := range list {
		for _, s := range program.Shots(d, lane) {
			boards := ""
			for _, b := range d.BoardsOf(s.ID) {
				v := d.Boards[b]
				boards += fmt.Sprintf(" %s@%d", v.Name, v.At)
			}
			s.Lane = ""
			out = append(out, fmt.Sprintf("%d %s%s", i, scene.Canonical(s.Shot), boards))
		}
	}
	return out
}

func TestOTIOComesBackEqual(t *testing.T) {
	d := rich()
	require.Empty(t, d.Validate())
	w := interchange.WriteOTIO(d, "cut", map[string]interchange.Delivered{"s1": {File: "outputs/010.mp4", Head: 5, Frames: 60}})
	assert.ElementsMatch(t, []string{
		"Joins of the kind dip are custom transitions; other programs may show a cut or a dissolve.",
		"Joins of the kind travel are custom transitions; other programs may show a cut or a dissolve.",
		"One marker lies on the story clock; other programs do not see it.",
		"The 2 lines of dialogue are in the metadata only; SubRip or WebVTT carries them.",
	}, w.Notes)
	in, said, err := interchange.ReadOTIO(d, w.Data)
	require.NoError(t, err)
	assert.Empty(t, said)
	id := brought(t, d, in)
	assert.Equal(t, lanes(d, "cut"), lanes(d, id))
	assert.Empty(t, program.Differences(d, "cut", id))
	a, b := d.Assemblies["cut"], d.Assemblies[id]
	b.Name, b.Order = a.Name, a.Order
	assert.Equal(t, a, b)
	again := interchange.WriteOTIO(d, id, map[string]interchange.Delivered{})
	assert.Equal(t, strings.Count(string(w.Data), "Clip.2"), strings.Count(string(again.Data), "Clip.2"))
	assert.Len(t, d.Markers, 3, "the story's marker is not doubled")
	for k, m := range d.Markers {
		if m.Assembly == id {
			was := d.Markers["bell"]
			was.Assembly = id
			assert.Equal(t, was, m, k)
		}
	}
	sounds := 0
	for _, s := range d.Sounds {
		if d.Tracks[s.Track].Assembly == id {
			was := d.Sounds["n"]
			was.Track = s.Track
			assert.Equal(t, was, s)
			sounds++
		}
	}
	assert.Equal(t, 1, sounds)
}

// TestOTIOSaysBothClocks looks at the file as another program would.
func TestOTIOSaysBothClocks(t *testing.T) {
	var top struct {
		Tracks struct {
			Children []struct {
				Kind     string
				Children []struct {
					Schema      string `json:"OTIO_SCHEMA"`
					Name        string
					SourceRange struct {
						Start struct{ Rate, Value float64 } `json:"start_time"`
						Dur   struct{ Value float64 }       `json:"duration"`
					} `json:"source_range"`
					Effects []struct {
						Scalar float64 `json:"time_scalar"`
					}
					In    struct{ Value float64 } `json:"in_offset"`
					Out   struct{ Value float64 } `json:"out_offset"`
					Media map[string]struct {
						Schema string `json:"OTIO_SCHEMA"`
						URL    string `json:"target_url"`
					} `json:"media_references"`
				}
			}
		}
	}
	require.NoError(t, json.Unmarshal(interchange.WriteOTIO(rich(), "cut", map[string]interchange.Delivered{"s1": {File: "outputs/010.mp4", Head: 5, Frames: 60}}).Data, &top))
	require.Len(t, top.Tracks.Children, 3, "main, spare and sound")
	at := 0.0
	var said []string
	for _, c := range top.Tracks.Children[0].Children {
		switch c.Schema {
		case "Transition.1":
			said = append(said, fmt.Sprintf("join %v+%v at %v", c.In.Value, c.Out.Value, at))
		case "Gap.1":
			said = append(said, fmt.Sprintf("gap %v", c.SourceRange.Dur.Value))
			at += c.SourceRange.Dur.Value
		default:
			speed := 1.0
			if len(c.Effects) > 0 {
				speed = c.Effects[0].Scalar
			}
			assert.Equal(t, 24.0, c.SourceRange.Start.Rate)
			said = append(said, fmt.Sprintf("%s at %v: %v for %v ×%v", c.Name[:3], at, c.SourceRange.Start.Value, c.SourceRange.Dur.Value, speed))
			at += c.SourceRange.Dur.Value
		}
	}
	assert.Equal(t, []string{
		"010 at 0: 5 for 48 ×1", "join 8+8 at 48", "020 at 48: 40.5 for 48 ×0.5", "join 6+6 at 96", "030 at 96: 80 for 24 ×0", "gap 10",
		"040 at 130: 104 for 20 ×1", "050 at 150: 124 for 40 ×2", "060 at 190: 44 for 40 ×1", "join 12+12 at 230", "070 at 230: 90 for 40 ×1", "080 at 270: 130 for 30 ×1",
	}, said)
	first := top.Tracks.Children[0].Children[0].Media["DEFAULT_MEDIA"]
	assert.Equal(t, []string{"ExternalReference.1", "outputs/010.mp4"}, []string{first.Schema, first.URL})
}

// foreign is a timeline by hand: at 30 frames per second, with names that tell
// cameras, a gap, a dissolve, a nested stack, an effect and a clip of an unknown
// camera.
const foreign = `{"OTIO_SCHEMA":"Timeline.1","name":"from elsewhere","tracks":{"OTIO_SCHEMA":"Stack.1","children":[
 {"OTIO_SCHEMA":"Track.1","kind":"Video","name":"V1","children":[
  {"OTIO_SCHEMA":"Clip.2","name":"A","source_range":{"start_time":{"rate":30,"value":60},"duration":{"rate":30,"value":60}}},
  {"OTIO_SCHEMA":"Transition.1","transition_type":"SMPTE_Dissolve","in_offset":{"rate":30,"value":5},"out_offset":{"rate":30,"value":10}},
  {"OTIO_SCHEMA":"Clip.1","name":"030 close","media_reference":{"OTIO_SCHEMA":"MissingReference.1","name":"CAM02"},"source_range":{"start_time":{"rate":30,"value":0},"duration":{"rate":30,"value":30}},"effects":[{"OTIO_SCHEMA":"LinearTimeWarp.1","time_scalar":2},{"OTIO_SCHEMA":"Effect.1"}]},
  {"OTIO_SCHEMA":"Gap.1","source_range":{"start_time":{"rate":30,"value":0},"duration":{"rate":30,"value":15}}},
  {"OTIO_SCHEMA":"Stack.1","name":"inner","source_range":{"start_time":{"rate":30,"value":0},"duration":{"rate":30,"value":45}}},
  {"OTIO_SCHEMA":"Clip.2","name":"helicopter","media_references":{"x":{"OTIO_SCHEMA":"ExternalReference.1","available_range":{"start_time":{"rate":24,"value":7},"duration":{"rate":24,"value":9}}}},"active_media_reference_key":"x"}
 ]},
 {"OTIO_SCHEMA":"Track.1","kind":"Audio","children":[{"OTIO_SCHEMA":"Clip.2","name":"music","source_range":{"start_time":{"rate":30,"value":0},"duration":{"rate":30,"value":15}}}]}],
 "markers":[{"OTIO_SCHEMA":"Marker.2","name":"here","color":"GREEN","marked_range":{"start_time":{"rate":30,"value":30},"duration":{"rate":30,"value":0}}}]}}`

func TestForeignOTIO(t *testing.T) {
	d := scenetest.Small()
	in, said, err := interchange.ReadOTIO(d, []byte(foreign))
	require.NoError(t, err)
	id := brought(t, d, in)
	var got []string
	for _, s := range program.Shots(d, program.MainLane(d, id)) {
		got = append(got, fmt.Sprintf("%s %s%s[%d,%d)@%g×%g", s.Number, s.Camera, s.Plays, s.ScreenIn, s.ScreenOut, s.StoryIn, s.Speed))
	}
	assert.Equal(t, []string{"010 a[0,48)@48×1", "030 b[48,72)@0×2", "040 board[120,129)@7×1"}, got)
	assert.Equal(t, "from elsewhere", d.Assemblies[id].Name)
	second := program.Shots(d, program.MainLane(d, id))[1]
	assert.Equal(t, &scene.Join{Kind: scene.Dissolve, Before: 4, After: 8}, second.Join)
	assert.Equal(t, 8, second.Head, "four frames at double speed")
	for _, want := range []string{
		"Effects such as Effect.1 were left out.",
		"The scene has no camera for “helicopter”; the shot stands without one.", "One sound was left out: its file is elsewhere; add it as a sound file.",
	} {
		assert.Contains(t, said, want)
	}
	for _, m := range d.Markers {
		if m.Assembly == id {
			assert.Equal(t, [2]any{24, "#7cc68d"}, [2]any{m.Frame, m.Color})
		}
	}
}

func TestCutsThatCannotBeRead(t *testing.T) {
	d := scenetest.Small()
	for body, says := range map[string]string{
		`nonsense`:                     "no JSON",
		`{}`:                           "not a timeline",
		`{"OTIO_SCHEMA":"Clip.2"}`:     "not a timeline",
		`{"OTIO_SCHEMA":"Timeline.1"}`: "not a timeline",
		`{"OTIO_SCHEMA":"Stack.1"}`:    "no video track",
		strings.Repeat("[", 20_000):    "no JSON",
		`{"OTIO_SCHEMA":"Timeline.1","tracks":{"OTIO_SCHEMA":"Stack.1","children":[{"OTIO_SCHEMA":"Track.1","kind":"Video","children":[{"OTIO_SCHEMA":"Clip.2","source_range":{"start_time":{"rate":24,"value":0},"duration":{"rate":24,"value":9999999}}},{"OTIO_SCHEMA":"Clip.2","source_range":{"start_time":{"rate":24,"value":0},"duration":{"rate":24,"value":9999999}}}]}]}}`: "longer than",
	} {
		_, _, err := interchange.ReadOTIO(d, []byte(body))
		assert.ErrorIs(t, err, interchange.ErrCut)
		assert.ErrorContains(t, err, says, "%.60s", body)
	}
	for body, says := range map[string]string{
		"":                "no events",
		"TITLE: x\r\n001": "line 2",
		"001  CAM01 V C 00:00:00:00 00:00:01:00 01:00:00:00 01:00:61:00": "end at 59",
		"FCM: DROP FRAME\n": "does not exist at the scene's 24",
		"001  CAM01 V C 00:00:00:00 00:00:01:00 01:00:00:00 01:00:02:00\n002  CAM01 V C 00:00:00:00 00:00:01:00 01:00:01:00 01:00:03:00": "line 2 begins while",
		"001  CAM01 V C 00:00:00:00 00:00:01:00 01:00:02:00 01:00:01:00":                                                                 "ends before it begins",
		strings.Repeat("x", 100_000): "too long",
	} {
		_, _, err := interchange.ReadEDL(d, []byte(body))
		assert.ErrorIs(t, err, interchange.ErrCut)
		assert.ErrorContains(t, err, says, "%.60s", body)
	}
}

func TestEDLComesBackEqual(t *testing.T) {
	d := rich()
	w := interchange.WriteEDL(d, "cut", nil)
	for _, want := range []string{"The 2 lines of dialogue are not in the list.", "The sound is not in the list.", "The marker is not in the list.", "The shot of the spare lane is not in the list."} {
		assert.Contains(t, w.Notes, want)
	}
	in, said, err := interchange.ReadEDL(d, w.Data)
	require.NoError(t, err)
	assert.Empty(t, said)
	id := brought(t, d, in)
	for _, x := range program.Differences(d, "cut", id) {
		t.Errorf("%+v", x)
	}
	main, back := program.Shots(d, "main"), program.Shots(d, program.MainLane(d, id))
	for i := range main {
		assert.Equal(t, main[i].Screen(), back[i].Screen(), main[i].Number)
		assert.Equal(t, main[i].Name, back[i].Name)
	}
}

// TestForeignEDL reads a list written by hand: a cut, a dissolve of a second, a
// wipe, a gap, half speed, and sound.
func TestForeignEDL(t *testing.T) {
	const list = `TITLE: REEL ONE
FCM: NON-DROP FRAME

001  CAM01    V     C        00:00:02:00 00:00:05:00 01:00:00:00 01:00:03:00
* FROM CLIP NAME: 010 THE WAITING
001  CAM01    A     C        00:00:02:00 00:00:05:00 01:00:00:00 01:00:03:00
002  CAM01    V     C        00:00:05:00 00:00:05:00 01:00:03:00 01:00:03:00
002  B        V     D    024 00:00:01:00 00:00:03:00 01:00:03:00 01:00:05:00
003  X99      V     W001 012 00:00:00:00 00:00:01:00 01:00:05:00 01:00:06:00
004  CAM02    V     C        00:00:04:00 00:00:04:12 01:00:08:00 01:00:09:00
M2   CAM02    012.0                00:00:04:00
`
	d := scenetest.Small()
	in, said, err := interchange.ReadEDL(d, []byte(list))
	require.NoError(t, err)
	id := brought(t, d, in)
	var got []string
	for _, s := range program.Shots(d, program.MainLane(d, id)) {
		got = append(got, fmt.Sprintf("%s %s%s[%d,%d)@%g×%g %s", s.Number, s.Camera, s.Plays, s.ScreenIn, s.ScreenOut, s.StoryIn, s.Speed, scene.Canonical(s.Join)))
	}
	// The dissolve runs over frames 72 to 95: its seam is at 84, twelve frames into
	// the source, and the wipe's at 126.
	assert.Equal(t, []string{
		`010 a[0,84)@48×1 null`,
		`020 b[84,126)@36×1 {"kind":"dissolve","before":12,"after":12}`,
		`030 board[126,144)@6×1 {"kind":"dissolve","before":6,"after":6}`,
		`040 b[192,216)@96×0.5 null`,
	}, got)
	assert.Equal(t, "REEL ONE", d.Assemblies[id].Name)
	assert.Contains(t, said, "Events of sound were left out.")
	assert.Contains(t, said, "A wipe became a dissolve.")
}

func TestLinesComeBackEqual(t *testing.T) {
	for _, rate := range []timing.Rate{timing.Film24, timing.Video25, timing.Video299, timing.Film2397, {Num: 60, Den: 1}} {
		d := rich()
		d.Settings.Rate = rate
		for _, body := range [][]byte{interchange.WriteSRT(d, "cut", scene.StoryClock).Data, interchange.WriteVTT(d, "cut", scene.StoryClock).Data} {
			lines, said, err := interchange.ReadCaptions(d, body)
			require.NoError(t, err)
			assert.Empty(t, said)
			assert.Equal(t, []scene.Line{d.Lines["l1"], d.Lines["l2"]}, lines, "%s\n%s", rate, body)
		}
	}
	d := rich()
	w := interchange.WriteSRT(d, "cut", scene.ScreenClock)
	// Line 1 is story 20 to 44: shot 010 shows it at screen 10 to 34, shot 020 from
	// story 40.5 on at half speed, screen 48 to 55, and 060 only its last nothing.
	assert.True(t, strings.HasPrefix(string(w.Data), "1\r\n00:00:00,417 --> 00:00:01,417\r\nWalker: Then I'm the last one down.\r\n\r\n2\r\n00:00:01,667 --> 00:00:02,000\r\nWalker: Is <it>"), "%s", w.Data)
	assert.NotEmpty(t, w.Notes)
}

func TestForeignCaptions(t *testing.T) {
	d := scenetest.Small()
	lines, said, err := interchange.ReadCaptions(d, []byte("\xef\xbb\xbfWEBVTT - made by hand\n\nNOTE\nnot this\n\nSTYLE\n::cue{}\n\nintro\n00:01.000 --> 00:02.500 align:start\n<v Walker>Hello <b>there</b>\nagain\n\n1:00:00.000 --> 1:00:01.000\nStranger: who?\n"))
	require.NoError(t, err)
	assert.Equal(t, []scene.Line{
		{Cast: "walker", Text: "Hello there again", In: 24, Out: 60},
		{Cast: "walker", Text: "Stranger: who?", In: 86400, Out: 86424},
	}, lines)
	assert.Equal(t, []string{"Lines of nobody went to Walker."}, said)
	_, _, err = interchange.ReadCaptions(d, []byte("hello"))
	assert.ErrorContains(t, err, "holds no times")
	delete(d.Nodes, "walker")
	_, _, err = interchange.ReadCaptions(d, []byte("00:01.000 --> 00:02.500\nx"))
	assert.ErrorContains(t, err, "no cast")
}

func TestShotListAsCSV(t *testing.T) {
	w := interchange.WriteCSV(rich(), "cut")
	rows := strings.Split(strings.TrimSpace(string(w.Data)), "\r\n")
	require.Len(t, rows, 9)
	assert.Equal(t, "010,Waiting = long,1,A,18,0,48,00:00:00:00,00:00:02:00,10,57,1,cut,12,12,agreed,", rows[1])
	assert.Equal(t, "020,'=1+1,2,B,18,48,48,00:00:02:00,00:00:04:00,40.5,64,0.5,dissolve 16 f,12,12,,slow", rows[2])
	assert.Equal(t, "040,,,card title,,130,20,00:00:05:10,00:00:06:06,104,123,1,cut,0,0,,", rows[4])
}

// fits brings what a reader gives into a scene: whatever the bytes were, the
// scene stays valid.
func fits(t *testing.T, d *scene.Document, op string, v any) {
	args, err := json.Marshal(v)
	if err != nil {
		t.Fatal(err)
	}
	before := string(d.Encode())
	if _, err := catalog.Run(d, op, args, tools()); err != nil {
		if string(d.Encode()) != before {
			t.Fatal("a refusal changed the scene")
		}
		return
	}
	if p := d.Validate(); len(p) > 0 {
		t.Fatal(p)
	}
}

func FuzzReadOTIO(f *testing.F) {
	f.Add([]byte(foreign))
	for _, name := range []string{"rates.otio", "nested.otio"} {
		f.Add(ofOthers(f, name))
	}
	f.Add([]byte("camera,shot,frame,x,y,z,pan,tilt,roll,focal length\nA,010,0,0,1,2,0,0,0,35\n"))
	f.Add(interchange.WriteOTIO(rich(), "cut", nil).Data)
	f.Fuzz(func(t *testing.T, data []byte) {
		d := scenetest.Small()
		if in, _, err := interchange.ReadOTIO(d, data); err == nil {
			fits(t, d, "assemblyBring", in)
		}
	})
}

func FuzzReadEDL(f *testing.F) {
	f.Add(interchange.WriteEDL(rich(), "cut", nil).Data)
	f.Add([]byte("001  CAM01    V     D    024 00:00:02:00 00:00:05:00 01:00:00:00 01:00:03:00\n* JOIN: dip 3 4 #00\nM2 X -5 0"))
	f.Fuzz(func(t *testing.T, data []byte) {
		d := scenetest.Small()
		if in, _, err := interchange.ReadEDL(d, data); err == nil {
			fits(t, d, "assemblyBring", in)
		}
	})
}

func FuzzReadCaptions(f *testing.F) {
	for _, name := range []string{"dialogue.srt", "latin1.srt", "utf16le.srt", "notes.vtt"} {
		f.Add(ofOthers(f, name))
	}
	f.Add([]byte("WEBVTT\n\n00:01.000 --> 00:02.500\n<v Walker>x"))
	f.Add(interchange.WriteSRT(rich(), "cut", scene.StoryClock).Data)
	f.Fuzz(func(t *testing.T, data []byte) {
		d := scenetest.Small()
		if lines, _, err := interchange.ReadCaptions(d, data); err == nil {
			fits(t, d, "linesBring", map[string]any{"lines": lines})
		}
	})
}
