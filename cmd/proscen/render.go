package main

import (
	"bytes"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"image"
	"io"
	"os"
	"path/filepath"
	"runtime"
	"strconv"
	"strings"
	"time"

	"github.com/schollz/progressbar/v3"
	"github.com/spf13/cobra"
	"golang.org/x/term"

	"proscen/core/interchange"
	"proscen/core/picture"
	"proscen/core/program"
	"proscen/core/raster"
	"proscen/core/scene"
	"proscen/core/timing"
	"proscen/core/turnover"
	"proscen/internal/ffmpeg"
	"proscen/internal/render"
	"proscen/internal/scratch"
)

func renderCommand() *cobra.Command {
	var out, shots, sizeText, quality, assemblyName, recipeFile, other string
	var threads int
	var asJSON bool
	c := &cobra.Command{
		Use:   "render FILE --out DIR",
		Short: "Render one mp4 per shot and a manifest",
		Args:  exactly(1, "name the scene document: proscen render FILE --out DIR"),
		RunE: func(cmd *cobra.Command, args []string) error {
			doc, err := readAlternate(cmd, args[0], other)
			if err != nil {
				return err
			}
			if out == "" {
				return badInput("say where the videos go: --out DIR")
			}
			id, ok := program.Find(doc, assemblyName)
			if !ok {
				return badInput("there is no assembly called %q", assemblyName)
			}
			o := turnover.Order{Assemblies: []string{id}, Each: true}
			if sizeText != "" {
				if o.Size[0], o.Size[1], err = parseSize(sizeText); err != nil {
					return err
				}
			}
			r := scene.Recipe{Name: "command line", Pack: scene.H264, Joined: true}
			if r.Quality, err = picture.ParseQuality(quality); err != nil {
				return inputError{err}
			}
			if recipeFile != "" {
				if r, err = readRecipe(recipeFile); err != nil {
					return err
				}
			}
			var wanted []string
			for _, s := range strings.Split(shots, ",") {
				if s = strings.TrimSpace(s); s != "" {
					wanted = append(wanted, s)
				}
			}
			if o.Shots = wanted; cmd.Flags().Changed("shots") && len(wanted) == 0 {
				return badInput("--shots names no shot; write numbers such as 010,020")
			}
			items, err := turnover.Plan(doc, o, &r)
			if err != nil {
				return inputError{err}
			}
			for _, i := range items {
				if err := (picture.Form{Width: i.Width, Height: i.Height}).Validate(); err != nil {
					return inputError{err}
				}
			}
			if threads < 0 || threads > raster.MaxThreads {
				return badInput("--threads must be from 1 to %d", raster.MaxThreads)
			}
			if threads == 0 {
				threads = runtime.NumCPU()
			}
			m, err := renderAll(cmd.Context(), cmd.ErrOrStderr(), doc, r, threads, items, out)
			if err != nil {
				return err
			}
			if asJSON {
				_, err = cmd.OutOrStdout().Write(m)
			}
			return err
		},
	}
	fl := c.Flags()
	fl.StringVar(&out, "out", "", "folder for the videos and manifest.json; it is made if missing")
	fl.StringVar(&shots, "shots", "", "shot numbers, such as 010,020 (default: all)")
	fl.StringVar(&sizeText, "size", "", "picture size, such as 1280x720 (default: the scene's format)")
	fl.StringVar(&quality, "quality", "check", "rough, check or fine")
	fl.StringVar(&recipeFile, "recipe", "", "a recipe (JSON) instead of the quality: pack, handles, burn-ins and so on")
	fl.StringVar(&assemblyName, "assembly", "", "assembly by name or id (default: the first)")
	fl.IntVar(&threads, "threads", 0, "rendering threads (default: one for each processor)")
	fl.BoolVar(&asJSON, "json", false, "print the manifest")
	alternateFlag(c, &other)
	return c
}

func parseSize(s string) (w, h int, err error) {
	a, b, ok := strings.Cut(strings.ReplaceAll(strings.ToLower(s), "×", "x"), "x")
	w, err1 := strconv.Atoi(strings.TrimSpace(a))
	h, err2 := strconv.Atoi(strings.TrimSpace(b))
	if !ok || err1 != nil || err2 != nil {
		return 0, 0, badInput("--size %q is not a picture size; write it as 1280x720", s)
	}
	return w, h, nil
}

