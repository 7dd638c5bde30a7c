// Package web carries the built front end inside the program.
package web

import (
	"embed"
	"io/fs"
)

// all: also takes the placeholder that stands in until the front end is built.
//
//go:embed all:dist
var dist embed.FS

// Dist returns the built front end and whether it has been built.
func Dist() (fs.FS, bool) {
	sub, err := fs.Sub(dist, "dist")
	if err != nil {
		return nil, false
	}
	_, err = fs.Stat(sub, "index.html")
	return sub, err == nil
}
