package interchange

import (
	"gonum.org/v1/gonum/spatial/r3"
)

// mostClipped is how many corners a polygon has at most of which ears are cut off; one with
// more is taken for convex.
const mostClipped = 512

// triangulated parts a flat polygon into triangles, as indices of its corners: a fan where it
// is convex, else by cutting off ears (G. H. Meisters, 1975). What is left of a polygon that
// cuts itself is a fan.
func triangulated(p []r3.Vec) (out [][3]int) {
	n := len(p)
	left := make([]int, n)
	for i := range left {
		left[i] = i
	}
	fan := func() [][3]int {
		for i := 2; i < len(left); i++ {
			out = append(out, [3]int{left[0], left[i-1], left[i]})
		}
		return out
	}
	if n < 4 || n > mostClipped {
		return fan()
	}
	var normal r3.Vec // twice the area, to its front (M. Newell)
	for i, a := range p {
		normal = r3.Add(normal, r3.Cross(r3.Sub(a, p[0]), r3.Sub(p[(i+1)%n], p[0])))
	}
	turns := func(a, b, c int) float64 {
		return r3.Dot(normal, r3.Cross(r3.Sub(p[b], p[a]), r3.Sub(p[c], p[b])))
	}
	convex := true
	for i := range n {
		convex = convex && turns((i+n-1)%n, i, (i+1)%n) >= 0
	}
	if convex {
		return fan()
	}
	inside := func(a, b, c, x int) bool {
		return p[x] != p[a] && p[x] != p[b] && p[x] != p[c] && turns(a, b, x) >= 0 && turns(b, c, x) >= 0 && turns(c, a, x) >= 0
	}
	ear := func(i int) bool {
		m := len(left)
		a, b, c := left[(i+m-1)%m], left[i], left[(i+1)%m]
		if turns(a, b, c) <= 0 {
			return false
		}
		for _, x := range left {
			if x != a && x != b && x != c && inside(a, b, c, x) {
				return false
			}
		}
		return true
	}
	for len(left) > 3 {
		cut := -1
		for i := range left {
			if ear(i) {
				cut = i
				break
			}
		}
		if cut < 0 {
			return fan()
		}
		m := len(left)
		out = append(out, [3]int{left[(cut+m-1)%m], left[cut], left[(cut+1)%m]})
		left = append(left[:cut], left[cut+1:]...)
	}
	return fan()
}
