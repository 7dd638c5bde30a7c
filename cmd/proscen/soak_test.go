package main

import (
	"bytes"
	"crypto/sha256"
	endian "encoding/binary"
	"encoding/hex"
	"encoding/json"
	"errors"
	"flag"
	"fmt"
	"io"
	"io/fs"
	"math/rand/v2"
	"net"
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"sync"
	"syscall"
	"testing"
	"time"

	"proscen/core/scene"
	"proscen/core/scenetest"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

var (
	rounds = flag.Int("rounds", 2, "rounds of faults")
	long   = flag.Bool("long", false, "also what takes long: everything heavy at once")
	seed   = flag.Uint64("seed", 0, "of the faults, 0 for another one each time")
)

// settle is how long after the last fault everything has come to an end.
const settleWithin = 2 * time.Minute // on machines that other tests slow down

// standing is the real program in several processes: a server, two workers and a
// database of their own, on small disks where those may be mounted.
type standing struct {
	t           *testing.T
	database    string // its folder
	url, port   string
	blobs, temp string
	disks       bool // blobs and temp are disks of their own
	server      *process
	workers     [2]*process
	rng         *rand.Rand
}

// process is a program that is started again when it was killed.
type process struct {
	sync.Mutex
	args []string
	env  []string
	log  string
	cmd  *exec.Cmd
}

func (p *process) start(t *testing.T) {
	t.Helper()
	p.Lock()
	defer p.Unlock()
	log, err := os.OpenFile(p.log, os.O_CREATE|os.O_APPEND|os.O_WRONLY, 0o600)
	require.NoError(t, err)
	p.cmd = exec.Command(binary, p.args...)
	p.cmd.Env, p.cmd.Stderr = p.env, log
	require.NoError(t, p.cmd.Start())
	_ = log.Close()
}

func (p *process) kill() {
	p.Lock()
	defer p.Unlock()
	_ = p.cmd.Process.Kill()
	_ = p.cmd.Wait()
}

func shell(t *testing.T, script string) string {
	t.Helper()
	said, err := os.CreateTemp(t.TempDir(), "said") // a pipe would be held open by the database
	require.NoError(t, err)
	defer func() { _ = said.Close() }()
	cmd := exec.Command("bash", "-c", "source ../../scripts/tools.sh; "+script)
	cmd.Stdout, cmd.Stderr = said, said
	failed := cmd.Run()
	out, err := os.ReadFile(said.Name())
	require.NoError(t, err)
	require.NoError(t, failed, string(out))
	return strings.TrimSpace(string(out))
}

func disk(t *testing.T, dir string) bool {
	t.Helper()
	require.NoError(t, os.MkdirAll(dir, 0o755))
	if syscall.Mount("tmpfs", dir, "tmpfs", 0, "size=48m") != nil {
		return false
	}
	t.Cleanup(func() { _ = syscall.Unmount(dir, syscall.MNT_DETACH) })
	return true
}

func stand(t *testing.T) *standing {
	t.Helper()
	if *seed == 0 {
		*seed = uint64(time.Now().UnixNano())
	}
	t.Logf("seed %d", *seed)
	database, err := os.MkdirTemp("/tmp", "proscen-soak-pg-*") // where its user may go
	require.NoError(t, err)
	s := &standing{t: t, database: database, rng: rand.New(rand.NewPCG(*seed, 1))}
	t.Cleanup(func() {
		shell(t, "stop_postgres "+database)
		_ = os.RemoveAll(database)
	})
	dir := t.TempDir()
	s.blobs, s.temp = dir+"/blobs", dir+"/temp"
	s.disks = disk(t, s.blobs) && disk(t, s.temp)
	if !s.disks {
		require.NoError(t, os.MkdirAll(s.temp, 0o755))
		t.Log("no disks may be mounted here: full disks are not tried")
	}
	address := shell(t, `start_postgres `+database+` >&2; echo "$DATABASE_URL"`)
	address = address[strings.LastIndex(address, "postgres://"):]
	free, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	s.port = strconv.Itoa(free.Addr().(*net.TCPAddr).Port)
	require.NoError(t, free.Close())
	s.url = "http://127.0.0.1:" + s.port
	env := append(os.Environ(), "TMPDIR="+s.temp, "PROSCEN_DATABASE="+address, "PROSCEN_BLOBS="+s.blobs, "PROSCEN_THREADS=1")
	s.server = &process{args: []string{"serve", "--no-worker", "--listen", "127.0.0.1:" + s.port}, env: env, log: dir + "/server.log"}
	s.server.start(t)
	s.up()
	for i := range s.workers {
		s.workers[i] = &process{args: []string{"work"}, env: env, log: dir + "/work.log"}
		s.workers[i].start(t)
	}
	t.Cleanup(func() {
		for _, p := range append(s.workers[:], s.server) {
			p.kill()
		}
		if t.Failed() {
			for _, log := range []string{"/server.log", "/work.log"} {
				body, _ := os.ReadFile(dir + log)
				t.Logf("%s:\n%s", log, body[max(0, len(body)-4000):])
			}
		}
	})
	return s
}

func (s *standing) up() {
	s.t.Helper()
	require.Eventually(s.t, func() bool {
		resp, err := http.Get(s.url + "/api/health")
		if err != nil {
			return false
		}
		_ = resp.Body.Close()
		return resp.StatusCode == 200
	}, 40*time.Second, 20*time.Millisecond, "the server comes up")
}

// until sends a request again and again until it is answered well, as a patient client
// does, and decodes the answer. A request that says why it is refused and is not sent
// again gives that status.
func (s *standing) until(method, path, kind string, body []byte, out any) int {
	s.t.Helper()
	for end := time.Now().Add(60 * time.Second); time.Now().Before(end); time.Sleep(50 * time.Millisecond) {
		req, err := http.NewRequest(method, s.url+"/api"+path, bytes.NewReader(body))
		require.NoError(s.t, err)
		req.Header.Set("Content-Type", kind)
		resp, err := http.DefaultClient.Do(req)
		if err != nil {
			continue
		}
		said, err := io.ReadAll(resp.Body)
		_ = resp.Body.Close()
		if err != nil || resp.StatusCode >= 500 {
			continue
		}
		if resp.StatusCode < 300 && out != nil {
			require.NoError(s.t, json.Unmarshal(said, out), string(said))
		}
		if resp.StatusCode >= 300 {
			s.t.Logf("%s %s: %s", method, path, said)
		}
		return resp.StatusCode
	}
	s.t.Fatalf("%s %s is not answered", method, path)
	return 0
}

func (s *standing) json(method, path string, body, out any) int {
	s.t.Helper()
	raw, err := json.Marshal(body)
	require.NoError(s.t, err)
	return s.until(method, path, "application/json", raw, out)
}

type outcome struct {
	ID      string
	Number  int
	Recipe  struct{ Pack scene.Pack }
	Outputs []struct {
		ID, File, State, Error, Number, Sha256 string
	}
}

// made names what an output holds, whatever its version.
func (d *outcome) made(number string) string { return fmt.Sprintf("%s %s", d.Recipe.Pack, number) }

// fault is something that goes wrong for a moment.
type fault struct {
	name string
	do   func(s *standing)
}

var faults = []fault{
	{"the server is killed", func(s *standing) { s.server.kill(); s.server.start(s.t) }},
	{"a worker is killed", func(s *standing) { s.workers[0].kill(); s.workers[0].start(s.t) }},
	{"the other worker is killed", func(s *standing) { s.workers[1].kill(); s.workers[1].start(s.t) }},
	{"an encoder is killed", func(s *standing) {
		if all := s.encoders(); len(all) > 0 {
			_ = syscall.Kill(all[s.rng.IntN(len(all))], syscall.SIGKILL)
		}
	}},
	{"a worker stands still and goes on", func(s *standing) {
		w := s.workers[s.rng.IntN(2)].cmd.Process
		_ = w.Signal(syscall.SIGSTOP)
		time.Sleep(time.Duration(s.rng.IntN(14_000)) * time.Millisecond)
		_ = w.Signal(syscall.SIGCONT)
	}},
	{"the database crashes", func(s *standing) { shell(s.t, `as_pg "$(pg_bin)/pg_ctl" -D `+s.database+` -m immediate -w restart`) }},
	{"the disk of files is full", func(s *standing) { s.fill(s.blobs) }},
	{"the disk of temporary files is full", func(s *standing) { s.fill(s.temp) }},
}

// encoders are the processes of this run that encode or decode.
func (s *standing) encoders() (out []int) {
	all, _ := filepath.Glob("/proc/[0-9]*/environ")
	for _, f := range all {
		body, err := os.ReadFile(f)
		if err != nil || !bytes.Contains(body, []byte("TMPDIR="+s.temp)) {
			continue
		}
		name, _ := os.ReadFile(filepath.Dir(f) + "/comm")
		if strings.HasPrefix(string(name), "ffmpeg") {
			pid, _ := strconv.Atoi(filepath.Base(filepath.Dir(f)))
			out = append(out, pid)
		}
	}
	return out
}

// fill takes all room of a disk for a moment.
func (s *standing) fill(dir string) {
	if !s.disks {
		return
	}
	file := filepath.Join(dir, "filler")
	f, err := os.Create(file)
	if err != nil {
		return
	}
	part := make([]byte, 256<<10)
	for end := time.Now().Add(time.Duration(200+s.rng.IntN(1300)) * time.Millisecond); time.Now().Before(end); {
		if _, err := f.Write(part); err != nil {
			time.Sleep(5 * time.Millisecond)
		}
	}
	_ = f.Close()
	_ = os.Remove(file)
}

// beep is a sound that no other round has.
func beep(n int) []byte {
	const samples = 24_000
	b := append([]byte("RIFF"), endian.LittleEndian.AppendUint32(nil, 36+2*samples)...)
	b = append(b, "WAVEfmt \x10\x00\x00\x00\x01\x00\x01\x00\x40\x1f\x00\x00\x80\x3e\x00\x00\x02\x00\x10\x00data"...)
	b = endian.LittleEndian.AppendUint32(b, 2*samples)
	for i := range samples {
		b = endian.LittleEndian.AppendUint16(b, uint16(int16(6000*(1-2*(i/(10+n)%2)))))
	}
	return b
}

// ended waits until all deliveries of a scene have come to an end; what failed for want
// of room is resumed.
func (s *standing) ended(id string) []outcome {
	s.t.Helper()
	var all []outcome
	require.Eventually(s.t, func() bool {
		all = nil
		for before := ""; ; {
			var page []outcome
			require.Equal(s.t, 200, s.until("GET", "/scenes/"+id+"/deliveries?limit=200"+before, "", nil, &page))
			all = append(all, page...)
			if len(page) < 200 {
				break
			}
			before = fmt.Sprintf("&before=%d", page[len(page)-1].Number)
		}
		over := true
		for _, d := range all {
			resume := false
			for _, o := range d.Outputs {
				switch o.State {
				case "failed":
					resume = true
					assert.Contains(s.t, o.Error, "full", "what fails says why")
				case "waiting", "rendering":
					over = false
				}
			}
			if resume {
				over = false
				s.until("POST", "/deliveries/"+d.ID+"/resume", "application/json", nil, nil)
			}
		}
		return over
	}, settleWithin, 200*time.Millisecond, "all outputs end after the last fault")
	return all
}

func sum(body []byte) string {
	h := sha256.Sum256(body)
	return hex.EncodeToString(h[:])
}

// TestNothingIsLostWhateverFails runs the real programs through faults at random
// moments while scenes are saved, sounds uploaded and shots delivered, and looks in the
// end for the same bytes as of an undisturbed run. ‘make soak’ runs 200 rounds.
func TestNothingIsLostWhateverFails(t *testing.T) {
	if testing.Short() {
		t.Skip("it takes long")
	}
	s := stand(t)
	doc := scenetest.Small()
	doc.Formats["wide"] = scene.Format{Name: "small", Width: 320, Height: 180}
	create := func(title string) string {
		var info struct{ ID string }
		require.Equal(t, 201, s.json("POST", "/scenes", m{"production": "P", "title": title, "document": json.RawMessage(doc.Encode())}, &info))
		return info.ID
	}
	delivered, saved := create("Delivered"), create("Saved")
	// Each round delivers another pack of files.
	packs := []scene.Pack{scene.H264, scene.PNG, scene.VP9, scene.FFV1, scene.ProRes, scene.JPEG}
	packs = packs[:min(len(packs), *rounds)]
	deliver := func(pack scene.Pack) {
		s.json("POST", "/scenes/"+delivered+"/deliveries", m{"assembly": "cut", "recipe": m{"name": "soak", "pack": pack, "quality": "check"}}, nil)
	}
	want := map[string]string{} // the bytes of each shot, undisturbed
	for i, pack := range packs {
		deliver(pack)
		all := s.ended(delivered)
		require.Len(t, all, i+1)
		for _, o := range all[0].Outputs {
			require.Equal(t, "done", o.State)
			made := all[0].made(o.Number)
			want[made] = o.Sha256
			if pack.Numbered() {
				for name, hash := range s.pictures(o.File) {
					want[made+name] = hash
				}
			}
		}
	}

	marks, sounds, tried := 0, map[string]bool{}, map[string]int{}
	began := time.Now()
	var slowest time.Duration
	for round := range *rounds {
		// What goes on, and what goes wrong meanwhile.
		var group sync.WaitGroup
		group.Go(func() { deliver(packs[round%len(packs)]) })
		group.Go(func() {
			for range 40 {
				id := fmt.Sprintf("mark-%d", marks)
				require.Equal(t, 200, s.json("POST", "/scenes/"+saved+"/edits", m{
					"id": id, "base": 0, "label": "mark", "kind": "do",
					"patch": []m{{"collection": "markers", "id": id, "after": m{"clock": "story", "frame": marks, "name": id, "color": "#000000"}}},
				}, nil))
				marks++
			}
		})
		group.Go(func() {
			var kept struct{ Blob string }
			require.Equal(t, 200, s.until("POST", "/sounds", "audio/wav", beep(round), &kept))
			sounds[kept.Blob] = true
		})
		for range 1 + s.rng.IntN(3) {
			time.Sleep(time.Duration(s.rng.IntN(1500)) * time.Millisecond)
			f := faults[s.rng.IntN(len(faults))]
			tried[f.name]++
			f.do(s)
		}
		last := time.Now()
		group.Wait()
		all := s.ended(delivered)
		s.whole(all, want, sounds)
		slowest = max(slowest, time.Since(last))
		if t.Failed() {
			t.Fatalf("in round %d, seed %d", round, *seed)
		}
	}
	var got struct {
		Document struct{ Markers map[string]any }
	}
	require.Equal(t, 200, s.until("GET", "/scenes/"+saved, "", nil, &got))
	assert.Len(t, got.Document.Markers, marks+1, "every edit that was answered is there, once")
	t.Logf("%d rounds in %s, %d edits, %d sounds; all was over %s after the last fault at the latest", *rounds, time.Since(began).Round(time.Second), marks, len(sounds), slowest.Round(100*time.Millisecond))
	for _, f := range faults {
		t.Logf("%4d times %s", tried[f.name], f.name)
	}
}

// pictures returns the hashes of the numbered pictures in a folder, by how their names
// end.
func (s *standing) pictures(folder string) map[string]string {
	out := map[string]string{}
	all, err := os.ReadDir(filepath.Join(s.blobs, folder))
	require.NoError(s.t, err)
	for _, e := range all {
		body, err := os.ReadFile(filepath.Join(s.blobs, folder, e.Name()))
		require.NoError(s.t, err)
		out[strings.TrimPrefix(e.Name(), filepath.Base(folder))] = sum(body)
	}
	return out
}

// whole looks at what lies on the disks when everything has come to an end: every
// file that has a final name has the bytes of an undisturbed run, and nothing else is
// left.
func (s *standing) whole(all []outcome, want map[string]string, sounds map[string]bool) {
	t := s.t
	t.Helper()
	expected := map[string]string{} // files and their hashes, "" for any
	for _, d := range all {
		for _, o := range d.Outputs {
			assert.Equal(t, "done", o.State, o.Error)
			made := d.made(o.Number)
			if d.Recipe.Pack.Numbered() {
				for key, hash := range want {
					if name, of := strings.CutPrefix(key, made); of && name != "" {
						expected[o.File+"/"+filepath.Base(o.File)+name] = hash
					}
				}
			} else {
				assert.Equal(t, want[made], o.Sha256, "%s is told to be as undisturbed", o.File)
				expected[o.File] = want[made]
			}
			cut := filepath.Dir(filepath.Dir(o.File))
			for _, paper := range []string{"../manifest.json", "../checksums.sha256", "cut_small.otio", "cut_small.edl", "cut_small.csv"} {
				expected[filepath.Join(cut, paper)] = ""
			}
		}
	}
	for name := range sounds {
		expected["sounds/"+name+".flac"], expected["sounds/"+name+".peaks"] = name, ""
	}
	clean := func() (problems []string) {
		there := map[string]bool{}
		_ = filepath.WalkDir(s.blobs, func(path string, e fs.DirEntry, err error) error {
			if err != nil || e.IsDir() {
				if e != nil && filepath.Base(filepath.Dir(path)) == "parts" {
					problems = append(problems, "left: "+path)
				}
				return nil
			}
			name, _ := filepath.Rel(s.blobs, path)
			there[name] = true
			hash, ok := expected[name]
			if !ok && strings.HasSuffix(name, ".peaks") {
				return nil // of a sound whose upload broke off between its two files
			}
			body, err := os.ReadFile(path)
			switch {
			case errors.Is(err, fs.ErrNotExist):
			case !ok && strings.HasPrefix(name, "sounds/"):
				if sum(body) != strings.TrimSuffix(filepath.Base(name), ".flac") {
					problems = append(problems, "not whole: "+name)
				}
			case !ok:
				problems = append(problems, "left: "+name)
			case hash != "" && sum(body) != hash:
				problems = append(problems, "other bytes: "+name)
			}
			return nil
		})
		for name := range expected {
			if !there[name] {
				problems = append(problems, "missing: "+name)
			}
		}
		_ = filepath.WalkDir(s.temp, func(path string, e fs.DirEntry, err error) error {
			if err == nil && !e.IsDir() && e.Name() != "lock" {
				problems = append(problems, "temporary: "+path)
			}
			return nil
		})
		for _, pid := range s.encoders() {
			problems = append(problems, fmt.Sprint("an encoder runs on: ", pid))
		}
		slices.Sort(problems)
		return problems
	}
	var left []string
	ok := assert.Eventually(t, func() bool { left = clean(); return len(left) == 0 }, settleWithin, 250*time.Millisecond)
	if !ok {
		t.Log(strings.Join(left, "\n"))
	}
}
