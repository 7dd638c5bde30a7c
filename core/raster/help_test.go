package raster

// toned is what the filmic curve makes of a channel.
func toned(x float32) uint8 { return uint8(filmic().toned(x)) }
