package session_test

import (
	"encoding/json"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"proscen/core/scenetest"
	"proscen/core/session"
)

// What is dragged here and what others drag lie on each other in one order,
// whichever began first, and come off without a trace.
func TestDragsOfSeveralComeOffAsTheyWentOn(t *testing.T) {
	track := json.RawMessage(`{"id":"t","clock":"screen","assembly":"cut","name":"t","gain":0}`)
	sound := json.RawMessage(`{"id":"n","track":"t","name":"n","blob":"abababababababababababababababababababababababababababababababab","seconds":2,"in":0}`)
	move := func(x string) json.RawMessage {
		return json.RawMessage(`{"id":"box","frame":0,"position":[` + x + `,0,0]}`)
	}
	for name, do := range map[string]func(*testing.T, *session.Session){
		"what a guest makes of what is only dragged here is not shown": func(t *testing.T, s *session.Session) {
			require.NoError(t, s.Preview("trackAdd", track))
			s.Guest("other", "soundAdd", sound)
			assert.NotContains(t, s.Doc.Sounds, "n")
			assert.Contains(t, s.Doc.Tracks, "t")
		},
		"what is dragged here on what a guest makes": func(t *testing.T, s *session.Session) {
			s.Guest("other", "trackAdd", track)
			require.NoError(t, s.Preview("soundAdd", sound))
			assert.Contains(t, s.Doc.Sounds, "n")
			s.Guest("other", "", nil)
			assert.NotContains(t, s.Doc.Sounds, "n", "the drag stands on nothing")
		},
		"the one who drags comes first": func(t *testing.T, s *session.Session) {
			require.NoError(t, s.Preview("place", move("3")))
			s.Guest("other", "place", move("5"))
			assert.Equal(t, 3.0, s.Doc.Nodes["box"].Position[0])
			require.NoError(t, s.Preview("place", move("4")))
			assert.Equal(t, 4.0, s.Doc.Nodes["box"].Position[0])
			s.Under(func() {})
			assert.Equal(t, 4.0, s.Doc.Nodes["box"].Position[0])
		},
		"a guest who came first keeps it": func(t *testing.T, s *session.Session) {
			s.Guest("other", "place", move("5"))
			var held session.HeldError
			require.ErrorAs(t, s.Preview("place", move("3")), &held)
			assert.Equal(t, "other", held.Tab)
			assert.Equal(t, 5.0, s.Doc.Nodes["box"].Position[0])
		},
	} {
		t.Run(name, func(t *testing.T) {
			d := scenetest.Rich()
			before := string(d.Encode())
			s := session.Open(d, func() string { return "fresh" })
			do(t, s)
			s.Cancel()
			s.Guest("other", "", nil)
			assert.Equal(t, before, string(d.Encode()))
			assert.Empty(t, d.Validate())
		})
	}
}
