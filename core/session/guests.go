package session

import (
	"encoding/json"
	"slices"

	"proscen/core/edit"
	"proscen/core/patch"
)

// guest is what somebody else is dragging: seen here, and not part of the scene.
type guest struct {
	tab   string
	asked asked
	trial *edit.Trial // nil when it cannot be shown
	claim patch.Claim // what the trial touches
}

// HeldError says that something cannot be grabbed, since the guest of a tab has it.
type HeldError struct{ Tab string }

func (e HeldError) Error() string { return "somebody else is moving this; wait until they let go" }

// Guest shows what another tab is dragging: the operation that it previews. With
// an empty name it has let go. What this session drags itself comes first, and
// what cannot be done here is not shown.
//
// Guests lie on the scene, and what is dragged here on top of them: each is taken
// back before what it was made on changes.
func (s *Session) Guest(tab, name string, args json.RawMessage) {
	s.Under(func() {
		i := slices.IndexFunc(s.guests, func(g *guest) bool { return g.tab == tab })
		switch {
		case name == "" && i >= 0:
			s.guests = slices.Delete(s.guests, i, i+1)
		case name != "" && i >= 0:
			s.guests[i].asked = asked{name, args}
		case name != "":
			s.guests = append(s.guests, &guest{tab: tab, asked: asked{name, args}})
		}
	})
}

// Held lists the tabs whose drags are shown, and what each touches.
func (s *Session) Held() map[string]*edit.Trial {
	out := map[string]*edit.Trial{}
	for _, g := range s.guests {
		if g.trial != nil {
			out[g.tab] = g.trial
		}
	}
	return out
}

// aside does something to the scene as it is without guests. Nothing is being
// dragged here.
func (s *Session) aside(do func()) {
	if s.apart == 0 {
		s.guestsOff()
	}
	s.apart++
	do()
	s.apart--
	if s.apart == 0 {
		s.guestsOn()
	}
}

// Under does something to the scene below what is being dragged, here and
// elsewhere: previews are taken back, and shown again on what has become of it.
func (s *Session) Under(do func()) {
	own, again := s.previewed, s.Cancel()
	s.aside(func() {
		do()
		if again {
			s.claimed = s.claim(own)
		}
	})
	if again {
		s.claimed = patch.Claim{}
		_ = s.Preview(own.name, own.args) // what it dragged may be gone; then the drag shows nothing
	}
}

// holder returns the guest who is shown to drag something that a trial touches, or
// nil.
func (s *Session) holder(t *edit.Trial) *guest {
	for _, g := range s.guests {
		if g.claim.Meets(t.Draft) {
			return g
		}
	}
	return nil
}

// claim returns what an operation would touch.
func (s *Session) claim(a asked) patch.Claim {
	t, err := s.catalog.Try(s.Doc, a.name, a.args, s.tools(s.newID))
	if err != nil {
		return patch.Claim{}
	}
	defer t.Rollback()
	return t.Claim()
}

func (s *Session) guestsOff() {
	for _, g := range slices.Backward(s.guests) {
		if g.trial != nil {
			s.takeBack(g.trial)
			g.trial, g.claim = nil, patch.Claim{}
		}
	}
}

func (s *Session) guestsOn() {
	for _, g := range s.guests {
		t, err := s.catalog.Try(s.Doc, g.asked.name, g.asked.args, s.tools(s.newID))
		if err != nil {
			continue
		}
		if s.claimed.Meets(t.Draft) || s.holder(t) != nil {
			t.Rollback()
			continue
		}
		g.trial, g.claim = t, t.Claim()
		s.refresh(changesOf(t))
	}
}
