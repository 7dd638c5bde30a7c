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

// Shot returns the name of a shot's video without version and ending. Camera is its
// number, 0 when a board, a card or footage stands for it.
func Shot(title, number string, camera int) string {
	through := fmt.Sprintf("cam%02d", camera)
	if camera == 0 {
		through = "still"
	}
	return fmt.Sprintf("%s_%s_%s", Slug(title), Slug(number), through)
}

// Versioned returns a file's name in one of its versions.
func Versioned(stem string, version int, ending string) string {
	return fmt.Sprintf("%s_v%03d.%s", stem, version, ending)
}

// Sheet returns the name of a sheet of an assembly without version and ending.
func Sheet(title, assembly, kind string) string {
	return fmt.Sprintf("%s_%s_%s", Slug(title), Slug(assembly), kind)
}

// Names are the names that are given out in one folder.
type Names map[string]bool

// Free returns a file's name in one of its versions that nobody has yet: things
// whose names become the same in a file name get a number behind it.
func (n Names) Free(stem string, version int, ending string) string {
	name := Versioned(stem, version, ending)
	for i := 2; n[name]; i++ {
		name = Versioned(fmt.Sprintf("%s-%d", stem, i), version, ending)
	}
	n[name] = true
	return name
}
