package scene

import (
	"bytes"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"fmt"
	"maps"
	"strings"
)

// Alternate is a layer of differences that hangs on the scene or on another alternate.
// Whether it can be worked in is not part of a document's validity: a scene opens with
// alternates that cannot be, and says so; see core/alternate.
type Alternate struct {
	Name     string `json:"name"`
	Parent   string `json:"parent,omitempty"`   // id, "" for the scene itself
	Format   string `json:"format,omitempty"`   // id; choosing one chooses the other
	Assembly string `json:"assembly,omitempty"` // id; likewise
	Known    string `json:"known,omitempty"`    // what all scenes of the production call it; likewise
}

// Differs says how a thing of an alternate differs from that of what it hangs on.
type Differs string

// The ways to differ.
const (
	Added   Differs = "added"
	Removed Differs = "removed"
	Changed Differs = "changed"
)

// Difference is one thing that differs in an alternate. Of what is added Fields is the
// whole thing, of what is changed a merge patch (RFC 7396) of its fields: objects field
// by field, null for what is gone, anything else whole. Was is the way back, as it was
// when the difference was made.
type Difference struct {
	Alternate  string  `json:"alternate"`  // the layer: an id, behind an @ that of a shot if it is in that only
	Collection string  `json:"collection"` // name
	Thing      string  `json:"thing"`      // id
	What       Differs `json:"what" jsonschema:"enum=added,enum=removed,enum=changed"`
	Fields     Fields  `json:"fields,omitempty"`
	Was        Fields  `json:"was,omitempty"`
}

// DifferenceID is the id of the difference of a thing in an alternate: there is one for each.
func DifferenceID(alternate, collection, thing string) string {
	sum := sha256.Sum256([]byte(alternate + "/" + collection + "/" + thing))
	return "d-" + hex.EncodeToString(sum[:13])
}

// Fields are fields of an entity, as JSON.
type Fields map[string]any

// FieldsOf reads the JSON form of an entity; nil when it is none.
func FieldsOf(body json.RawMessage) Fields {
	var f Fields
	if body == nil || json.Unmarshal(body, &f) != nil {
		return nil
	}
	return f
}

// To returns the merge patch that leads from fields to others, and the one that leads
// back. Both are empty when they are the same.
func (f Fields) To(other Fields) (to, back Fields) {
	to, back = Fields{}, Fields{}
	names := maps.Clone(f)
	if names == nil {
		names = Fields{}
	}
	maps.Copy(names, other)
	for name := range names {
		was, had := f[name]
		is, has := other[name]
		a, nested := was.(map[string]any)
		b, both := is.(map[string]any)
		switch {
		case had && has && nested && both:
			if in, out := Fields(a).To(b); len(in) > 0 {
				to[name], back[name] = map[string]any(in), map[string]any(out)
			}
		case had != has || !Same(was, is):
			to[name], back[name] = is, was // null for what is not there
		}
	}
	return to, back
}

// With returns fields with a merge patch on them.
func (f Fields) With(patch Fields) Fields {
	out := maps.Clone(f)
	if out == nil {
		out = Fields{}
	}
	for name, v := range patch {
		switch v := v.(type) {
		case nil:
			delete(out, name)
		case map[string]any:
			within, _ := out[name].(map[string]any)
			out[name] = map[string]any(Fields(within).With(v))
		default:
			out[name] = v
		}
	}
	return out
}

// Same tells whether two values of JSON are the same.
func Same(a, b any) bool { return bytes.Equal(Canonical(a), Canonical(b)) }

// alternate checks what can be kept; what it hangs on is not looked at.
func (c *checker) alternate(a Alternate) {
	c.text("name", a.Name, true)
	c.text("known", a.Known, false)
}

func (c *checker) difference(d Difference) {
	if id := DifferenceID(d.Alternate, d.Collection, d.Thing); c.at != "differences/"+id {
		c.fail("", "is the difference of another thing: that of %s in %s is called %s", clip(d.Collection+"/"+d.Thing), clip(d.Alternate), id)
	}
	if !isID(d.Thing) {
		c.fail("thing", "is %q, which is no id", clip(d.Thing))
	}
	switch d.What {
	case Added, Changed:
		if len(d.Fields) == 0 {
			c.fail("fields", "are missing: %s is nothing without them", d.What)
		}
	case Removed:
	default:
		c.fail("what", "is %q; choose added, removed or changed", clip(string(d.What)))
	}
}

// calledDifference is what people call a difference.
func (d *Document) calledDifference(id string) string {
	v := d.Differences[id]
	alternate, shot, one := strings.Cut(v.Alternate, "@")
	of := d.Alternates[alternate].Name
	if one {
		of = strings.TrimSpace(of + " shot " + d.Shots[shot].Number)
	}
	return fmt.Sprintf("%s in %s", d.Called(v.Collection, v.Thing), of)
}
