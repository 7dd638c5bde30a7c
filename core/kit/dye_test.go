package kit

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// What a dye says of a colour is what is built in that colour, for every piece of the stock.
func TestDyesAreWhatIsBuiltInThatColour(t *testing.T) {
	for _, s := range Shelf {
		assert.Equal(t, Dyed(s.ID, s.Color), Dyed(s.ID, ""))
		for _, color := range []string{"#3a7f20", "#e0c0ff"} {
			c := Hex(color)
			same := func(what string, built *Mesh, d Dye) {
				got := make([]float32, len(built.Colors))
				require.Len(t, d.black, len(got), what)
				d.Color([3]float32(c[:3]), got)
				assert.InDeltaSlice(t, built.Colors, got, 2e-6, what)
			}
			same(s.ID, Build(s.ID, nil, color, nil), DyeOf(s.ID, nil, nil))
			for i, l := range Leaves(s.ID, nil, color) {
				same("leaf of "+s.ID, l.Mesh(), DyeOfLeaf(s.ID, nil, i))
			}
		}
	}
}
