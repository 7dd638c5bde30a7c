package render

import (
	"bytes"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"image"
	"image/jpeg"
	"image/png"
	"os"
	"path"
	"path/filepath"
	"strings"
	"time"

	"proscen/core/exr"
	"proscen/core/interchange"
	"proscen/core/scene"
	"proscen/core/timing"
	"proscen/core/turnover"
	"proscen/internal/scratch"
	"proscen/internal/store"
)

// making is an output that is being made in a folder of its own.
type making struct {
	*Worker
	o       *store.Output
	d       *prepared
	film    *turnover.Film
	form    Form
	dir     string
	parts   []timing.Range // of its frames, in order
	made    int            // frames of the parts that are done, as far as known
	helps   bool           // the output is another job's
	seat    int            // which of the helpers this is; 0 is the output's own job
	seconds func() float64 // how long it has taken so far
}

// key names a finished part in the store: a video of some frames, or the picture of one.
func (m *making) key(frames timing.Range) string {
	if m.form.Pack.Numbered() {
		return fmt.Sprintf("%s/%06d.%s", m.folder(), frames.In, m.form.Pack.Ending())
	}
	return fmt.Sprintf("%s/%06d-%d.%s", m.folder(), frames.In, frames.Count(), m.form.Pack.Ending())
}

// folder is where the parts lie that this version of the program has made.
func (m *making) folder() string { return partsOf(m.o.ID) + "/" + m.Maker }

// last is the key that is there when a part is finished.
func (m *making) last(frames timing.Range) string {
	if m.form.Pack.Numbered() {
		frames.In = frames.Out - 1
	}
	return m.key(frames)
}

func (m *making) local(frames timing.Range) string {
	return filepath.Join(m.dir, fmt.Sprintf("%06d.%s", frames.In, m.form.Pack.Ending()))
}

// mediaTypes are those of what is made.
var mediaTypes = map[string]string{
	"mp4": "video/mp4", "webm": "video/webm", "mov": "video/quicktime", "mkv": "video/x-matroska", "png": "image/png", "jpg": "image/jpeg", "exr": "image/x-exr",
	"srt": "application/x-subrip", "wav": "audio/wav", "json": "application/json", "otio": "application/json", "edl": "text/plain", "csv": "text/csv",
}

// MediaType returns the media type of a file by its name.
func MediaType(file string) string {
	if t, ok := mediaTypes[strings.TrimPrefix(path.Ext(file), ".")]; ok {
		return t
	}
	return "application/octet-stream"
}

// part renders one part and stores it whole.
func (m *making) part(ctx context.Context, frames timing.Range) error {
	ctx, stop := context.WithCancelCause(ctx)
	defer stop(nil)
	stalled := time.AfterFunc(stalledTime, func() { stop(errStalled) })
	defer stalled.Stop()
	shown := time.Now().Add(-showEvery)
	progress := func(done int, img *image.RGBA) {
		stalled.Reset(stalledTime)
		if time.Since(shown) < showEvery && done < frames.Count() {
			return
		}
		shown = time.Now()
		if m.helps {
			return
		}
		m.o.FramesDone, m.o.Seconds = m.made+done, m.seconds()
		if !m.show(ctx, m.o, img) {
			stop(errUnwanted)
		}
	}
	var err error
	if m.craft.part != nil {
		err = m.craft.part(ctx, m, frames)
	} else if m.form.Pack.Numbered() {
		err = m.pictures(ctx, frames, progress)
	} else if err = Encode(ctx, m.film, frames, m.form, m.local(frames), progress); err == nil {
		key := m.key(frames)
		err = m.Bucket.PutFile(ctx, key, MediaType(key), m.local(frames))
	}
	if err != nil {
		if cause := context.Cause(ctx); errors.Is(cause, errUnwanted) || errors.Is(cause, errStalled) {
			return cause
		}
		return err
	}
	late, err := m.Store.PartDone(ctx, m.row(frames))
	if late { // it was made twice, and the other one is used
		err = errUnwanted
	}
	return err
}

