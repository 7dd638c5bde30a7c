package page

import (
	"encoding/json"
	"errors"
	"fmt"
	"reflect"

	"proscen/core/scene"
)

// Call is a question or command by name.
type Call struct {
	Takes reflect.Type // its arguments, a struct
	Gives reflect.Type // its answer; a pointer may be null
	Fails bool         // it may answer with a Refusal instead
	apart bool         // it needs no open scene
	do    func(p *Page, args json.RawMessage) (any, error)
}

// Refusal is what is answered when something cannot be done.
type Refusal struct {
	Error    string         `json:"error"` // a sentence
	Problems scene.Problems `json:"problems,omitempty"`
}

// ask makes a call of a question that has an answer whenever a scene is open.
func ask[A, R any](f func(p *Page, a A) R) Call {
	c := try(func(p *Page, a A) (R, error) { return f(p, a), nil })
	c.Fails = false
	return c
}

// try makes a call of what can fail.
func try[A, R any](f func(p *Page, a A) (R, error)) Call {
	return Call{Takes: reflect.TypeFor[A](), Gives: reflect.TypeFor[R](), Fails: true, do: func(p *Page, args json.RawMessage) (any, error) {
		var a A
		if err := json.Unmarshal(args, &a); err != nil {
			return nil, fmt.Errorf("the arguments do not fit the call: %w", err)
		}
		r, err := f(p, a)
		if err != nil {
			return nil, err
		}
		return r, nil
	}}
}

// anywhere makes a call one that needs no open scene.
func anywhere(c Call) Call {
	c.apart = true
	return c
}

// Answer performs a call and returns its answer, or a Refusal, as JSON. A fault in it
// ends the call and not the core.
func (p *Page) Answer(name string, args []byte) (out []byte) {
	defer func() {
		if fault := recover(); fault != nil {
			out = Failed(fmt.Errorf("the core could not do this (%v); reload the page", fault))
		}
	}()
	c, ok := calls[name]
	switch {
	case !ok:
		return Failed(fmt.Errorf("the core has no call %q; reload the page", name))
	case !c.apart && p.session == nil:
		return Failed(errClosed)
	}
	r, err := c.do(p, args)
	if err != nil {
		return Failed(err)
	}
	return Reply(r)
}

// Reply returns an answer as JSON. A list of nothing is an empty list.
func Reply(r any) []byte {
	if v := reflect.ValueOf(r); v.Kind() == reflect.Slice && v.IsNil() {
		return []byte("[]")
	}
	if d, ok := r.(*scene.Document); ok {
		return d.Encode()
	}
	out, err := json.Marshal(r)
	if err != nil {
		return Failed(err)
	}
	return out
}

// Failed returns an error as JSON.
func Failed(err error) []byte {
	e := Refusal{Error: err.Error()}
	errors.As(err, &e.Problems)
	out, _ := json.Marshal(e)
	return out
}
