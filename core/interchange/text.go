package interchange

import (
	"bytes"
	"encoding/binary"
	"fmt"
	"strings"
	"unicode/utf16"
	"unicode/utf8"

	"golang.org/x/text/encoding/charmap"
)

// longestRow bounds a row of a text file, in bytes.
const longestRow = 1 << 16

// plain returns text in UTF-8 with \n for ends of lines: of UTF-8 and UTF-16 with or without a
// byte-order mark, and of Windows-1252, of which ISO 8859-1 is a part.
func plain(data []byte) string {
	var text string
	switch {
	case bytes.HasPrefix(data, []byte("\xef\xbb\xbf")):
		text = string(data[3:])
	case bytes.HasPrefix(data, []byte("\xff\xfe")):
		text = wide(data[2:], binary.LittleEndian)
	case bytes.HasPrefix(data, []byte("\xfe\xff")):
		text = wide(data[2:], binary.BigEndian)
	case len(data) > 3 && data[0] != 0 && data[1] == 0 && data[3] == 0:
		text = wide(data, binary.LittleEndian)
	case len(data) > 3 && data[0] == 0 && data[1] != 0 && data[2] == 0:
		text = wide(data, binary.BigEndian)
	case utf8.Valid(data):
		text = string(data)
	default:
		b, _ := charmap.Windows1252.NewDecoder().Bytes(data) // each byte is something
		text = string(b)
	}
	text = strings.ToValidUTF8(text, "?")
	return strings.NewReplacer("\r\n", "\n", "\r", "\n", "\x00", "").Replace(text)
}

func wide(data []byte, order binary.ByteOrder) string {
	units := make([]uint16, len(data)/2)
	for i := range units {
		units[i] = order.Uint16(data[2*i:])
	}
	return string(utf16.Decode(units))
}

// rowsOf splits a text file into its rows, without spaces around them.
func rowsOf(data []byte) ([]string, error) {
	rows := strings.Split(plain(data), "\n")
	for i, r := range rows {
		if len(r) > longestRow {
			return nil, fmt.Errorf("%w: line %d is too long", ErrCut, i+1)
		}
		rows[i] = strings.TrimSpace(r)
	}
	return rows, nil
}
