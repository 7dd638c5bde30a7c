package scratch

import (
	"os"
	"os/exec"
	"path/filepath"
	"syscall"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// TestHolderProcess is not a test of its own: it is a program with temporary files,
// which the next test kills.
func TestHolderProcess(t *testing.T) {
	told := os.Getenv("PROSCEN_TEST_TOLD")
	if told == "" {
		t.Skip("only as a helper process")
	}
	dir, err := Folder("work")
	require.NoError(t, err)
	require.NoError(t, os.WriteFile(filepath.Join(dir, "large"), make([]byte, 1000), 0o600))
	require.NoError(t, os.WriteFile(told+".new", []byte(dir), 0o600))
	require.NoError(t, os.Rename(told+".new", told))
	select {}
}

func TestTemporaryFilesOfTheDeadAreRemoved(t *testing.T) {
	t.Setenv("TMPDIR", t.TempDir())
	defer End()
	own, err := Folder("work")
	require.NoError(t, err)
	told := filepath.Join(t.TempDir(), "told")
	victim := exec.Command(os.Args[0], "-test.run=^TestHolderProcess$")
	victim.Env = append(os.Environ(), "PROSCEN_TEST_TOLD="+told)
	require.NoError(t, victim.Start())
	var theirs []byte
	require.Eventually(t, func() bool { theirs, err = os.ReadFile(told); return err == nil }, 10*time.Second, 5*time.Millisecond)
	require.NoError(t, Tidy())
	assert.DirExists(t, string(theirs), "who lives keeps them")
	require.NoError(t, victim.Process.Signal(syscall.SIGKILL))
	_ = victim.Wait()
	require.NoError(t, Tidy())
	assert.NoDirExists(t, string(theirs))
	assert.DirExists(t, own, "one’s own stay")
	f, err := File("upload")
	require.NoError(t, err)
	require.NoError(t, f.Close())
	End()
	left, err := os.ReadDir(os.TempDir())
	require.NoError(t, err)
	assert.Empty(t, left, "a program that ends leaves nothing")
	again, err := Folder("work")
	require.NoError(t, err)
	assert.DirExists(t, again)
}

func TestAFolderThatWasCleanedAwayIsMadeAgain(t *testing.T) {
	t.Setenv("TMPDIR", t.TempDir())
	defer End()
	first, err := Folder("a")
	require.NoError(t, err)
	require.NoError(t, os.RemoveAll(filepath.Dir(first))) // as what cleans /tmp does
	second, err := Folder("a")
	require.NoError(t, err)
	assert.DirExists(t, second)
}
