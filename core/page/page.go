// Package page is the core as a page in a browser has it: the open scene, this copy
// of it, a state of its history that is looked at, and every question and command by
// name, in JSON. What names, arguments and answers are is told by reflection, from
// which the types of the front end are made; there are no rules here.
package page

import (
	"errors"

	"proscen/core/local"
	"proscen/core/motion"
	"proscen/core/patch"
	"proscen/core/scene"
	"proscen/core/session"
	"proscen/core/sync"
	"proscen/core/turnover"
)

// Page holds the open scene. It is not safe for use by several goroutines at once.
type Page struct {
	session  *session.Session // what is seen: the scene, an alternate, or a state of its history
	sides    *session.Sides   // the scene with its alternates
	last     string           // the alternate that was worked in last
	side     string           // the layer that is worked in: an alternate, that of a shot, "" for the scene itself
	home     *session.Session // what is worked in while something beside it is asked, else nil
	lacking  lacking
	compared []string         // layers that stay open for that
	copy     *local.Copy      // the scene, as it is kept together with others
	live     *session.Session // what is worked in while a state of its history is seen, else nil
	past     []motion.CameraState
	moved    []string // shots that previewed has named last
	newID    func() string
	doubter  *turnover.Doubter // looks through cameras, call by call
	doubting doubting          // what it was begun with
	doubted  int               // what the scene was then
}

// New returns a page with no scene open. newID makes ids for new entities and edits.
func New(newID func() string) *Page { return &Page{newID: newID} }

// Session returns what is seen, nil before a scene is open.
func (p *Page) Session() *session.Session { return p.session }

// Opened is the answer to opening a scene.
type Opened struct {
	Assembly string `json:"assembly"` // the chosen one, "" for none
}

// Open opens a document from its JSON form. What was open before is kept on an error.
func (p *Page) Open(document []byte) (Opened, error) {
	doc, err := scene.Decode(document)
	if err != nil {
		return Opened{}, err
	}
	p.session, p.live, p.side, p.last = session.Open(doc, p.newID), nil, "", ""
	p.home, p.compared, p.lacking = nil, nil, lacking{}
	p.sides = session.NewSides(p.session)
	p.copy = local.Join(p.sides, 0, "", "", nil, p.newID)
	return Opened{p.session.Assembly()}, nil
}

var (
	errPast   = errors.New("this is a state of the history; go back to the scene, or restore the state, to change something")
	errClosed = errors.New("no scene is open")
)

// Look shows a state of the history instead of the scene.
func (p *Page) Look(document []byte) error {
	if p.session == nil {
		return errClosed
	}
	doc, err := scene.Decode(document)
	if err != nil {
		return err
	}
	if p.live == nil {
		p.session.Cancel()
		p.live = p.session
	}
	p.see(session.Open(doc, p.newID))
	return nil
}

// Back shows the scene again after Look.
func (p *Page) Back() {
	if p.live != nil {
		scene := p.live
		p.live = nil
		p.see(scene)
	}
}

func (p *Page) back(none) done {
	p.Back()
	return done{}
}

// document returns what is seen, whole.
func (p *Page) document(none) *scene.Document { return p.session.Doc }

func (p *Page) see(s *session.Session) {
	was := p.session.Assembly()
	p.session, p.doubter = s, nil
	if _, ok := s.Doc.Assemblies[was]; ok {
		_ = s.ChooseAssembly(was)
	}
}

// Restore makes the scene what another document is, as an edit of its own.
func (p *Page) Restore(document []byte, label string) (Outcome, error) {
	if p.session == nil {
		return Outcome{}, errClosed
	}
	doc, err := scene.Decode(document)
	if err != nil {
		return Outcome{}, err
	}
	p.Back()
	return p.change(func() (sync.Edit, error) {
		var to patch.Patch
		p.sides.Under(func() { to = patch.Between(p.sides.Scene().Doc, doc) })
		return p.copy.Restore(to, label)
	}), nil
}

// Compare lists what differs between two documents, thing by thing; without the
// second, between the first and the scene.
func (p *Page) Compare(first, second []byte) ([]patch.Compared, error) {
	if p.session == nil {
		return nil, errClosed
	}
	a, err := scene.Decode(first)
	if err != nil {
		return nil, err
	}
	b := p.sides.Scene().Doc
	if second != nil {
		if b, err = scene.Decode(second); err != nil {
			return nil, err
		}
	}
	return patch.Differences(a, b), nil
}
