// Package sync is the log of a scene: its edits, and what a server accepts as the
// next one. docs/sync.md has the rules for what can clash.
package sync

import (
	"encoding/json"
	"errors"
	"fmt"
	"strings"
	"unicode/utf8"

	"proscen/core/patch"
	"proscen/core/scene"
)

// Kind says what an edit is.
type Kind string

// The kinds of edits. A restore brings a state of the history back.
const (
	Do      Kind = "do"
	Undo    Kind = "undo"
	Redo    Kind = "redo"
	Restore Kind = "restore"
)

// Edit is one edit of a scene: in its log, or on its way there.
type Edit struct {
	ID        string          `json:"id"`                 // made by its author; sent twice, it is applied once
	Revision  int             `json:"revision,omitempty"` // its place in the log, 0 on the way
	Base      int             `json:"base"`               // the revision that it was made from
	Kind      Kind            `json:"kind" jsonschema:"enum=do,enum=undo,enum=redo,enum=restore"`
	Of        string          `json:"of,omitempty"` // the edit that an undo takes back, or a redo does again
	Label     string          `json:"label"`
	Operation string          `json:"operation,omitempty"`
	Arguments json.RawMessage `json:"arguments,omitempty"`
	Alternate string          `json:"alternate,omitempty"` // in which the operation was done, by id; behind an @ one shot of it
	Tab       string          `json:"tab,omitempty"`
	Person    string          `json:"person,omitempty"`
	Patch     patch.Patch     `json:"patch,omitempty"`
}

// MaxLabel bounds the label of an edit in bytes.
const MaxLabel = 500

// Further bounds of an edit besides its patch.
const (
	maxName      = 64
	maxArguments = 4 << 20
)

// Check tells what is wrong with an edit from outside, and rewrites its patch into
// canonical form. The document is not looked at.
func (e *Edit) Check() error {
	in, shot, _ := strings.Cut(e.Alternate, "@")
	for name, text := range map[string]string{"id": e.ID, "tab": e.Tab, "person": e.Person, "operation": e.Operation, "alternate": in, "shot": shot, "edit that it is about": e.Of} {
		if len(text) > maxName || text != "" && !plainName(text) {
			return fmt.Errorf("the %s of an edit is not up to %d letters, digits, dots, dashes or underscores", name, maxName)
		}
	}
	if e.ID == "" {
		return errors.New("the edit has no id; each edit needs one of its own")
	}
	switch e.Kind {
	case Do, Undo, Redo, Restore:
	default:
		return fmt.Errorf("an edit is of the kind do, undo, redo or restore, not %q", clip(string(e.Kind)))
	}
	if len(e.Label) > MaxLabel || !utf8.ValidString(e.Label) {
		return fmt.Errorf("the label of an edit is longer than %d characters, or no text", MaxLabel)
	}
	for _, r := range e.Label {
		if r == 0 {
			return errors.New("the label of an edit holds the character NUL, which cannot be kept")
		}
	}
	if len(e.Arguments) > maxArguments {
		return fmt.Errorf("the arguments of an edit have more than %d MB", maxArguments>>20)
	}
	if err := scene.Plain(e.Arguments); err != nil {
		return fmt.Errorf("a text in the arguments %w", err)
	}
	if len(e.Patch) == 0 {
		return errors.New("the edit changes nothing")
	}
	p, err := patch.Canonical(e.Patch)
	if err != nil {
		return err
	}
	e.Patch = p
	return nil
}

func plainName(s string) bool {
	for i := range len(s) {
		switch c := s[i]; {
		case c >= '0' && c <= '9', c >= 'a' && c <= 'z', c >= 'A' && c <= 'Z', c == '.', c == '_', c == '-':
		default:
			return false
		}
	}
	return true
}

func clip(s string) string {
	if len(s) > 80 {
		return s[:80] + "…"
	}
	return s
}

// ClashError says that an edit was made from an older revision and does not fit to
// what came since. Its author takes the edits between and does it again.
type ClashError struct {
	Current int // the newest revision
	Why     error
}

func (e ClashError) Error() string {
	return fmt.Sprintf("the scene has gone on to edit %d since: %s", e.Current, e.Why)
}

func (e ClashError) Unwrap() error { return e.Why }

// Accept applies a checked edit to a document at a revision, if it may become the
// next one. An edit made from an older revision may, as long as everything that it
// changes is still as it was then, no number that it gives has been given since,
// and the outcome is valid; otherwise it is a ClashError. An edit made from this
// very revision that cannot be applied is refused for good. On error the document
// is as it was.
func Accept(doc *scene.Document, revision int, e Edit) error {
	if e.Base > revision {
		return ClashError{revision, errors.New("it was made from an edit that is not there")}
	}
	err := NumbersFree(doc, e.Patch)
	if e.Base == revision {
		err = nil // whoever gives a number twice there knows it
	}
	if err == nil {
		err = patch.Apply(doc, e.Patch)
	}
	if err != nil && (e.Base < revision || errors.Is(err, patch.ErrMismatch)) {
		return ClashError{revision, err}
	}
	return err
}

// NumbersFree tells whether a patch gives a shot a number that another shot of the
// assembly has by now.
func NumbersFree(doc *scene.Document, p patch.Patch) error {
	scratch := scene.New()
	table := scratch.Table("shots")
	given := map[[2]string]bool{} // assembly and number
	changed := map[string]bool{}
	for _, c := range p {
		if c.Collection != "shots" {
			continue
		}
		changed[c.ID] = true
		if c.After == nil || table.Set(c.ID, c.After) != nil {
			continue
		}
		if s := scratch.Shots[c.ID]; s.Number != doc.Shots[c.ID].Number {
			given[[2]string{doc.Lanes[s.Lane].Assembly, s.Number}] = true
		}
	}
	if len(given) == 0 {
		return nil
	}
	for id, s := range doc.Shots {
		if !changed[id] && given[[2]string{doc.Lanes[s.Lane].Assembly, s.Number}] {
			return fmt.Errorf("there is a shot %s by now", s.Number)
		}
	}
	return nil
}
