package scene

import "fmt"

// Bounds of a document. Things are the objects and lists of its JSON form, entities
// those of its collections: small ones take many times their JSON form in memory.
const (
	MaxBytes    = 64 << 20
	MaxThings   = 2_000_000
	MaxEntities = 150_000
)

// Weight is how large a document is in its JSON form.
type Weight struct{ Bytes, Things, Entities int }

// Weigh returns the weight of a JSON text that is part of a document, without its
// entities. Text is not read as JSON: it may be none.
func Weigh(body []byte) Weight {
	w := Weight{Bytes: len(body)}
	inText := false
	for i := 0; i < len(body); i++ {
		switch c := body[i]; {
		case inText && c == '\\':
			i++
		case c == '"':
			inText = !inText
		case !inText && (c == '{' || c == '['):
			w.Things++
		}
	}
	return w
}

// Plus adds a weight so many times.
func (w Weight) Plus(o Weight, times int) Weight {
	return Weight{w.Bytes + times*o.Bytes, w.Things + times*o.Things, w.Entities + times*o.Entities}
}

// Over tells what a document of a weight has too much of; nil when it is within the
// bounds.
func (w Weight) Over() error {
	switch {
	case w.Bytes > MaxBytes:
		return fmt.Errorf("the %d MB that a scene can have", MaxBytes>>20)
	case w.Entities > MaxEntities:
		return fmt.Errorf("the %d things, shots, curves and so on that a scene can have", MaxEntities)
	case w.Things > MaxThings:
		return fmt.Errorf("the %d keys, points and so on that a scene can have", MaxThings)
	}
	return nil
}

// Weight returns about how large the document is: of bytes never less, and at most
// one more for each collection.
func (d *Document) Weight() Weight {
	if d.weight.Bytes == 0 {
		d.weight = Weigh(d.Encode())
		d.weight.Bytes += len(d.Tables())
		for _, t := range d.Tables() {
			d.weight.Entities += t.Len()
		}
	}
	return d.weight
}

// Grow says that the document has become heavier than it was. Whoever changes a
// document without it does so before Weight is asked for.
func (d *Document) Grow(by Weight) {
	if d.weight.Bytes != 0 {
		d.weight = d.weight.Plus(by, 1)
	}
}