// readRecipe reads a recipe from a file.
func readRecipe(file string) (scene.Recipe, error) {
	body, err := os.ReadFile(file)
	if err != nil {
		return scene.Recipe{}, badInput("the recipe cannot be read: %v", err)
	}
	r, err := scene.ReadRecipe(body)
	switch {
	case err != nil:
		return r, badInput("%s is no recipe: %v", file, err)
	case r.Sound:
		return r, badInput("sounds lie in the server's store and not in the scene file; take “sound” out of the recipe")
	}
	return r, nil
}

// renderAll renders the items into dir and returns the manifest's text. Files get their
// names when they are whole, and a name that is taken gets the next version.
func renderAll(ctx context.Context, show io.Writer, doc *scene.Document, r scene.Recipe, threads int, items []turnover.Item, dir string) ([]byte, error) {
	if _, err := ffmpeg.Path(); err != nil {
		return nil, err
	}
	if err := os.MkdirAll(dir, 0o755); err != nil {
		return nil, fmt.Errorf("the folder %s cannot be made: %w", dir, cause(err))
	}
	if _, err := manifestIn(dir); err != nil { // before anything is made
		return nil, err
	}
	tmp, end, err := scratch.Beside(dir)
	if err != nil {
		return nil, fmt.Errorf("the folder %s cannot be written: %w", dir, cause(err))
	}
	defer end()
	var body []byte
	for _, item := range items {
		pack := turnover.RecipeFor(&item, r).Pack
		form := render.Form{Pack: pack, Quality: r.Quality, Rate: turnover.RateOf(doc, &r)}
		version, to, err := settled(dir, doc, &item, &r)
		if err != nil {
			return nil, err
		}
		film, err := turnover.NewFilm(doc, picture.Files{}, item, r, turnover.Facts{Version: version, Date: time.Now()}, threads)
		if err != nil {
			return nil, err
		}
		bar := progress(show, &item, film.Frames())
		made := filepath.Join(tmp, "made")
		all := timing.Range{Out: film.Frames()}
		told := func(done int, _ *image.RGBA) { _ = bar.Set(done) }
		if pack.Numbered() {
			err = render.EncodePictures(ctx, film, all, form, made, filepath.Base(to), told)
		} else {
			err = render.Encode(ctx, film, all, form, made, told)
		}
		_ = bar.Exit()
		if err != nil {
			if ctx.Err() != nil {
				return nil, errors.New("stopped; finished videos are kept and are in manifest.json, nothing half-written is left")
			}
			if errors.Is(err, scratch.ErrFull) { // the videos are made where they will be
				return nil, fmt.Errorf("shot %s: the disk of %s is full; make room there and do it again. Finished videos are kept, nothing half-written is left", item.Number, dir)
			}
			return nil, fmt.Errorf("shot %s: %w", item.Number, err)
		}
		if err := named(made, filepath.Join(dir, to), os.Link); err != nil {
			return nil, fmt.Errorf("%s cannot be written: %w", to, cause(err))
		}
		out := render.ManifestOutput{
			What: item.What, Pass: item.Pass, As: item.Otherwise, Shot: item.Number, Camera: item.CameraName, File: to, Frames: film.Frames(),
			Rate: film.Rate().String(), Width: item.Width, Height: item.Height, Head: item.HeadFrames(&film.Recipe), Tail: item.TailFrames(&film.Recipe), Pace: item.Pace,
		}
		if out.Sha256, err = hashOf(filepath.Join(dir, to)); err != nil {
			return nil, err
		}
		if film.Recipe.Lines == scene.Beside {
			if said := film.Said(); len(said) > 0 {
				name := strings.TrimSuffix(to, filepath.Ext(to)) + ".srt"
				body := interchange.SubRip(doc, film.Rate(), said)
				if err := writeWhole(filepath.Join(dir, name), body); err != nil {
					return nil, err
				}
				hash := sha256.Sum256(body)
				out.Beside = append(out.Beside, render.ManifestExtra{File: name, Sha256: hex.EncodeToString(hash[:])})
			}
		}
		// It is written after each, so that a run that is broken off has one too, and read
		// before, since another run may have written it meanwhile.
		m, err := manifestIn(dir)
		if err != nil {
			return nil, err
		}
		m.Outputs = append(m.Outputs, out)
		if body, err = m.Encode(); err != nil {
			return nil, err
		}
		if err := writeWhole(filepath.Join(dir, manifestName), body); err != nil {
			return nil, err
		}
	}
	return body, nil
}

const manifestName = "manifest.json"

