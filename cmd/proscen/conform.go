package main

import (
	"encoding/json"
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strings"

	"github.com/spf13/cobra"

	"proscen/core/timing"
	"proscen/core/turnover"
	"proscen/internal/conform"
	"proscen/internal/render"
)

// conformCommand plays the editor who gets a delivery.
func conformCommand() *cobra.Command {
	var list, against string
	var tolerance float64
	var head int
	c := &cobra.Command{
		Use: "conform DIR", Short: "Rebuild a sequence from a delivery's cut list and files, and compare it with the video of the whole",
		Args: exactly(1, "name the folder of a delivery: proscen conform DIR"),
		RunE: func(cmd *cobra.Command, args []string) error {
			dir := args[0]
			body, err := os.ReadFile(filepath.Join(dir, "manifest.json"))
			if err != nil {
				return badInput("%s has no manifest.json; unpack a whole delivery there", dir)
			}
			var m render.Manifest
			if err := json.Unmarshal(body, &m); err != nil || len(m.Outputs) == 0 {
				return badInput("%s: its manifest.json cannot be read", dir)
			}
			if list == "" {
				found, _ := filepath.Glob(filepath.Join(dir, "*", "*.otio"))
				if len(found) != 1 {
					return badInput("%s has %d cut lists; say which one: --list FILE", dir, len(found))
				}
				list = found[0]
			}
			if against == "" {
				folder := filepath.Base(filepath.Dir(list)) + "/"
				i := slices.IndexFunc(m.Outputs, func(o render.ManifestOutput) bool {
					return o.What == turnover.Whole && o.Pass == "" && strings.HasPrefix(o.File, folder)
				})
				if i < 0 {
					return badInput("%s has no video of the whole cut; deliver that too, or say what to compare with: --against FILE", dir)
				}
				against = filepath.Join(dir, filepath.FromSlash(m.Outputs[i].File))
				head = m.Outputs[i].Head
			}
			if m.Outputs[0].Pace != 0 {
				return badInput("%s: its files have another rate than the cut, so that their frames cannot be held against each other", dir)
			}
			rate, err := timing.ParseRate(m.Outputs[0].Rate)
			if err != nil {
				return inputError{err}
			}
			events, err := conform.Read(list, rate)
			if err != nil {
				return inputError{err}
			}
			r, err := conform.Compare(cmd.Context(), events, against, head)
			if err != nil {
				return err
			}
			out := cmd.OutOrStdout()
			_, _ = fmt.Fprintf(out, "%d events from %s, %d frames compared, %d of them differ; a value by %d of 255 at most, a frame by %.3f on average (frame %d)\n",
				len(events), filepath.Base(list), r.Frames, r.Differ, r.Largest, r.Mean, r.Worst)
			if r.Beyond > 0 {
				_, _ = fmt.Fprintf(out, "%d frames lie in travels from camera to camera, which no list can hold\n", r.Beyond)
			}
			if r.Mean > tolerance {
				return fmt.Errorf("frame %d differs by %.3f on average, more than %g", r.Worst, r.Mean, tolerance)
			}
			return nil
		},
	}
	fl := c.Flags()
	fl.StringVar(&list, "list", "", "the cut list, .otio or .edl (default: the one in DIR)")
	fl.StringVar(&against, "against", "", "the video to compare with (default: that of the whole cut in DIR)")
	fl.IntVar(&head, "head", 0, "frames at the head of the video to compare with that are not the sequence's (default: as the manifest says)")
	fl.Float64Var(&tolerance, "tolerance", 0.05, "how far a frame may be on average, of 255; videos with losses need some")
	return c
}
