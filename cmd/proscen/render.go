package main

import (
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

	"github.com/schollz/progressbar/v3"
	"github.com/spf13/cobra"
	"golang.org/x/term"

	"proscen/core/naming"
	"proscen/core/picture"
	"proscen/core/program"
	"proscen/core/raster"
	"proscen/core/scene"
	"proscen/internal/ffmpeg"
	"proscen/internal/render"
)

func renderCommand() *cobra.Command {
	var out, shots, sizeText, quality, assemblyName string
	var threads int
	var asJSON bool
	c := &cobra.Command{
		Use:   "render FILE --out DIR",
		Short: "Render one mp4 per shot and a manifest",
		Args:  exactly(1, "name the scene document: proscen render FILE --out DIR"),
		RunE: func(cmd *cobra.Command, args []string) error {
			doc, err := readScene(args[0])
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
			f := doc.Formats[doc.Settings.Format]
			p := picture.Form{Width: f.Width, Height: f.Height}
			if sizeText != "" {
				if p.Width, p.Height, err = parseSize(sizeText); err != nil {
					return err
				}
			}
			if p.Quality, err = picture.ParseQuality(quality); err != nil {
				return inputError{err}
			}
			if err := p.Validate(); err != nil {
				return inputError{err}
			}
			var wanted []string
			for _, s := range strings.Split(shots, ",") {
				if s = strings.TrimSpace(s); s != "" {
					wanted = append(wanted, s)
				}
			}
			if cmd.Flags().Changed("shots") && len(wanted) == 0 {
				return badInput("--shots names no shot; write numbers such as 010,020")
			}
			items, err := render.Plan(doc, id, wanted)
			if err != nil {
				return inputError{err}
			}
			if threads < 0 || threads > raster.MaxThreads {
				return badInput("--threads must be from 1 to %d", raster.MaxThreads)
			}
			if threads == 0 {
				threads = runtime.NumCPU()
			}
			m, err := renderAll(cmd.Context(), cmd.ErrOrStderr(), doc, id, p, threads, items, out)
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
	fl.StringVar(&assemblyName, "assembly", "", "assembly by name or id (default: the first)")
	fl.IntVar(&threads, "threads", 0, "rendering threads (default: one for each processor)")
	fl.BoolVar(&asJSON, "json", false, "print the manifest")
	return c
}

func parseSize(s string) (w, h int, err error) {
	a, b, ok := strings.Cut(strings.ToLower(s), "x")
	w, err1 := strconv.Atoi(a)
	h, err2 := strconv.Atoi(b)
	if !ok || err1 != nil || err2 != nil {
		return 0, 0, badInput("--size %q is not a picture size; write it as 1280x720", s)
	}
	return w, h, nil
}

// renderAll renders the items into dir and returns the manifest's text. Videos
// get their names when they are whole, and a name that is taken gets the next
// version.
func renderAll(ctx context.Context, show io.Writer, doc *scene.Document, assemblyID string, p picture.Form, threads int, items []render.Item, dir string) ([]byte, error) {
	if _, err := ffmpeg.Path(); err != nil {
		return nil, err
	}
	painter, err := picture.NewPainter(doc, picture.Files{}, assemblyID, p, threads)
	if err != nil {
		return nil, err
	}
	if err := os.MkdirAll(dir, 0o755); err != nil {
		return nil, fmt.Errorf("the folder %s cannot be made: %w", dir, err)
	}
	tmp, err := os.MkdirTemp(dir, ".rendering-*")
	if err != nil {
		return nil, fmt.Errorf("the folder %s cannot be written: %w", dir, err)
	}
	defer func() { _ = os.RemoveAll(tmp) }()
	m := render.Manifest{Outputs: []render.ManifestOutput{}}
	for _, item := range items {
		bar := progress(show, item)
		file := filepath.Join(tmp, "shot.mp4")
		err := render.Encode(ctx, painter, item.Screen, doc.Settings.Rate, file, func(done int, _ *image.RGBA) { _ = bar.Set(done) })
		_ = bar.Exit()
		if err != nil {
			if ctx.Err() != nil {
				return nil, errors.New("stopped; finished videos are kept, nothing half-written is left")
			}
			return nil, fmt.Errorf("shot %s: %w", item.Number, err)
		}
		name, err := settle(file, dir, naming.Shot(doc.Settings.Title, item.Number, item.Camera))
		if err != nil {
			return nil, err
		}
		hash, err := hashFile(filepath.Join(dir, name))
		if err != nil {
			return nil, err
		}
		m.Outputs = append(m.Outputs, render.ManifestOutput{
			Shot: item.Number, Camera: item.CameraName, File: name, Frames: item.Screen.Count(),
			Rate: doc.Settings.Rate.String(), Width: p.Width, Height: p.Height, Sha256: hash,
		})
	}
	body, err := json.MarshalIndent(m, "", "  ")
	if err != nil {
		return nil, err
	}
	body = append(body, '\n')
	return body, writeWhole(filepath.Join(dir, "manifest.json"), body)
}

// settle gives a finished file the first free version of a name.
func settle(file, dir, stem string) (string, error) {
	for v := 1; v < 1000; v++ {
		name := naming.Versioned(stem, v, "mp4")
		// A hard link fails when the name is taken, where a rename would replace.
		err := os.Link(file, filepath.Join(dir, name))
		if err == nil {
			return name, os.Remove(file)
		}
		if !errors.Is(err, os.ErrExist) {
			return "", fmt.Errorf("%s cannot be written: %w", name, err)
		}
	}
	return "", fmt.Errorf("%s has 999 versions of %s already; choose another folder", dir, stem)
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
func progress(w io.Writer, item render.Item) *progressbar.ProgressBar {
	f, ok := w.(*os.File)
	if !ok || !term.IsTerminal(int(f.Fd())) {
		w = io.Discard
	}
	return progressbar.NewOptions(item.Screen.Count(), progressbar.OptionSetWriter(w), progressbar.OptionSetDescription("shot "+item.Number),
		progressbar.OptionShowCount(), progressbar.OptionShowIts(), progressbar.OptionSetItsString("frames"), progressbar.OptionOnCompletion(func() { _, _ = fmt.Fprintln(w) }))
}
