package session

import "proscen/core/alternate"

// parts are the scene as single shots have it, made when they are asked for.
type parts struct {
	changes int // of the scene when they were made
	made    map[string]*Session
}

// In returns the scene as a shot has it, with what differs in that shot only; the scene
// itself for "" and for shots without. The picture of a shot is made from it. It holds until
// the scene changes.
func (s *Session) In(shot string) *Session {
	_, own := alternate.Parts(s.Doc.As)
	if shot == own || len(s.Doc.Differences) == 0 {
		return s
	}
	of := s.shots
	if of == nil || own == "" && (s.preview != nil || len(s.guests) > 0) {
		of = s.part // with what is being dragged
	}
	if p := of(shot); p != nil {
		return p
	}
	return s
}

// part makes the scene as a shot has it from the document alone.
func (s *Session) part(shot string) *Session {
	if s.parts.made == nil || s.parts.changes != s.Changes() {
		s.parts = parts{s.Changes(), map[string]*Session{}}
	}
	p, known := s.parts.made[shot]
	if !known {
		// What cannot be made is not seen; the list of differences says why.
		if doc, err := alternate.Apart(s.Doc, shot); err == nil && doc != nil {
			p = opened(s.Like(doc), s.catalog, s.newID)
		}
		s.parts.made[shot] = p
	}
	if p != nil && p.Motion.Aspect() != s.Motion.Aspect() {
		p.Motion.SetAspect(s.Motion.Aspect())
	}
	return p
}
