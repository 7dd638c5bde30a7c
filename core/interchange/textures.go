//go:build !js

package interchange

// What textures of models are written in. Models are read by the server; the core in the
// browser is smaller without.
import (
	_ "image/jpeg"
	_ "image/png"
)
