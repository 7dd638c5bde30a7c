package main

import (
	"bytes"
	"image"
	"image/jpeg"
	"image/png"
	"io"
	"path/filepath"
	"runtime"
	"strings"

	"github.com/spf13/cobra"

	"proscen/core/raster"
	"proscen/core/session"
)

// pictures are the forms of a still, by the ending of its name.
var pictures = map[string]func(to io.Writer, im image.Image) error{
	".png":  png.Encode,
	".jpg":  writeJPEG,
	".jpeg": writeJPEG,
}

func writeJPEG(to io.Writer, im image.Image) error {
	return jpeg.Encode(to, im, &jpeg.Options{Quality: 95})
}

// stillCommand renders one frame of one camera.
func stillCommand() *cobra.Command {
	var camera, shot, out, sizeText, storyText, other string
	c := &cobra.Command{
		Use: "still FILE --camera NAME --story-frame N --out PICTURE.png", Short: "Render one frame of one camera as PNG or JPEG",
		Args: exactly(1, "name the scene document: proscen still FILE --camera NAME --out PICTURE.png"),
		RunE: func(cmd *cobra.Command, args []string) error {
			doc, err := readAlternate(cmd, args[0], other)
			if err != nil {
				return err
			}
			if out == "" {
				return badInput("say where the picture goes: --out PICTURE.png")
			}
			write, ok := pictures[strings.ToLower(filepath.Ext(out))]
			if !ok {
				return badInput("--out %s: a still is a .png or a .jpg; deep pictures (EXR) are made by ‘proscen render --recipe’ with the pack exr", out)
			}
			f := doc.Formats[doc.Settings.Format]
			width, height := f.Width, f.Height
			if sizeText != "" {
				if width, height, err = parseSize(sizeText); err != nil {
					return err
				}
			}
			at, err := frame("story-frame", storyText)
			if err != nil {
				return err
			}
			s := session.Open(doc, nil)
			seen := ""
			if shot != "" {
				if seen, err = findShot(doc, shot); err != nil {
					return err
				}
				e := doc.Shots[seen]
				if camera == "" {
					camera = e.Camera
				}
				if !cmd.Flags().Changed("story-frame") {
					at = e.StoryIn
				}
			}
			s = s.In(seen)
			through, err := findCamera(s, camera)
			if err != nil {
				return err
			}
			r, err := raster.New(width, height, runtime.NumCPU())
			if err != nil {
				return inputError{err}
			}
			s.Motion.SetAspect(float64(width) / float64(height))
			s.Evaluate(at)
			var in raster.Input
			s.Draws(&s.State.Cameras[through], seen, &in)
			picture := image.NewRGBA(image.Rect(0, 0, width, height))
			if err := r.Render(&in, picture); err != nil {
				return err
			}
			var b bytes.Buffer
			if err := write(&b, picture); err != nil {
				return err
			}
			return writeWhole(out, b.Bytes())
		},
	}
	fl := c.Flags()
	fl.StringVar(&camera, "camera", "", "camera by name, number or id")
	fl.StringVar(&shot, "shot", "", "shot by number or id: its camera and first frame, with what only it sees")
	fl.StringVar(&storyText, "story-frame", "0", "frame of story time, may have decimals")
	fl.StringVar(&out, "out", "", "the picture, a .png or .jpg")
	fl.StringVar(&sizeText, "size", "", "picture size, such as 1280x720 (default: the scene's format)")
	alternateFlag(c, &other)
	return c
}
