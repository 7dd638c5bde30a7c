package curve

import "gonum.org/v1/gonum/spatial/r3"

// Simplify returns the points of a line drawn by hand that it needs to stay
// within a tolerance in metres of all of them, its ends among them (U. Ramer,
// 1972; D. Douglas and T. Peucker, 1973). It works without recursion, so that a
// long line costs no stack.
func Simplify(points []r3.Vec, tolerance float64) []r3.Vec {
	if len(points) < 3 {
		return points
	}
	keep := make([]bool, len(points))
	keep[0], keep[len(points)-1] = true, true
	todo := [][2]int{{0, len(points) - 1}}
	for len(todo) > 0 {
		a, b := todo[len(todo)-1][0], todo[len(todo)-1][1]
		todo = todo[:len(todo)-1]
		at, far := -1, tolerance
		for i := a + 1; i < b; i++ {
			if d := fromLine(points[i], points[a], points[b]); d > far {
				at, far = i, d
			}
		}
		if at >= 0 {
			keep[at] = true
			todo = append(todo, [2]int{a, at}, [2]int{at, b})
		}
	}
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
