package kit

import "proscen/core/curve"

// Dye tells which colours a mesh of the stock has under each colour that its piece is given:
// all of them are shades and mixtures of that one, so they lie on straight lines from what
// they are under black to what they are under white.
type Dye struct{ black, step []float32 }

// NewDye finds the dye of a mesh from how it is built in a colour.
func NewDye(build func(color string) *Mesh) Dye {
	black, white := build("#000000").Colors, build("#ffffff").Colors
	step := make([]float32, len(white))
	for i := range step {
		step[i] = white[i] - black[i]
	}
	return Dye{black, step}
}

// Color fills the colours of the mesh's corners, four for each, under a linear colour.
func (d Dye) Color(c [3]float32, into []float32) {
	for i, b := range d.black {
		if ch := i & 3; ch < 3 {
			b += d.step[i] * c[ch]
		}
		into[i] = b
	}
}

// DyeOf is the dye of a piece's mesh; see Build.
func DyeOf(id string, values map[string]float64, path *curve.Path) Dye {
	return NewDye(func(color string) *Mesh { return Build(id, values, color, path) })
}

// DyeOfLeaf is the dye of one of a piece's leaves; see Leaves.
func DyeOfLeaf(id string, values map[string]float64, leaf int) Dye {
	return NewDye(func(color string) *Mesh { return Leaves(id, values, color)[leaf].Mesh() })
}

// Dyed is the linear colour that a piece is built in, with "" for the stock's own.
func Dyed(id, color string) [3]float32 {
	if color == "" {
		s, _ := Find(id)
		color = s.Color
	}
	c := Hex(color)
	return [3]float32(c[:3])
}
