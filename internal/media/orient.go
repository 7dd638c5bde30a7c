package media

import (
	"bytes"
	"encoding/binary"
	"image"
)

// orientation returns how a JPEG is to be turned, 1 to 8, as its Exif says (CIPA DC-008, tag
// 0x0112); 1 where nothing is said.
func orientation(data []byte) int {
	for at := 2; at+4 <= len(data) && data[at] == 0xff; {
		marker, length := data[at+1], int(data[at+2])<<8|int(data[at+3])
		if marker == 0xff { // fill
			at++
			continue
		}
		if marker == 0xda || length < 2 || at+2+length > len(data) { // the picture itself
			return 1
		}
		if body := data[at+4 : at+2+length]; marker == 0xe1 && bytes.HasPrefix(body, []byte("Exif\x00\x00")) {
			return tiffOrientation(body[6:])
		}
		at += 2 + length
	}
	return 1
}

func tiffOrientation(t []byte) int {
	var order binary.ByteOrder = binary.LittleEndian
	if bytes.HasPrefix(t, []byte("MM")) {
		order = binary.BigEndian
	}
	if len(t) < 8 {
		return 1
	}
	first := int64(order.Uint32(t[4:]))
	if first+2 > int64(len(t)) {
		return 1
	}
	entries := t[first:]
	for k := range int(order.Uint16(entries)) {
		e := 2 + 12*k
		if e+12 > len(entries) {
			return 1
		}
		if order.Uint16(entries[e:]) == 0x0112 {
			if v := int(order.Uint16(entries[e+8:])); v >= 1 && v <= 8 {
				return v
			}
			return 1
		}
	}
	return 1
}

// upright turns a picture as it is to be seen; how is its orientation.
func upright(im *image.RGBA, how int) *image.RGBA {
	if how <= 1 {
		return im
	}
	size := im.Rect.Size()
	w, h := size.X-1, size.Y-1
	if how >= 5 {
		size.X, size.Y = size.Y, size.X
	}
	out := image.NewRGBA(image.Rectangle{Max: size})
	for y := range size.Y {
		for x := range size.X {
			fx, fy := x, y // the column and row that are stored for this place
			switch how {
			case 2:
				fx = w - x
			case 3:
				fx, fy = w-x, h-y
			case 4:
				fy = h - y
			case 5:
				fx, fy = y, x
			case 6:
				fx, fy = y, h-x
			case 7:
				fx, fy = w-y, h-x
			case 8:
				fx, fy = w-y, x
			}
			out.SetRGBA(x, y, im.RGBAAt(im.Rect.Min.X+fx, im.Rect.Min.Y+fy))
		}
	}
	return out
}
