package main

import (
	"bytes"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"fmt"
	"image"
	"image/color"
	"image/png"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"syscall"
	"testing"
	"time"

	"proscen/core/scene"
	"proscen/internal/demo"
	"proscen/internal/render"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

var binary string

func TestMain(m *testing.M) {
	dir, err := os.MkdirTemp("", "proscen-cli-*")
	if err != nil {
		panic(err)
	}
	binary = filepath.Join(dir, "proscen")
	if out, err := exec.Command("go", "build", "-o", binary, ".").CombinedOutput(); err != nil {
		panic(string(out))
	}
	code := m.Run()
	_ = os.RemoveAll(dir)
	os.Exit(code)
}

// cli runs the program and returns what it printed and its exit code.
func cli(t *testing.T, args ...string) (stdout, stderr string, code int) {
	t.Helper()
	cmd := exec.Command(binary, args...)
	var out, errs bytes.Buffer
	cmd.Stdout, cmd.Stderr = &out, &errs
	_ = cmd.Run()
	return out.String(), errs.String(), cmd.ProcessState.ExitCode()
}

func exported(t *testing.T) string {
	t.Helper()
	file := filepath.Join(t.TempDir(), "demo.json")
	_, errs, code := cli(t, "demo", "export", file)
	require.Zero(t, code, errs)
	return file
}

func TestDemoExportIsTheScene(t *testing.T) {
	body, err := os.ReadFile(exported(t))
	require.NoError(t, err)
	doc, err := scene.Decode(body)
	require.NoError(t, err)
	assert.Equal(t, string(demo.Scene().Encode()), string(doc.Encode()))
}

func TestInspectPrintsTheNumbers(t *testing.T) {
	file := exported(t)
	out, errs, code := cli(t, "inspect", file, "--screen-frame", "190", "--json")
	require.Zero(t, code, errs)
	var got inspected
	require.NoError(t, json.Unmarshal([]byte(out), &got))
	require.Len(t, got.Shots, 1)
	// Shot 010 has 176 frames and ends at story frame 232; shot 020 begins at 228.
	assert.Equal(t, inspectShot{"020", "Ida waits", "Ida waits", 1, 242}, got.Shots[0])
	cam := got.Cameras[0]
	assert.Equal(t, 50.0, cam.FocalLength)
	assert.InDelta(t, 24.89, cam.Gate.Width, 1e-9)
	assert.InDelta(t, 24.89*9/16, cam.Gate.Height, 1e-9)
	assert.InDelta(t, 27.9538, cam.HFov, 0.0001, "2·atan(24.89/100)")
	assert.Equal(t, cam.Position[0], cam.Matrix[0][3])
	assert.Equal(t, [4]float64{0, 0, 0, 1}, cam.Matrix[3])

	for _, name := range []string{"Docking side", "3", "camera-3"} {
		out, _, code = cli(t, "inspect", file, "--camera", name, "--story-frame", "12.5", "--json")
		require.Zero(t, code)
		require.NoError(t, json.Unmarshal([]byte(out), &got))
		assert.Equal(t, 3, got.Cameras[0].Number)
		assert.InDelta(t, -45, got.Cameras[0].Pan, 1e-9)
	}
	out, _, code = cli(t, "inspect", file, "--screen-frame", "99999")
	assert.Zero(t, code)
	assert.Contains(t, out, "nothing is on air")
}

func TestStillWritesOneFrame(t *testing.T) {
	file, dir := exported(t), t.TempDir()
	out := filepath.Join(dir, "five.png")
	_, errs, code := cli(t, "still", file, "--camera", "5", "--story-frame", "500", "--size", "320x180", "--out", out)
	require.Zero(t, code, errs)
	f, err := os.Open(out)
	require.NoError(t, err)
	im, err := png.Decode(f)
	require.NoError(t, err)
	assert.Equal(t, image.Pt(320, 180), im.Bounds().Size())
	seen := map[color.Color]bool{}
	for x := range 320 {
		seen[im.At(x, 90)] = true
	}
	assert.Greater(t, len(seen), 20, "and it shows something")
	// A shot names its camera and its first frame: the same as both by hand.
	doc := demo.Scene()
	shot := doc.ShotsInOrder()[2]
	both := filepath.Join(dir, "both.png")
	_, errs, code = cli(t, "still", file, "--shot", shot.Number, "--size", "320x180", "--out", out)
	require.Zero(t, code, errs)
	_, errs, code = cli(t, "still", file, "--camera", doc.Nodes[shot.Camera].Name, "--story-frame", fmt.Sprint(shot.StoryIn), "--size", "320x180", "--out", both)
	require.Zero(t, code, errs)
	one, err := os.ReadFile(out)
	require.NoError(t, err)
	other, err := os.ReadFile(both)
	require.NoError(t, err)
	assert.Equal(t, other, one)
	for says, args := range map[string][]string{
		"no shot": {"still", file, "--shot", "999", "--out", out}, "no camera": {"still", file, "--camera", "99", "--out", out}, "--out": {"still", file, "--camera", "5"},
		"out of range": {"still", file, "--camera", "5", "--size", "1x1", "--out", out},
	} {
		_, errs, code := cli(t, args...)
		assert.Equal(t, 2, code)
		assert.Contains(t, errs, says)
	}
}

func TestRenderWritesVideosAndManifest(t *testing.T) {
	file, dir := exported(t), t.TempDir()
	var first render.Manifest
	for version, threads := range []string{"1", "2"} {
		_, errs, code := cli(t, "render", file, "--out", dir, "--shots", "020,030", "--size", "160x90", "--threads", threads)
		require.Zero(t, code, errs)
		body, err := os.ReadFile(filepath.Join(dir, "manifest.json"))
		require.NoError(t, err)
		var m render.Manifest
		require.NoError(t, json.Unmarshal(body, &m))
		require.Len(t, m.Outputs, 2+2*version, "what earlier runs have made is still in it")
		o := m.Outputs[2*version]
		assert.Equal(t, "020", o.Shot)
		assert.Equal(t, "Ida waits", o.Camera)
		assert.Equal(t, []any{60, "24", 160, 90}, []any{o.Frames, o.Rate, o.Width, o.Height})
		assert.Equal(t, []string{"first-cut/020/last-car-down_020_cam02_wide-16-9_v001.mp4", "first-cut/020/last-car-down_020_cam02_wide-16-9_v002.mp4"}[version], o.File)
		video, err := os.ReadFile(filepath.Join(dir, o.File))
		require.NoError(t, err)
		sum := sha256.Sum256(video)
		assert.Equal(t, hex.EncodeToString(sum[:]), o.Sha256)
		if version == 0 {
			first = m
			continue
		}
		assert.Equal(t, first.Outputs[0].Sha256, o.Sha256, "two threads make the same bytes as one")
		assert.Equal(t, first.Outputs[1].Sha256, m.Outputs[3].Sha256)
		assert.Equal(t, first.Outputs, m.Outputs[:2])
	}
	left, err := filepath.Glob(filepath.Join(dir, ".*"))
	require.NoError(t, err)
	assert.Empty(t, left, "nothing temporary is left")
}

func TestARunThatIsBrokenOffLeavesNothingHalf(t *testing.T) {
	file, dir := exported(t), t.TempDir()
	hidden := func() []string {
		left, err := filepath.Glob(filepath.Join(dir, ".*"))
		require.NoError(t, err)
		return left
	}
	begin := func() *exec.Cmd {
		cmd := exec.Command(binary, "render", file, "--out", dir, "--shots", "010", "--size", "960x540")
		require.NoError(t, cmd.Start())
		t.Cleanup(func() { _ = cmd.Process.Kill() })
		require.Eventually(t, func() bool { return len(hidden()) > 0 }, 20*time.Second, 10*time.Millisecond)
		return cmd
	}
	cmd := begin()
	require.NoError(t, cmd.Process.Signal(syscall.SIGHUP))
	_ = cmd.Wait()
	assert.Equal(t, 1, cmd.ProcessState.ExitCode())
	assert.Empty(t, hidden(), "somebody has hung up")
	cmd = begin()
	require.NoError(t, cmd.Process.Kill())
	_ = cmd.Wait()
	assert.NotEmpty(t, hidden(), "who is killed cannot tidy up")
	_, errs, code := cli(t, "render", file, "--out", dir, "--shots", "070", "--size", "64x36", "--quality", "rough")
	require.Zero(t, code, errs)
	assert.Empty(t, hidden(), "the next run does")
}

func TestManifestsOfEarlierRuns(t *testing.T) {
	dir := t.TempDir()
	m, err := manifestIn(dir)
	require.NoError(t, err)
	assert.Empty(t, m.Outputs)
	require.NoError(t, os.MkdirAll(filepath.Join(dir, "cut"), 0o755))
	require.NoError(t, os.WriteFile(filepath.Join(dir, "cut", "a.mp4"), nil, 0o600))
	m.Outputs = []render.ManifestOutput{{Shot: "010", File: "cut/a.mp4"}, {Shot: "020", File: "cut/gone.mp4"}, {Shot: "030", File: "../else.mp4"}}
	body, err := m.Encode()
	require.NoError(t, err)
	name := filepath.Join(dir, "manifest.json")
	require.NoError(t, os.WriteFile(name, body, 0o600))
	m, err = manifestIn(dir)
	require.NoError(t, err)
	require.Len(t, m.Outputs, 1)
	assert.Equal(t, "010", m.Outputs[0].Shot)
	require.NoError(t, os.WriteFile(name, []byte(`{"name":"my web page"}`), 0o600))
	_, err = manifestIn(dir)
	assert.ErrorContains(t, err, "is no manifest of ours and would be replaced")
}

func TestNamesAreGivenOnDisksWithoutHardLinks(t *testing.T) {
	dir := t.TempDir()
	made, to := filepath.Join(dir, "made"), filepath.Join(dir, "film.mp4")
	without := func(string, string) error { return &os.LinkError{Op: "link", Err: syscall.EPERM} }
	write := func(text string) { require.NoError(t, os.WriteFile(made, []byte(text), 0o600)) }
	for k, link := range []func(string, string) error{without, os.Link} {
		_ = os.Remove(to)
		write("first")
		require.NoError(t, named(made, to, link), k)
		write("second")
		assert.ErrorIs(t, named(made, to, link), os.ErrExist, "%d: nobody else's video is replaced", k)
		body, err := os.ReadFile(to)
		require.NoError(t, err)
		assert.Equal(t, "first", string(body))
	}
	assert.Equal(t, "operation not permitted", cause(without("", "")).Error(), "temporary names say nothing to anybody")
}

func TestWrongInputIsASentenceAndCodeTwo(t *testing.T) {
	file, dir := exported(t), t.TempDir()
	write := func(body string) string {
		f := filepath.Join(t.TempDir(), "bad.json")
		require.NoError(t, os.WriteFile(f, []byte(body), 0o600))
		return f
	}
	good, err := os.ReadFile(file)
	require.NoError(t, err)
	none := filepath.Join(dir, "none")
	for _, c := range []struct {
		says string
		args []string
	}{
		{"there is no such file", []string{"inspect", "/no/such/file", "--screen-frame", "1"}},
		{"is a directory", []string{"inspect", dir, "--screen-frame", "1"}},
		{"line 1, column 1", []string{"render", write(strings.Repeat("junk", 2_500_000)), "--out", none}},
		{"line 2, column", []string{"inspect", write("{\n oops }"), "--screen-frame", "1"}},
		{"shots/shot-010/camera", []string{"render", write(strings.Replace(string(good), `"camera": "camera-1"`, `"camera": "camera-99"`, 1)), "--out", none}},
		{"is not a frame number", []string{"inspect", file, "--screen-frame", "NaN"}},
		{"say what to look at", []string{"inspect", file}},
		{"no camera \"Nobody\"", []string{"inspect", file, "--camera", "Nobody", "--story-frame", "0"}},
		{"no assembly called", []string{"inspect", file, "--assembly", "x", "--screen-frame", "0"}},
		{"--out DIR", []string{"render", file}},
		{"no shot 999", []string{"render", file, "--out", none, "--shots", "999"}},
		{"names no shot", []string{"render", file, "--out", none, "--shots", ","}},
		{"write it as 1280x720", []string{"render", file, "--out", none, "--size", "big"}},
		{"must be even", []string{"render", file, "--out", none, "--size", "641x480"}},
		{"rough, check or fine", []string{"render", file, "--out", none, "--quality", "best"}},
		{"--threads", []string{"render", file, "--out", none, "--threads", "-3"}},
		{"unknown flag", []string{"render", "--loud"}},
		{"no command \"fly\"", []string{"fly"}},
		{"refusing to listen", []string{"serve", "--listen", "0.0.0.0:80"}},
		{"no database is given", []string{"serve", "--database", ""}},
	} {
		_, errs, code := cli(t, c.args...)
		assert.Equal(t, 2, code, "%v: %s", c.args, errs)
		assert.Contains(t, errs, c.says)
		assert.Equal(t, 1, strings.Count(errs, "\n"), "one line: %s", errs)
	}
	_, err = os.Stat(none)
	assert.ErrorIs(t, err, os.ErrNotExist, "nothing was written")
}

func TestFailuresAreCodeOne(t *testing.T) {
	file := exported(t)
	cmd := exec.Command(binary, "render", file, "--out", t.TempDir())
	cmd.Env = []string{"PATH=/nowhere"}
	out, _ := cmd.CombinedOutput()
	assert.Equal(t, 1, cmd.ProcessState.ExitCode())
	assert.Contains(t, string(out), "ffmpeg is not installed")
	_, errs, code := cli(t, "demo", "export", "/no/such/folder/x.json")
	assert.Equal(t, 1, code)
	assert.Contains(t, errs, "cannot be written")
	_, errs, code = cli(t, "serve", "--database", "postgres://x@127.0.0.1:1/x", "--listen", "127.0.0.1:0")
	assert.Equal(t, 1, code)
	assert.Contains(t, errs, "PostgreSQL does not answer")
}

func TestEveryCommandHasHelp(t *testing.T) {
	for _, c := range [][]string{{}, {"serve"}, {"work"}, {"migrate"}, {"demo"}, {"demo", "export"}, {"inspect"}, {"render"}} {
		out, _, code := cli(t, append(c, "--help")...)
		assert.Zero(t, code, c)
		assert.Contains(t, out, "Usage:", c)
	}
}
