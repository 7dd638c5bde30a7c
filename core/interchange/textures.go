//go:build !js

package interchange

// What textures of models are written in. Models are read by the server; the core in the
// browser is smaller without.
import (
	_ "image/jpeg"
	_ "image/png"

	_ "golang.org/x/image/bmp"
	_ "golang.org/x/image/tiff"
	_ "golang.org/x/image/webp"
)
