package main

import (
	"encoding/json"
	"errors"
	"fmt"
	"os"
	"runtime"
	"strconv"
	"strings"

	"github.com/spf13/cobra"

	"proscen/core/raster"
	"proscen/internal/picturebench"
)

func benchCommand() *cobra.Command {
	c := &cobra.Command{Use: "bench", Short: "Measure how fast this machine is"}
	c.AddCommand(benchPictureCommand())
	return c
}

// benchPictureCommand renders a model along a camera move and tells how fast.
func benchPictureCommand() *cobra.Command {
	var o picturebench.Options
	var shown string
	var asJSON bool
	c := &cobra.Command{
		Use: "picture MODEL CAMERAS.json", Short: "Measure the renderer on a model and a camera move",
		Args: exactly(2, "name a model and a camera move: proscen bench picture MODEL.glb CAMERAS.json"),
		RunE: func(cmd *cobra.Command, args []string) error {
			for _, text := range strings.Split(shown, ",") {
				n, err := strconv.Atoi(strings.TrimSpace(text))
				if err != nil {
					return badInput("--png-frames takes frame numbers with commas between them, not %q", text)
				}
				o.Shown = append(o.Shown, n)
			}
			if o.Frames < 0 || o.Shadow < 0 || o.Threads < 1 {
				return badInput("--frames and --shadow cannot be negative, and --threads is at least 1")
			}
			model, err := os.ReadFile(args[0])
			if err != nil {
				return inputError{err}
			}
			move, err := os.ReadFile(args[1])
			if err != nil {
				return inputError{err}
			}
			draws, err := picturebench.ReadModel(cmd.Context(), model)
			if err != nil {
				return inputError{err}
			}
			cameras, err := picturebench.ReadCameras(move)
			if err != nil {
				return inputError{err}
			}
			r, err := picturebench.Run(cmd.Context(), draws, cameras, o)
			if errors.Is(err, raster.ErrSize) {
				return inputError{err}
			}
			if err != nil {
				return err
			}
			if asJSON {
				return json.NewEncoder(cmd.OutOrStdout()).Encode(r)
			}
			fmt.Fprintf(cmd.OutOrStdout(), "%d frames of %d×%d, %d samples, shadow %d, %d threads, %d triangles in %d draws\n%.2f frames a second; median %.1f ms, slowest %.1f ms; %.0f MB of memory\n",
				r.Frames, r.Width, r.Height, r.Samples, r.Shadow, r.Threads, r.Triangles, r.Draws, r.FPS, r.MedianMS, r.SlowestMS, r.MemoryMB)
			if r.Video != nil {
				fmt.Fprintf(cmd.OutOrStdout(), "%.2f frames a second with encoding\n", r.Video.FPS)
			}
			return nil
		},
	}
	fl := c.Flags()
	fl.IntVar(&o.Frames, "frames", 0, "frames to measure, spread over the move (default all)")
	fl.IntVar(&o.Samples, "samples", 4, "samples in a pixel: 1 or 4")
	fl.IntVar(&o.Shadow, "shadow", 2048, "side of the shadow map in pixels, 0 for no shadow")
	fl.IntVar(&o.Threads, "threads", runtime.NumCPU(), "painting threads")
	fl.StringVar(&o.Video, "video", "", "encode into this new file, too, and tell how fast both go together")
	fl.StringVar(&o.PNG, "png", "", "a folder for pictures of single frames")
	fl.StringVar(&shown, "png-frames", "0", "which frames these are")
	fl.BoolVar(&asJSON, "json", false, "print JSON")
	return c
}
