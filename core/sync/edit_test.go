package sync_test

import (
	"encoding/json"
	"testing"

	"proscen/core/patch"
	"proscen/core/scenetest"
	"proscen/core/sync"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestEditsFromOutsideAreChecked(t *testing.T) {
	good := func() sync.Edit {
		return sync.Edit{ID: "e1", Kind: sync.Do, Label: "x", Patch: patch.Patch{{Collection: "markers", ID: "x", After: raw(`{"clock":"story","frame":3,"name":"","color":"#000000"}`)}}}
	}
	e := good()
	require.NoError(t, e.Check())
	for says, spoil := range map[string]func(e *sync.Edit){
		"has no id":          func(e *sync.Edit) { e.ID = "" },
		"the id of an edit":  func(e *sync.Edit) { e.ID = "a b" },
		"the tab of an edit": func(e *sync.Edit) { e.Tab = string(make([]byte, 80)) },
		"of the kind do":     func(e *sync.Edit) { e.Kind = "maybe" },
		"longer than 500":    func(e *sync.Edit) { e.Label = string(make([]rune, 600)) },
		"NUL":                func(e *sync.Edit) { e.Label = "a\x00" },
		"a text in the arg":  func(e *sync.Edit) { e.Arguments = raw(`{"name":"\ud800"}`) },
		"changes nothing":    func(e *sync.Edit) { e.Patch = nil },
		"not a collection":   func(e *sync.Edit) { e.Patch[0].Collection = "nonsense" },
	} {
		e := good()
		spoil(&e)
		assert.ErrorContains(t, e.Check(), says)
	}
}

func raw(s string) json.RawMessage { return json.RawMessage(s) }

func FuzzEditsFromOutside(f *testing.F) {
	f.Add([]byte(`{"id":"e","base":0,"kind":"do","label":"x","patch":[{"collection":"markers","id":"m","after":{"clock":"story","frame":1,"name":"","color":"#000000"}}]}`))
	f.Add([]byte(`{"id":"e","base":-1,"kind":"undo","patch":[{"collection":"shots","id":"s1"}]}`))
	f.Fuzz(func(t *testing.T, in []byte) {
		var e sync.Edit
		if json.Unmarshal(in, &e) != nil || e.Check() != nil {
			return
		}
		d := scenetest.Small()
		before := string(d.Encode())
		if err := sync.Accept(d, 3, e); err != nil {
			if string(d.Encode()) != before {
				t.Fatal("a refused edit changed the document")
			}
			return
		}
		if p := d.Validate(); len(p) > 0 {
			t.Fatalf("an accepted edit left problems: %v", p)
		}
	})
}
