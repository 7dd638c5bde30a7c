package patch

import (
	"bytes"
	"encoding/json"
	"maps"
	"slices"

	"proscen/core/scene"
)

// Rebase returns what of a patch can be done to a document in which others have
// changed things since it was made, and whether that is all of it. An entity that
// is as it was then is changed as a whole. In one that has changed, those fields
// are changed that are as they were; a curve is one value and is left alone. What
// others have removed, made or built on stays theirs.
func Rebase(doc *scene.Document, p Patch) (out Patch, whole bool) {
	t := tablesOf(doc)
	whole = true
	for _, c := range p {
		table := t[c.Collection]
		if table == nil || c.Layer != "" {
			whole = false
			continue
		}
		now := table.Get(c.ID)
		switch {
		case bytes.Equal(now, none(c.After)):
			continue
		case bytes.Equal(now, none(c.Before)):
			out = append(out, c)
			continue
		case now == nil || none(c.Before) == nil || none(c.After) == nil || c.Collection == "curves":
			whole = false
			continue
		}
		after, all := mergeFields(c.Before, c.After, now)
		whole = whole && all
		scratch := tablesOf(scene.New())[c.Collection]
		if after == nil || scratch.Set(c.ID, after) != nil {
			whole = false
			continue
		}
		if after = scratch.Get(c.ID); !bytes.Equal(after, now) {
			out = append(out, Change{c.Layer, c.Collection, c.ID, now, after})
		}
	}
	return out, whole
}

// mergeFields changes in now those fields that differ between before and after and
// are still as they were, objects field by field; it reports whether all could be.
func mergeFields(before, after, now json.RawMessage) (json.RawMessage, bool) {
	if bytes.Equal(before, after) {
		return now, true
	}
	if bytes.Equal(now, before) {
		return after, true
	}
	var b, a, n map[string]json.RawMessage
	if json.Unmarshal(before, &b) != nil || json.Unmarshal(after, &a) != nil || json.Unmarshal(now, &n) != nil || b == nil || a == nil || n == nil {
		return now, bytes.Equal(now, after)
	}
	all := true
	names := maps.Clone(b)
	maps.Copy(names, a)
	for _, name := range slices.Sorted(maps.Keys(names)) {
		merged, ok := mergeField(b[name], a[name], n[name])
		all = all && ok
		if merged == nil {
			delete(n, name)
		} else {
			n[name] = merged
		}
	}
	out, err := json.Marshal(n)
	if err != nil {
		return nil, false
	}
	return out, all
}

func mergeField(before, after, now json.RawMessage) (json.RawMessage, bool) {
	switch {
	case bytes.Equal(before, after):
		return now, true
	case bytes.Equal(now, before):
		return after, true
	case before == nil || after == nil || now == nil:
		return now, bytes.Equal(now, after)
	}
	return mergeFields(before, after, now)
}
