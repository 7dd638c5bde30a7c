package sheets

import (
	"bytes"
	"encoding/csv"
	"errors"
	"fmt"

	"github.com/xuri/excelize/v2"
)

// Bounds of a spreadsheet that is read.
const (
	MaxTableBytes = 64 << 20
	maxUnzipped   = 256 << 20
	maxRows       = 50_000
	maxTableText  = 16 << 20 // of all cells together
)

// ErrTable says that a file is no spreadsheet that can be read.
var ErrTable = errors.New("the spreadsheet cannot be read")

// IsTable tells whether bytes may be a spreadsheet: a zip archive or an older compound file.
func IsTable(data []byte) bool {
	return bytes.HasPrefix(data, []byte("PK\x03\x04")) || bytes.HasPrefix(data, []byte("\xd0\xcf\x11\xe0"))
}

// Table returns the cells of a spreadsheet's first sheet (Office Open XML, ECMA-376), as they
// are shown, as comma-separated values.
func Table(data []byte) ([]byte, error) {
	if len(data) > MaxTableBytes {
		return nil, fmt.Errorf("%w: it has more than %d MB", ErrTable, MaxTableBytes>>20)
	}
	f, err := excelize.OpenReader(bytes.NewReader(data), excelize.Options{UnzipSizeLimit: maxUnzipped, UnzipXMLSizeLimit: 16 << 20})
	if err != nil {
		return nil, fmt.Errorf("%w: it is no workbook of the kind .xlsx, or damaged, or locked by a password; save it as .xlsx or as CSV", ErrTable)
	}
	defer func() { _ = f.Close() }()
	names := f.GetSheetList()
	if len(names) == 0 {
		return nil, fmt.Errorf("%w: it has no sheet", ErrTable)
	}
	rows, err := f.Rows(names[0])
	if err != nil {
		return nil, fmt.Errorf("%w: its first sheet is damaged", ErrTable)
	}
	defer func() { _ = rows.Close() }()
	var out bytes.Buffer
	w := csv.NewWriter(&out)
	for n := 0; rows.Next(); n++ {
		cells, err := rows.Columns()
		if err != nil {
			return nil, fmt.Errorf("%w: row %d is damaged", ErrTable, n+1)
		}
		_ = w.Write(cells) // a buffer takes everything
		if n >= maxRows || out.Len() > maxTableText {
			return nil, fmt.Errorf("%w: it has more than %d rows, or %d MB of text", ErrTable, maxRows, maxTableText>>20)
		}
	}
	if err := rows.Error(); err != nil {
		return nil, fmt.Errorf("%w: its first sheet is damaged", ErrTable)
	}
	w.Flush()
	return out.Bytes(), nil
}
