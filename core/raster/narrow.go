//go:build !goexperiment.simd || !amd64

package raster

// wide says that samples are looked at eight at a time; see wide.go.
const wide = false

func (t *tileScratch) partWide(*block, *part)                                                {}
func (t *tileScratch) fillWide(*block, uint32)                                               {}
func (t *tileScratch) smallWide(*triangle, uint32, int32, int32, int32, int32, int32, int32) {}
func (f *face) rowWide(*tileScratch, *shader, *block, int32, int32, int32, []uint8)          {}
func (f *face) cornersWide(*rays, *block) (lo, hi [3]float32, ok bool)                       { return }
func (b *block) undividedWide(int32) uint8                                                   { return 0 }
