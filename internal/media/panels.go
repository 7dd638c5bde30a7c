package media

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"os"
	"os/exec"
	"strconv"
	"time"

	"proscen/internal/blobs"
	"proscen/internal/ffmpeg"
	"proscen/internal/scratch"
)

// Bounds of a PDF of panels.
const (
	MaxPanelBytes = 128 << 20
	maxPanels     = 300              // pages
	pageTime      = 10 * time.Second // for one page
	panelTime     = time.Minute      // for all
	panelMemory   = 512 << 20
)

// leafing lets one PDF be read at a time.
var leafing = make(chan struct{}, 1)

// Panels turns the pages of a PDF into stored pictures, in order.
func Panels(ctx context.Context, bucket *blobs.Bucket, u *Upload) (out []Image, err error) {
	if u.Size > MaxPanelBytes {
		return nil, fmt.Errorf("%w: the PDF has more than %d MB", ErrImage, MaxPanelBytes>>20)
	}
	f, err := os.Open(u.file())
	if err != nil {
		return nil, err
	}
	head := make([]byte, 5)
	_, err = f.Read(head)
	_ = f.Close()
	if err != nil || !bytes.Equal(head, []byte("%PDF-")) {
		return nil, fmt.Errorf("%w: it is no PDF", ErrImage)
	}
	tool, err := exec.LookPath("pdftoppm")
	if err != nil {
		return nil, fmt.Errorf("%w: the reader of PDFs is not installed; install it (apt-get install poppler-utils), or take the pages in as pictures", ErrImage)
	}
	select {
	case leafing <- struct{}{}:
		defer func() { <-leafing }()
	case <-ctx.Done():
		return nil, context.Cause(ctx)
	}
	began := time.Now()
	for n := 1; ; n++ {
		if n > maxPanels+1 || time.Since(began) > panelTime {
			return nil, fmt.Errorf("%w: the PDF has more than %d pages, or they take longer than %d seconds; take it in by parts", ErrImage, maxPanels, int(panelTime.Seconds()))
		}
		page, err := page(ctx, tool, u, n)
		if err != nil {
			return nil, err
		}
		if page == nil && n > 1 {
			return out, nil
		}
		if page == nil {
			return nil, fmt.Errorf("%w: the PDF is damaged or locked", ErrImage)
		}
		im, err := KeepPicture(ctx, bucket, page)
		if err != nil {
			return nil, err
		}
		out = append(out, im)
	}
}

// page returns a page of a PDF as a PNG, nil when there is no such page.
func page(ctx context.Context, tool string, u *Upload, n int) ([]byte, error) {
	within, stop := context.WithTimeout(ctx, pageTime)
	defer stop()
	args := []string{"-png", "-scale-to", "1600", "-f", strconv.Itoa(n), "-l", strconv.Itoa(n), "-singlefile", u.file(), u.beside("page")}
	if limit, err := exec.LookPath("prlimit"); err == nil { // what a page asks for is bounded too
		args = append([]string{fmt.Sprintf("--as=%d", panelMemory), tool}, args...)
		tool = limit
	}
	cmd := ffmpeg.Command(within, tool, args...)
	var said bytes.Buffer
	cmd.Stderr = &said
	err := cmd.Run()
	switch {
	case ctx.Err() != nil:
		return nil, context.Cause(ctx)
	case within.Err() != nil:
		return nil, fmt.Errorf("%w: page %d of the PDF takes longer than %d seconds; take it in as a picture", ErrImage, n, int(pageTime.Seconds()))
	case ffmpeg.Full(said.String()):
		return nil, scratch.ErrFull
	}
	file := u.beside("page.png")
	body, read := os.ReadFile(file)
	_ = os.Remove(file)
	if errors.Is(read, os.ErrNotExist) {
		if err != nil && n > 1 && !bytes.Contains(said.Bytes(), []byte("Wrong page range")) {
			return nil, fmt.Errorf("%w: page %d of the PDF is damaged", ErrImage, n)
		}
		return nil, nil
	}
	return body, read
}
