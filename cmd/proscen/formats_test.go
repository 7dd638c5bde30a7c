package main

import (
	"encoding/json"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"proscen/core/scene"
	"proscen/internal/render"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestExportAndImport(t *testing.T) {
	file, dir := exported(t), t.TempDir()
	otio := filepath.Join(dir, "cut.otio")
	manifest := filepath.Join(dir, "manifest.json")
	require.NoError(t, os.WriteFile(manifest, []byte(`{"outputs":[{"shot":"030","file":"v/030_v002.mp4"}]}`), 0o600))
	_, errs, code := cli(t, "export", file, "--as", "otio", "--out", otio, "--manifest", manifest)
	require.Zero(t, code, errs)
	assert.Contains(t, errs, "note: 4 markers lie on the story clock")
	body, err := os.ReadFile(otio)
	require.NoError(t, err)
	assert.Contains(t, string(body), `"target_url": "v/030_v002.mp4"`)

	grown := filepath.Join(dir, "grown.json")
	out, errs, code := cli(t, "import", otio, "--into", file, "--out", grown)
	require.Zero(t, code, errs)
	assert.Equal(t, "bring in assembly first cut 2 with 11 shots\n", out)
	body, err = os.ReadFile(grown)
	require.NoError(t, err)
	doc, err := scene.Decode(body)
	require.NoError(t, err)
	assert.Len(t, doc.Assemblies, 2)

	for _, as := range []string{"edl", "srt", "vtt", "csv", "xlsx", "list", "storyboard"} {
		to := filepath.Join(dir, "x."+as)
		_, errs, code := cli(t, "export", file, "--as", as, "--out", to)
		require.Zero(t, code, errs)
		info, err := os.Stat(to)
		require.NoError(t, err)
		assert.Greater(t, info.Size(), int64(200), as)
	}
	story := filepath.Join(dir, "story.srt")
	_, errs, code = cli(t, "export", file, "--as", "srt", "--clock", "story", "--out", story)
	require.Zero(t, code, errs)
	out, errs, code = cli(t, "import", story, "--into", file, "--out", grown)
	require.Zero(t, code, errs)
	assert.Equal(t, "bring in 4 lines\n", out)

	require.NoError(t, os.WriteFile(manifest+"x", []byte("hello"), 0o600))
	for says, args := range map[string][]string{
		"usda, gltf or moves, not":     {"export", file, "--as", "avi", "--out", otio},
		"say where the file goes":      {"export", file, "--as", "otio"},
		"no assembly \"none\"":         {"export", file, "--as", "otio", "--assembly", "none", "--out", otio},
		"--clock is story or screen":   {"export", file, "--as", "srt", "--clock", "wall", "--out", otio},
		"neither OpenTimelineIO":       {"import", manifest + "x", "--into", file, "--out", grown},
		"say which scene it goes into": {"import", otio},
	} {
		_, errs, code := cli(t, args...)
		assert.Equal(t, 2, code, args)
		assert.Contains(t, errs, says)
	}
}

func TestBenchSaysWhatIsWrong(t *testing.T) {
	for _, c := range []struct {
		says string
		args []string
	}{
		{"name a model and a camera move", []string{"bench", "picture", "one"}},
		{"no such file", []string{"bench", "picture", "nowhere.glb", "nowhere.json"}},
		{"--png-frames takes frame numbers", []string{"bench", "picture", "a", "b", "--png-frames", "x"}},
		{"--threads is at least 1", []string{"bench", "picture", "a", "b", "--threads", "0"}},
	} {
		_, errs, code := cli(t, c.args...)
		assert.Equal(t, 2, code)
		assert.Contains(t, errs, c.says)
	}
	out, _, code := cli(t, "bench")
	assert.Zero(t, code)
	assert.Contains(t, out, "picture")
}

// The demonstration's tall alternate has a longer shot 070: its video, its manifest and its
// timeline are its own, beside those of the scene.
func TestAlternatesAreWrittenBesideTheScene(t *testing.T) {
	file, dir := exported(t), t.TempDir()
	videos := filepath.Join(dir, "videos")
	for _, as := range [][]string{nil, {"--alternate", "tall"}} {
		_, errs, code := cli(t, append([]string{"render", file, "--out", videos, "--shots", "070", "--size", "64x36", "--quality", "rough"}, as...)...)
		require.Zero(t, code, errs)
		otio := filepath.Join(dir, "cut.otio")
		_, errs, code = cli(t, append([]string{"export", file, "--as", "otio", "--out", otio, "--manifest", filepath.Join(videos, "manifest.json")}, as...)...)
		require.Zero(t, code, errs)
		body, err := os.ReadFile(otio)
		require.NoError(t, err)
		assert.Equal(t, as == nil, strings.Contains(string(body), "070_cam07_wide-16-9_v001.mp4"))
		assert.Equal(t, as != nil, strings.Contains(string(body), "070_cam07_tall-9-16_tall_v001.mp4"))
	}
	body, err := os.ReadFile(filepath.Join(videos, "manifest.json"))
	require.NoError(t, err)
	var m render.Manifest
	require.NoError(t, json.Unmarshal(body, &m))
	require.Len(t, m.Outputs, 2)
	assert.Equal(t, []string{"", "tall"}, []string{m.Outputs[0].As, m.Outputs[1].As})
	assert.Equal(t, []int{60, 66}, []int{m.Outputs[0].Frames, m.Outputs[1].Frames})
	_, errs, code := cli(t, "inspect", file, "--alternate", "noon")
	assert.Equal(t, 2, code)
	assert.Contains(t, errs, "--alternate: there is no alternate called")
}