// leave removes what was stored for an output that others have finished meanwhile, as
// of a worker that stood still for so long that it was given up.
func (m *making) leave(ctx context.Context) {
	ctx, cancel := context.WithTimeout(context.WithoutCancel(ctx), 10*time.Second)
	defer cancel()
	if err := discardAny(ctx, m.Store, m.Bucket, []string{m.o.ID}); err != nil {
		m.Log.Warn("parts that nobody needs could not be removed, they will be when a program starts", "output", m.o.ID, "error", err)
	}
}

// pictures renders the frames of a part and stores each, in order.
func (m *making) pictures(ctx context.Context, frames timing.Range, progress func(int, *image.RGBA)) error {
	return encodeEach(ctx, m.film, frames, m.form, func(n int, body []byte) error {
		key := m.key(timing.Range{In: n, Out: n + 1})
		return m.Bucket.PutBytes(ctx, key, MediaType(key), body)
	}, progress)
}

// EncodePictures renders frames into numbered pictures in a folder, which is made; their
// names begin with a stem. On any error it is left as it is then.
func EncodePictures(ctx context.Context, film *turnover.Film, frames timing.Range, form Form, folder, stem string, progress func(int, *image.RGBA)) error {
	if err := os.MkdirAll(folder, 0o755); err != nil {
		return err
	}
	return encodeEach(ctx, film, frames, form, func(n int, body []byte) error {
		name := NumberedName(stem, film.Number(n), form.Pack)
		return scratch.Full(os.WriteFile(filepath.Join(folder, path.Base(name)), body, 0o644))
	}, progress)
}

// encodeEach renders frames into pictures of their own and puts each, in order.
func encodeEach(ctx context.Context, film *turnover.Film, frames timing.Range, form Form, put func(n int, body []byte) error, progress func(int, *image.RGBA)) error {
	if film.Item.Pass != "" {
		return passes(ctx, film, frames, put, progress)
	}
	return paint(ctx, film, frames, func(n int, img *image.RGBA) error {
		var b bytes.Buffer
		if err := EncodePicture(&b, img, form); err != nil {
			return err
		}
		return put(n, b.Bytes())
	}, func() {}, progress)
}

// passes is encodeEach for what frames tell besides their picture.
func passes(ctx context.Context, film *turnover.Film, frames timing.Range, put func(n int, body []byte) error, progress func(int, *image.RGBA)) error {
	w, h := film.Size()
	shown := image.NewRGBA(image.Rect(0, 0, w, h))
	for n := frames.In; n < frames.Out; n++ {
		if ctx.Err() != nil {
			return context.Cause(ctx)
		}
		channels, err := film.Pass(n, shown)
		if err != nil {
			return err
		}
		var b bytes.Buffer
		if err := exr.Write(&b, w, h, channels); err != nil {
			return err
		}
		if err := put(n, b.Bytes()); err != nil {
			return err
		}
		if progress != nil {
			progress(n-frames.In+1, shown)
		}
	}
	return nil
}

// EncodePicture writes one frame as a picture.
func EncodePicture(to *bytes.Buffer, img *image.RGBA, form Form) error {
	switch form.Pack {
	case scene.JPEG:
		quality := map[scene.Quality]int{scene.Rough: 75, scene.Fine: 97}[form.Quality]
		if quality == 0 {
			quality = 90
		}
		return jpeg.Encode(to, img, &jpeg.Options{Quality: quality})
	case scene.EXR:
		return exr.Write(to, img.Rect.Dx(), img.Rect.Dy(), turnover.Linear(img))
	}
	return (&png.Encoder{CompressionLevel: png.BestSpeed}).Encode(to, img)
}

// join puts the parts of a video together with its sound, and what lies beside it.
func (m *making) join(ctx context.Context) error {
	var files []string
	for _, p := range m.parts {
		file := m.local(p)
		if _, err := os.Stat(file); err != nil {
			if err := m.download(ctx, m.key(p), file); err != nil {
				return err
			}
		}
		files = append(files, file)
	}
	sound, err := m.sound(ctx)
	if err != nil {
		return err
	}
	joined := filepath.Join(m.dir, "joined."+m.form.Pack.Ending())
	if err := Join(ctx, files, sound, m.o.Frames, m.form, joined); err != nil {
		return err
	}
	if err := m.beside(ctx, strings.TrimSuffix(m.o.File, path.Ext(m.o.File)), ""); err != nil {
		return err
	}
	return m.done(ctx, m.o, MediaType(joined), joined)
}

