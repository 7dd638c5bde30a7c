package main

import (
	"bytes"
	"cmp"
	"encoding/json"
	"errors"
	"fmt"
	"image"
	"io"
	"math"
	"os"
	"runtime"
	"slices"
	"strings"

	"github.com/oklog/ulid/v2"
	"github.com/spf13/cobra"

	"proscen/core/interchange"
	"proscen/core/picture"
	"proscen/core/program"
	"proscen/core/scene"
	"proscen/core/session"
	"proscen/core/turnover"
	"proscen/internal/render"
	"proscen/internal/sheets"
)

// exportForms are the forms that an export has.
const exportForms = "otio, edl, srt, vtt, csv, xlsx, list, storyboard, usda, gltf or moves"

// written writes a file, and then says what it does not carry.
func written(cmd *cobra.Command, out string, w interchange.Written) error {
	if err := writeWhole(out, w.Data); err != nil {
		return err
	}
	say(cmd.ErrOrStderr(), w.Notes)
	return nil
}

func exportCommand() *cobra.Command {
	var as, out, name, clock, manifest, other string
	c := &cobra.Command{
		Use: "export FILE --as FORMAT --out OUTPUT", Short: "Write a cut as otio, edl, srt, vtt, csv, xlsx, list or storyboard, its cameras as usda, gltf or moves",
		Args: exactly(1, "name the scene document: proscen export FILE --as otio --out OUTPUT"),
		RunE: func(cmd *cobra.Command, args []string) error {
			doc, err := readAlternate(cmd, args[0], other)
			if err != nil {
				return err
			}
			if out == "" {
				return badInput("say where the file goes: --out OUTPUT")
			}
			id, ok := program.Find(doc, name)
			if !ok {
				return badInput("the scene has no assembly %q", name)
			}
			if kind := sheets.Kind(as); kind.Valid() {
				size := sheets.Size(doc.Formats[doc.Settings.Format])
				p, err := picture.NewPainter(doc, picture.Files{}, id, size, runtime.NumCPU())
				if err != nil {
					return inputError{err}
				}
				data, err := sheets.Make(cmd.Context(), doc, id, kind, func(frame int) (*image.RGBA, error) {
					im := image.NewRGBA(image.Rect(0, 0, size.Width, size.Height))
					return im, p.Frame(frame, im)
				})
				if err != nil {
					return inputError{err}
				}
				return writeWhole(out, data)
			}
			if clock != string(scene.StoryClock) && clock != string(scene.ScreenClock) {
				return badInput("--clock is story or screen, not %q", clock)
			}
			if _, ok := interchange.StageFormat(as); ok {
				w, err := turnover.WriteStage(session.Open(doc, nil), id, as)
				if err != nil {
					return inputError{err}
				}
				return written(cmd, out, w)
			}
			if !slices.ContainsFunc(interchange.CutFormats, func(f interchange.CutFormat) bool { return f.ID == as }) {
				return badInput("--as is one of %s, not %q", exportForms, as)
			}
			deliveries, err := delivered(doc, id, manifest)
			if err != nil {
				return err
			}
			w, err := interchange.WriteCut(doc, id, as, scene.Clock(clock), deliveries)
			if err != nil {
				return inputError{err}
			}
			return written(cmd, out, w)
		},
	}
	fl := c.Flags()
	fl.StringVar(&as, "as", "", "one of "+exportForms+" (list and storyboard are PDF; usda, gltf and moves hold set and cameras)")
	fl.StringVar(&out, "out", "", "the file to write")
	fl.StringVar(&name, "assembly", "", "assembly by name or id (default: the first)")
	fl.StringVar(&clock, "clock", string(scene.ScreenClock), "clock of lines in srt and vtt: screen or story")
	fl.StringVar(&manifest, "manifest", "", "manifest.json of a delivery, whose files otio refers to")
	alternateFlag(c, &other)
	return c
}

