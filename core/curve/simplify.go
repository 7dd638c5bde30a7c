package curve

import (
	"math"

	"gonum.org/v1/gonum/spatial/r3"
)

// needed tells which of at least two things in a row are needed to stay within a
// tolerance of all, where off tells how far one is from the straight line between two
// others (U. Ramer, 1972; D. Douglas and T. Peucker, 1973). It works without recursion,
// so that a long row costs no stack.
func needed(n int, tolerance float64, off func(i, a, b int) float64) []bool {
	keep := make([]bool, n)
	keep[0], keep[n-1] = true, true
	todo := [][2]int{{0, n - 1}}
	for len(todo) > 0 {
		a, b := todo[len(todo)-1][0], todo[len(todo)-1][1]
		todo = todo[:len(todo)-1]
		at, far := -1, tolerance
		for i := a + 1; i < b; i++ {
			if d := off(i, a, b); d > far {
				at, far = i, d
			}
		}
		if at >= 0 {
			keep[at] = true
			todo = append(todo, [2]int{a, at}, [2]int{at, b})
		}
	}
	return keep
}

// Thinned leaves out keys between which the value goes straight on within a tolerance;
// of a value that does not change it leaves one. It reuses the list.
func Thinned(keys []Key, tolerance float64) []Key {
	if len(keys) < 2 {
		return keys
	}
	keep := needed(len(keys), tolerance, func(i, a, b int) float64 {
		share := (keys[i].Frame - keys[a].Frame) / (keys[b].Frame - keys[a].Frame)
		return math.Abs(keys[i].Value - keys[a].Value - share*(keys[b].Value-keys[a].Value))
	})
	out := keys[:0]
	for i, k := range keys {
		if keep[i] {
			out = append(out, k)
		}
	}
	if len(out) == 2 && math.Abs(out[0].Value-out[1].Value) <= tolerance {
		return out[:1]
	}
	return out
}

// Simplify returns the points of a line drawn by hand that it needs to stay
// within a tolerance in metres of all of them, its ends among them.
func Simplify(points []r3.Vec, tolerance float64) []r3.Vec {
	if len(points) < 3 {
		return points
	}
	keep := needed(len(points), tolerance, func(i, a, b int) float64 { return fromLine(points[i], points[a], points[b]) })
	var out []r3.Vec
	for i, p := range points {
		if keep[i] {
			out = append(out, p)
		}
	}
	return out
}

// fromLine returns how far a point is from the straight line between two others.
func fromLine(p, a, b r3.Vec) float64 {
	ab := r3.Sub(b, a)
	n := r3.Norm2(ab)
	if n == 0 {
		return r3.Norm(r3.Sub(p, a))
	}
	t := clamp(r3.Dot(r3.Sub(p, a), ab)/n, 0, 1)
	return r3.Norm(r3.Sub(p, r3.Add(a, r3.Scale(t, ab))))
}
