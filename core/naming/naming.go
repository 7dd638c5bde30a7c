// Package naming gives what is delivered its names: built from what it is, with a
// version, so that nothing is ever overwritten and everything is found again.
package naming

import (
	"fmt"
	"strings"
)

// Slug turns a name into a part of a file name: lower-case letters, digits and
// single dashes, never empty, at most 60 characters.
func Slug(name string) string {
	var b strings.Builder
	dash := false
	for _, r := range strings.ToLower(name) {
		if r >= 'a' && r <= 'z' || r >= '0' && r <= '9' {
			if dash && b.Len() > 0 {
				b.WriteByte('-')
			}
			dash = false
			b.WriteRune(r)
		} else {
			dash = true
		}
		if b.Len() >= 60 {
			break
		}
	}
	if b.Len() == 0 {
		return "unnamed"
	}
	return b.String()
}

// Folder returns where the files of a delivery lie, by the scene's production,
// title and id, and the delivery's number.
func Folder(production, title, scene string, delivery int) string {
	return fmt.Sprintf("outputs/%s/%s-%s/delivery-%03d", Slug(production), Slug(title), Slug(scene[max(0, len(scene)-6):]), delivery)
}

// Versioned returns a name in one of its versions, without ending.
func Versioned(stem string, version int) string { return fmt.Sprintf("%s_v%03d", stem, version) }

// Sheet returns the name of a sheet of an assembly without version and ending.
func Sheet(title, assembly, kind string) string {
	return fmt.Sprintf("%s_%s_%s", Slug(title), Slug(assembly), kind)
}

// Names are the names that are given out in one folder.
type Names map[string]bool

// Free returns a file's name that nobody has yet: things whose names become the same
// get a number behind them. Without ending it is the name of a folder.
func (n Names) Free(stem, ending string) string {
	if ending != "" {
		ending = "." + ending
	}
	name := stem + ending
	for i := 2; n[name]; i++ {
		name = fmt.Sprintf("%s-%d%s", stem, i, ending)
	}
	n[name] = true
	return name
}
