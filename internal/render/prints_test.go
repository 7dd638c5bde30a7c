package render

import (
	"testing"
	"time"

	"proscen/core/scene"
	"proscen/core/scenetest"
	"proscen/core/session"
	"proscen/core/turnover"
	"proscen/internal/blobs"
	"proscen/internal/store"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Looking at what is out of date goes on when nobody waits for it, and a newer scene is
// looked at instead of an older one.
func TestLookingGoesOnBesideRequests(t *testing.T) {
	bucket, err := blobs.Open(t.Context(), t.TempDir())
	require.NoError(t, err)
	p := NewPrints(bucket)
	doc := scenetest.Small()
	r := scene.Recipe{Name: "r", Pack: scene.H264, Quality: scene.Check}
	items, err := turnover.Plan(doc, turnover.Order{Each: true, Whole: true}, &r)
	require.NoError(t, err)
	d := store.Delivery{Recipe: []byte(scene.Canonical(r))}
	for _, i := range items {
		film, err := turnover.Unpainted(session.Open(doc, nil), i, r, turnover.Facts{})
		require.NoError(t, err)
		print := film.Print(func() bool { return true })
		d.Outputs = append(d.Outputs, store.Output{ID: i.Subject(), State: store.Done, Item: []byte(scene.Canonical(i)), Print: print})
	}
	look := func(doc *scene.Document, revision int, most time.Duration) Looked {
		l, err := p.Look(t.Context(), "scene", doc, revision, []store.Delivery{d}, most)
		require.NoError(t, err)
		return l
	}
	ended := func(doc *scene.Document, revision int) (l Looked) {
		require.Eventually(t, func() bool { l = look(doc, revision, 0); return l.Waiting == 0 }, 20*time.Second, 5*time.Millisecond)
		return l
	}
	l := ended(doc.Clone(), 1) // nobody waits at all
	assert.Empty(t, l.Outdated)
	assert.Empty(t, l.Gone)

	moved := doc.Clone()
	n := moved.Nodes["b"]
	n.Position[0]++
	moved.Nodes["b"] = n
	c := moved.Curves["b-travel"]
	c.Keys = c.Keys[:1]
	moved.Curves["b-travel"] = c
	look(moved, 2, 0) // overtaken by the next one
	gone := doc.Clone()
	delete(gone.Shots, "s3")
	gone.ForgetOrder()
	l = ended(gone, 3)
	assert.Equal(t, []string{"shot cut s3 wide"}, l.Gone)
	assert.Equal(t, []string{"cut cut wide"}, l.Outdated)
	l = ended(moved, 4)
	assert.ElementsMatch(t, []string{"shot cut s2 wide", "cut cut wide"}, l.Outdated)

	// What cannot be read is said, and does not stay so.
	d.Outputs[0].Item = []byte("{")
	_, err = p.Look(t.Context(), "scene", doc, 5, []store.Delivery{d}, time.Minute)
	assert.Error(t, err)
	d.Outputs[0].Item = []byte(scene.Canonical(items[0]))
	assert.Empty(t, ended(doc, 5).Outdated)
}
