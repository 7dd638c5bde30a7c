//go:build !goexperiment.simd || !amd64

package raster

import "image"

// wide says that samples are looked at eight at a time; see wide.go.
const wide, sixteen = false, false

func (t *tileScratch) partLanes(*block, *part)                                               {}
func (t *tileScratch) fillWide(*block, uint32)                                               {}
func (t *tileScratch) smallWide(*triangle, uint32, int32, int32, int32, int32, int32, int32) {}
func (f *face) pixelsWide(*tileScratch, *shader, *block, uint64)                             {}
func (b *block) plainWide(uint32, *image.RGBA)                                               {}
func (f *face) placesWide(*tileScratch, *shader, []*stake, *[side]uint32)                    {}
func (f *face) cornersWide(*rays, *block) (lo, hi [3]float32, ok bool)                       { return }
func (b *block) aloneWide(*[pixels]uint32) uint64                                            { return 0 }
func (d *sides) amongWide(uint16, int32, int32) (touched uint16, cut [3]uint16)              { return }
func (t *tileScratch) writeWide(*block, *image.RGBA)                                         {}
func firstsWide(*[pixels]uint32, uint32) uint64                                              { return 0 }
func (c *builder) projectWide(*placed, int, *[3][]float32)                                   {}