// manifestIn reads the manifest that earlier runs have left in a folder: of the outputs in
// it, those that are still there.
func manifestIn(dir string) (render.Manifest, error) {
	m := render.Manifest{Outputs: []render.ManifestOutput{}}
	body, err := os.ReadFile(filepath.Join(dir, manifestName))
	if errors.Is(err, os.ErrNotExist) {
		return m, nil
	}
	var before render.Manifest
	if err == nil {
		dec := json.NewDecoder(bytes.NewReader(body))
		dec.DisallowUnknownFields()
		err = dec.Decode(&before)
	}
	if err != nil {
		return m, badInput("%s is no manifest of ours and would be replaced; move it away, or choose another folder", filepath.Join(dir, manifestName))
	}
	for _, o := range before.Outputs {
		if _, err := os.Lstat(filepath.Join(dir, filepath.FromSlash(o.File))); filepath.IsLocal(o.File) && err == nil {
			m.Outputs = append(m.Outputs, o)
		}
	}
	return m, nil
}

// named gives a finished file or folder its name, which nobody may have.
func named(made, to string, link func(from, to string) error) error {
	if info, err := os.Stat(made); err != nil || info.IsDir() {
		return os.Rename(made, to)
	}
	// A hard link fails when the name is taken, where a rename would replace.
	err := link(made, to)
	if err == nil || errors.Is(err, os.ErrExist) {
		return errors.Join(err, os.Remove(made))
	}
	// Disks without hard links: the name is taken first, and what has it is ours.
	f, err := os.OpenFile(to, os.O_CREATE|os.O_EXCL|os.O_WRONLY, 0o644)
	if err != nil {
		return err
	}
	if err := errors.Join(f.Close(), os.Rename(made, to)); err != nil {
		return errors.Join(err, os.Remove(to))
	}
	return nil
}

// cause is what the system says, without the names of our temporary files.
func cause(err error) error {
	var path *os.PathError
	var link *os.LinkError
	switch {
	case errors.As(err, &link):
		return link.Err
	case errors.As(err, &path):
		return path.Err
	}
	return err
}

// settled makes the folder of an item below dir and returns the first version of its
// name that nobody has.
func settled(dir string, doc *scene.Document, i *turnover.Item, r *scene.Recipe) (version int, name string, err error) {
	for version = 1; version < 1000; version++ {
		name = turnover.Path(doc, i, r, turnover.Facts{Version: version, Date: time.Now()})
		if pack := turnover.RecipeFor(i, *r).Pack; !pack.Numbered() {
			name += "." + pack.Ending()
		}
		if _, err := os.Lstat(filepath.Join(dir, name)); errors.Is(err, os.ErrNotExist) {
			return version, name, os.MkdirAll(filepath.Dir(filepath.Join(dir, name)), 0o755)
		}
	}
	return 0, "", fmt.Errorf("%s has 999 versions of %s already; choose another folder", dir, name)
}

// hashOf returns the hash of a file, or of the list of the hashes of a folder's files,
// as sha256sum writes it.
func hashOf(file string) (string, error) {
	info, err := os.Stat(file)
	if err != nil {
		return "", err
	}
	if !info.IsDir() {
		return hashFile(file)
	}
	all, err := os.ReadDir(file)
	if err != nil {
		return "", err
	}
	list := sha256.New()
	for _, e := range all {
		one, err := hashFile(filepath.Join(file, e.Name()))
		if err != nil {
			return "", err
		}
		_, _ = fmt.Fprintf(list, "%s  %s\n", one, e.Name())
	}
	return hex.EncodeToString(list.Sum(nil)), nil
}

func hashFile(file string) (string, error) {
	f, err := os.Open(file)
	if err != nil {
		return "", err
	}
	defer func() { _ = f.Close() }()
	h := sha256.New()
	if _, err := io.Copy(h, f); err != nil {
		return "", err
	}
	return hex.EncodeToString(h.Sum(nil)), nil
}

// progress returns a bar on a terminal, and nothing visible elsewhere.
func progress(w io.Writer, item *turnover.Item, frames int) *progressbar.ProgressBar {
	f, ok := w.(*os.File)
	if !ok || !term.IsTerminal(int(f.Fd())) {
		w = io.Discard
	}
	return progressbar.NewOptions(frames, progressbar.OptionSetWriter(w), progressbar.OptionSetDescription("shot "+item.Number),
		progressbar.OptionShowCount(), progressbar.OptionShowIts(), progressbar.OptionSetItsString("frames"), progressbar.OptionOnCompletion(func() { _, _ = fmt.Fprintln(w) }))
}