// delivered returns the files of a manifest by the shots of an assembly.
func delivered(doc *scene.Document, id, manifest string) (map[string]interchange.Delivered, error) {
	if manifest == "" {
		return nil, nil
	}
	body, err := os.ReadFile(manifest)
	if err != nil {
		return nil, badInput("%s: cannot be read: %w", manifest, errors.Unwrap(err))
	}
	var m render.Manifest
	if err := json.Unmarshal(body, &m); err != nil {
		return nil, badInput("%s: is no manifest: %w", manifest, err)
	}
	out := map[string]interchange.Delivered{}
	for _, s := range program.Compile(doc, id).Shots() {
		for _, o := range m.Outputs {
			if o.Shot == s.Number && o.Pass == "" && o.As == doc.Alternates[doc.As].Name {
				pace := cmp.Or(o.Pace, 1)
				of := func(frames int) int { return int(math.Round(float64(frames) * pace)) } // the scene's
				out[s.ID] = interchange.Delivered{File: o.File, Head: of(o.Head), Frames: of(o.Frames)}
			}
		}
	}
	return out, nil
}

func say(to io.Writer, notes []string) {
	for _, n := range notes {
		_, _ = fmt.Fprintln(to, "note:", n)
	}
}

func importCommand() *cobra.Command {
	var into, out, cut string
	var dry bool
	c := &cobra.Command{
		Use: "import CUT --into SCENE --out SCENE", Short: "Bring a cut (otio, edl), lines (srt, vtt), cameras (gltf, csv) or a shot list (xlsx, csv) into a scene",
		Args: exactly(1, "name the file to bring in: proscen import CUT --into SCENE --out SCENE"),
		RunE: func(cmd *cobra.Command, args []string) error {
			if into == "" || out == "" && !dry {
				return badInput("say which scene it goes into and where the outcome goes: --into SCENE --out SCENE")
			}
			doc, err := readScene(into)
			if err != nil {
				return err
			}
			data, err := os.ReadFile(args[0])
			if err != nil {
				return badInput("%s: cannot be read: %w", args[0], cause(err))
			}
			id, ok := program.Find(doc, cut)
			if !ok && cut != "" {
				return badInput("there is no assembly called %q", cut)
			}
			if sheets.IsTable(data) {
				if data, err = sheets.Table(data); err != nil {
					return badInput("%s: %w", args[0], err)
				}
			}
			brought, err := interchange.ReadCut(doc, id, data)
			if err != nil {
				return badInput("%s: %w", args[0], err)
			}
			op, err := json.Marshal(brought.Args)
			if err != nil {
				return err
			}
			r, err := session.Open(doc, func() string { return ulid.Make().String() }).Run(brought.Operation, op)
			if err != nil {
				return badInput("%s: %w", args[0], err)
			}
			if dry {
				say(cmd.ErrOrStderr(), brought.Notes)
				for _, w := range brought.Will {
					is := w.Is
					if w.Was != "" {
						is = w.Was + " → " + w.Is
					}
					_, _ = fmt.Fprintf(cmd.OutOrStdout(), "%s: %s\n", w.What, strings.ReplaceAll(is, "\n", " "))
				}
				return nil
			}
			var b bytes.Buffer
			if err := json.Indent(&b, doc.Encode(), "", "  "); err != nil {
				return err
			}
			if err := writeWhole(out, append(b.Bytes(), '\n')); err != nil {
				return err
			}
			say(cmd.ErrOrStderr(), brought.Notes)
			_, _ = fmt.Fprintln(cmd.OutOrStdout(), strings.TrimSpace(r.Label))
			return nil
		},
	}
	c.Flags().BoolVar(&dry, "dry-run", false, "only say what would change; nothing is written")
	c.Flags().StringVar(&cut, "assembly", "", "whose shots a shot list tells of, by name or id (default: the first)")
	c.Flags().StringVar(&into, "into", "", "the scene document that it goes into; it is left as it is")
	c.Flags().StringVar(&out, "out", "", "the scene document to write")
	return c
}