// same takes over the video of another output of the delivery that has the same frames and
// sound, of another alternate that does not differ there, and reports whether there is one.
// What is written into pictures of their version is their own.
func (m *making) same(ctx context.Context) (bool, error) {
	if m.o.Kind != store.Video || m.o.FramesDone > 0 || len(m.d.doc.Alternates)+len(m.d.doc.Differences) == 0 || m.film.Versioned() {
		return false, nil
	}
	m.o.Print = m.film.Print(func() bool { return ctx.Err() == nil })
	other, err := m.Store.Alike(ctx, m.o, m.Timing.Silent)
	switch {
	case err != nil || other == nil || path.Ext(other.File) != path.Ext(m.o.File):
		return false, err
	case other.State != store.Done:
		return false, errComing
	}
	file := filepath.Join(m.dir, "same."+m.form.Pack.Ending())
	if err := m.download(ctx, other.File, file); err != nil {
		m.Log.Warn("what is the same could not be read, it is made again", "output", m.o.ID, "of", other.ID, "error", err)
		return false, nil
	}
	m.o.Same, m.o.Seconds = other.ID, m.seconds()
	if err := m.beside(ctx, strings.TrimSuffix(m.o.File, path.Ext(m.o.File)), ""); err != nil {
		return false, err
	}
	return true, m.done(ctx, m.o, MediaType(file), file)
}

// gather puts numbered pictures under their final names, the sound beside them.
func (m *making) gather(ctx context.Context) error {
	one := m.o.Kind == store.Picture
	all := sha256.New()
	m.o.Bytes = 0
	for n := range m.film.Frames() {
		from := m.key(timing.Range{In: n, Out: n + 1})
		to := m.o.File
		if !one {
			to = NumberedName(m.o.File, m.film.Number(n), m.form.Pack)
		}
		r, err := m.Bucket.NewReader(ctx, from, nil)
		if err != nil {
			return err
		}
		err = m.Bucket.PutNew(ctx, to, MediaType(to), r)
		if err = errors.Join(err, r.Close()); err != nil {
			return err
		}
		e, err := m.extra(ctx, to)
		if err != nil {
			return err
		}
		m.o.Bytes += e.Bytes
		if m.o.Sha256 = e.Sha256; !one {
			_, _ = fmt.Fprintf(all, "%s  %s\n", e.Sha256, path.Base(to))
		}
	}
	if !one { // the hash of the list of hashes, as sha256sum writes it
		m.o.Sha256 = hex.EncodeToString(all.Sum(nil))
		sound, err := m.sound(ctx)
		if err != nil {
			return err
		}
		if err := m.beside(ctx, m.o.File+"/"+path.Base(m.o.File), sound); err != nil {
			return err
		}
	}
	return m.finished(ctx, m.o)
}

// NumberedName returns the name of a picture in a folder.
func NumberedName(folder string, number int, pack scene.Pack) string {
	return fmt.Sprintf("%s/%s.%04d.%s", folder, path.Base(folder), number, pack.Ending())
}

// beside stores what lies beside an output: its lines, if they are to be a file, and
// its sound, if that is not in it.
func (m *making) beside(ctx context.Context, stem, sound string) error {
	extras := []store.Extra{}
	put := func(key, file string) error {
		if err := m.Bucket.PutFile(ctx, key, MediaType(key), file); err != nil {
			return err
		}
		e, err := m.extra(ctx, key)
		extras = append(extras, e)
		return err
	}
	if m.film.Recipe.Lines == scene.Beside {
		if said := m.film.Said(); len(said) > 0 {
			file := filepath.Join(m.dir, "lines.srt")
			if err := scratch.Full(os.WriteFile(file, interchange.SubRip(m.film.Document(), m.film.Rate(), said), 0o600)); err != nil {
				return err
			}
			if err := put(stem+".srt", file); err != nil {
				return err
			}
		}
	}
	if sound != "" {
		if err := put(stem+".wav", sound); err != nil {
			return err
		}
	}
	body, err := json.Marshal(extras)
	m.o.Beside = body
	return err
}
