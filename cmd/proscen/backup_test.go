package main

import (
	"encoding/json"
	"io"
	"net/http"
	"os"
	"testing"
	"time"

	"proscen/internal/pgtest"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// What docs/operations.md says of backups is done: the database is dumped first, then
// the files are copied; both are put back elsewhere, and everything is there.
func TestABackupPutBackElsewhereHasEverything(t *testing.T) {
	database, blobs, dump := pgtest.Database(t), t.TempDir(), t.TempDir()+"/proscen.dump"
	cmd, found := started(t, served, "serve", "--demo", "--database", database, "--blobs", blobs, "--listen", "127.0.0.1:0")
	scene := made(t, found[1])
	status, said, err := post(found[1]+"/api/scenes/"+scene+"/deliveries", m{"assembly": "cut", "width": 64, "height": 36, "quality": "rough"})
	require.NoError(t, err)
	require.Equal(t, 201, status, string(said))
	get := func(url string, out any) []byte {
		t.Helper()
		resp, err := http.Get(url)
		require.NoError(t, err)
		body, err := io.ReadAll(resp.Body)
		require.NoError(t, err)
		_ = resp.Body.Close()
		require.Equal(t, 200, resp.StatusCode, string(body))
		if out != nil {
			require.NoError(t, json.Unmarshal(body, out))
		}
		return body
	}
	var before []outcome
	require.Eventually(t, func() bool {
		get(found[1]+"/api/scenes/"+scene+"/deliveries", &before)
		for _, o := range before[0].Outputs {
			if o.State != "done" {
				return false
			}
		}
		return true
	}, time.Minute, 100*time.Millisecond)
	shell(t, `"$(pg_bin)/pg_dump" --format=custom --file=`+dump+` "`+database+`"`) // while it runs
	copied := t.TempDir()
	require.NoError(t, os.CopyFS(copied+"/files", os.DirFS(blobs)))
	scenes := get(found[1]+"/api/scenes", nil)
	document := get(found[1]+"/api/scenes/"+scene, nil)
	stops(t, cmd)

	elsewhere := pgtest.Database(t)
	shell(t, `"$(pg_bin)/pg_restore" --no-owner --exit-on-error --dbname="`+elsewhere+`" `+dump)
	cmd, found = started(t, served, "serve", "--database", elsewhere, "--blobs", copied+"/files", "--listen", "127.0.0.1:0")
	assert.JSONEq(t, string(scenes), string(get(found[1]+"/api/scenes", nil)))
	assert.JSONEq(t, string(document), string(get(found[1]+"/api/scenes/"+scene, nil)))
	var after []outcome
	get(found[1]+"/api/scenes/"+scene+"/deliveries", &after)
	assert.Equal(t, before, after)
	for _, o := range after[0].Outputs {
		assert.Equal(t, o.Sha256, sum(get(found[1]+"/api/outputs/"+o.ID+"/file", nil)))
	}
	status, said, err = post(found[1]+"/api/scenes/"+scene+"/deliveries", m{"assembly": "cut", "width": 64, "height": 36, "quality": "rough"})
	require.NoError(t, err)
	assert.Equal(t, 201, status, "and work goes on: %s", said)
	stops(t, cmd)
}
