package patch_test

import (
	"encoding/json"
	"fmt"
	"slices"
	"testing"

	"proscen/core/patch"
	"proscen/core/scene"
	"proscen/core/scenetest"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// fields lists the places of strings and numbers in a JSON value.
func fields(v any, at []any, found *[][]any) {
	switch v := v.(type) {
	case map[string]any:
		for k, x := range v {
			fields(x, append(slices.Clone(at), k), found)
		}
	case []any:
		for i, x := range v {
			fields(x, append(slices.Clone(at), i), found)
		}
	case string, float64, bool:
		*found = append(*found, at)
	}
}

func replace(v any, at []any, with any) any {
	if len(at) == 0 {
		return with
	}
	switch key := at[0].(type) {
	case string:
		m := v.(map[string]any)
		m[key] = replace(m[key], at[1:], with)
	case int:
		l := v.([]any)
		l[key] = replace(l[key], at[1:], with)
	}
	return v
}

// mutate changes one field of an entity's JSON to something that may be wrong.
func mutate(t *rapid.T, body json.RawMessage, ids []string) json.RawMessage {
	var v any
	require.NoError(t, json.Unmarshal(body, &v))
	var found [][]any
	fields(v, nil, &found)
	slices.SortFunc(found, func(a, b []any) int { return compare(fmt.Sprint(a), fmt.Sprint(b)) })
	at := rapid.SampledFrom(found).Draw(t, "field")
	with := rapid.OneOf(
		rapid.Map(rapid.SampledFrom(ids), func(s string) any { return s }),
		rapid.Map(rapid.SampledFrom([]string{"", "gone", "camera", "cast", "prop", "screen", "story", "ride", "take", "at", "dolly"}), func(s string) any { return s }),
		rapid.Map(rapid.SampledFrom([]float64{0, 1, 2, 48, 96, -1, 1e9}), func(f float64) any { return f }),
		rapid.Map(rapid.Bool(), func(b bool) any { return b }),
	).Draw(t, "with")
	out, err := json.Marshal(replace(v, at, with))
	require.NoError(t, err)
	return out
}

func compare(a, b string) int {
	switch {
	case a < b:
		return -1
	case a > b:
		return 1
	}
	return 0
}

// What an edit touches and what refers to it is checked: that finds something
// exactly when looking at the whole does, whatever is changed in any collection.
func TestCheckingWhatIsTouchedSaysWhatCheckingTheWholeSays(t *testing.T) {
	whole := scenetest.Rich()
	require.Empty(t, whole.Validate())
	for _, table := range whole.Tables() {
		require.NotEmpty(t, table.IDs(), "%s has something to be changed", table.Name())
	}
	bad, good := 0, 0
	rapid.Check(t, func(t *rapid.T) {
		d := scenetest.Rich()
		var ids []string
		for _, table := range d.Tables() {
			ids = append(ids, table.IDs()...)
		}
		draft := patch.NewDraft(d)
		for range rapid.IntRange(1, 4).Draw(t, "changes") {
			table := rapid.SampledFrom(d.Tables()).Draw(t, "table")
			at := rapid.SampledFrom(append(table.IDs(), "new")).Draw(t, "id")
			like := rapid.SampledFrom(append(table.IDs(), at)).Draw(t, "like")
			body := table.Get(like)
			switch {
			case table.Name() == "settings":
				_ = draft.SetJSON("settings", scene.SettingsID, mutate(t, table.Get(scene.SettingsID), ids))
			case body == nil || rapid.IntRange(0, 3).Draw(t, "what") == 0:
				draft.Delete(table.Name(), at)
			case rapid.IntRange(0, 3).Draw(t, "copy") == 0:
				_ = draft.SetJSON(table.Name(), at, body)
			default:
				_ = draft.SetJSON(table.Name(), at, mutate(t, body, ids)) // what is no entity stays away
			}
		}
		short, long := draft.Problems(), d.Validate()
		if (len(short) > 0) != (len(long) > 0) {
			t.Fatalf("touched: %v\nwhole: %v", short, long)
		}
		if len(long) > 0 {
			bad++
		} else {
			good++
		}
	})
	assert.Greater(t, bad, 10)
	assert.Greater(t, good, 10)
}
