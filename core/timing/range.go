package timing

import "fmt"

// Range is a half-open range of frames [In, Out): In is the first frame, Out
// is the frame after the last one.
type Range struct {
	In  int `json:"in"`
	Out int `json:"out"`
}

// Count returns the number of frames in the range, never negative.
func (r Range) Count() int { return max(0, r.Out-r.In) }

// Empty reports whether the range holds no frame.
func (r Range) Empty() bool { return r.Out <= r.In }

// Last returns the last frame inside the range; for an empty range In-1.
func (r Range) Last() int { return r.In + r.Count() - 1 }

// Contains reports whether a frame lies in [In, Out).
func (r Range) Contains(frame int) bool { return frame >= r.In && frame < r.Out }

// Overlaps reports whether two ranges share a frame.
func (r Range) Overlaps(o Range) bool { return !r.Intersect(o).Empty() }

// Intersect returns the frames that both ranges hold; it is empty, with
// unspecified In, when they share none.
func (r Range) Intersect(o Range) Range { return Range{max(r.In, o.In), min(r.Out, o.Out)} }

// Shift returns the range moved by a number of frames.
func (r Range) Shift(by int) Range { return Range{r.In + by, r.Out + by} }

// String shows first and last frame and the count, the way people read it.
func (r Range) String() string {
	if r.Empty() {
		return fmt.Sprintf("%d (no frames)", r.In)
	}
	return fmt.Sprintf("%d–%d (%d)", r.In, r.Last(), r.Count())
}
