package main

import (
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"strings"
	"syscall"
	"testing"

	"proscen/internal/pgtest"

	"github.com/spf13/cobra"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// What the examples of --help work with that they do not make themselves.
var given = map[string]string{
	"monday.csv": "Shot,Frames\n010,160\n",
	"videos/one.edl": "TITLE: one\nFCM: NON-DROP FRAME\n001  CAM07    V     C        00:00:00:00 00:00:02:12 01:00:00:00 01:00:02:12\n" +
		"* SOURCE FILE: first-cut/070/last-car-down_070_cam07_wide-16-9_v001.mp4\n",
	"model.obj": "v 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 3\n",
	"cameras.json": `{"width":64,"height":36,"aspect":1.7778,"sun":{"direction":[0,-1,0],"color":[1,1,1]},"hemi":{"sky":[0.2,0.2,0.2],"ground":[0.2,0.2,0.2]},
		"background":[0,0,0],"shadow":{"halfExtent":5,"distance":10,"near":1,"far":20,"bias":0,"normalBias":0},
		"frames":[{"position":[0,0,4],"quaternion":[0,0,0,1],"fov":40},{"position":[0,0,5],"quaternion":[0,0,0,1],"fov":40},{"position":[0,0,6],"quaternion":[0,0,0,1],"fov":40},{"position":[0,0,7],"quaternion":[0,0,0,1],"fov":40}]}`,
}

// words splits a line as a shell does that knows quotation marks only.
func words(line string) (out []string) {
	for _, w := range regexp.MustCompile(`"[^"]*"|\S+`).FindAllString(line, -1) {
		out = append(out, strings.Trim(w, `"`))
	}
	return out
}

func TestEveryCommandHasAnExampleThatWorks(t *testing.T) {
	root := commands()
	shown := map[string]bool{}
	var look func(c *cobra.Command)
	look = func(c *cobra.Command) {
		for _, sub := range c.Commands() {
			look(sub)
		}
		if !c.HasSubCommands() {
			name := strings.TrimPrefix(c.CommandPath(), "proscen ")
			shown[name] = true
			assert.NotEmpty(t, c.Example, "%s has an example", name)
		}
	}
	look(root)
	dir := t.TempDir()
	for name, text := range given {
		require.NoError(t, os.MkdirAll(filepath.Dir(filepath.Join(dir, name)), 0o755))
		require.NoError(t, os.WriteFile(filepath.Join(dir, name), []byte(text), 0o600))
	}
	env := append(os.Environ(), "PROSCEN_DATABASE="+pgtest.Database(t), "PROSCEN_BLOBS="+filepath.Join(dir, "blobs"), "PROSCEN_LISTEN=127.0.0.1:0")
	command := func(args ...string) *exec.Cmd {
		cmd := exec.Command(binary, args...)
		cmd.Dir, cmd.Env = dir, env
		return cmd
	}
	for _, e := range examples {
		require.True(t, shown[e.command], e.command)
		delete(shown, e.command)
		help, err := command(append(words(e.command), "--help")...).CombinedOutput()
		require.NoError(t, err)
		for _, line := range strings.Split(e.lines, "\n") {
			require.Contains(t, string(help), "\n  "+line+"\n")
			args := words(line)[1:]
			require.Equal(t, "proscen "+e.command, strings.Join(words(line)[:1+len(words(e.command))], " "))
			if running := map[string]string{"serve": `address=`, "work": `working`}[e.command]; running != "" {
				cmd, _ := startedAs(t, command(args...), running)
				require.NoError(t, cmd.Process.Signal(syscall.SIGTERM))
				require.NoError(t, cmd.Wait(), line)
				continue
			}
			said, err := command(args...).CombinedOutput()
			require.NoError(t, err, "%s: %s", line, said)
		}
	}
	assert.Empty(t, shown, "all of them are tried")
	for _, name := range []string{"tomas.png", "docking.jpg", "cut.edl", "shots.csv", "second.json", "last-car-down.zip"} {
		assert.FileExists(t, filepath.Join(dir, name))
	}
	jpg, err := os.ReadFile(filepath.Join(dir, "docking.jpg"))
	require.NoError(t, err)
	assert.Equal(t, "\xff\xd8", string(jpg[:2]))
}
