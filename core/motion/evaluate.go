package motion

import (
	"math"

	"proscen/core/geom"
	"proscen/core/kit"
	"proscen/core/optics"

	"gonum.org/v1/gonum/spatial/r3"
)

// CameraState is one camera at a frame. Lengths of lens, sensor and gate are
// mm, distances metres, angles degrees.
type CameraState struct {
	Node            int
	World           geom.Mat4
	Pan, Tilt, Roll float64
	Focal           float64
	Squeeze         float64
	Stop            float64
	Focus           float64
	Gate            optics.Gate
	HFov, VFov      float64
	Shift           [2]float64 // how far off its axis the picture's middle is, as tangents to the right and up
}

// LampState is one lamp at a frame; its colour is linear and multiplied by its
// strength, Dir is a unit vector. It shines fully where the cosine of the angle to
// Dir is over Inner, and not at all where it is under Outer; where Inner is not
// greater, all around.
type LampState struct {
	At, Dir      r3.Vec
	Color        [3]float64
	Reach        float64
	Outer, Inner float64
	Shadow       bool // it casts shadows
}

// State holds what Evaluate fills; it is reused from frame to frame.
type State struct {
	Frame     float64
	Worlds    []geom.Mat4 // for each node
	Instances []geom.Mat4 // for each instance
	Cameras   []CameraState
	Lamps     []LampState
	Look      Look
	eyes      []r3.Vec    // of cast members, for each node
	Bent      []*kit.Mesh // meshes that bend, for Instance.Skin
	Dyed      []*kit.Mesh // meshes whose colours have keys, for Instance.Dye
	poses     []kit.BundlePose
	bentFor   int // the Structure that Bent was made for
	joints    [kit.Joints]geom.Mat4
	late      *State // for operators that lag
	as        *As    // how one camera is framed, instead of for the format that is worked in
	asOf      int    // which one
}

func resize[T any](b []T, n int) []T {
	if cap(b) >= n {
		return b[:n]
	}
	return make([]T, n)
}

// Evaluate fills st with the scene at a frame of story time, which may lie
// between whole frames. It allocates nothing once st has been used for this
// scene.
func (s *Scene) Evaluate(frame float64, st *State) {
	st.Frame = frame
	s.ready(st)
	for i := range s.Nodes {
		s.node(i, frame, st)
	}
	s.poseModels(frame, st)
	for i := range s.Instances {
		in := &s.Instances[i]
		if in.Dye >= 0 {
			in.dye.Color(s.Nodes[in.Node].colorAt(frame), st.Dyed[in.Dye].Colors)
		}
		switch {
		case in.part:
		case in.model != nil:
			n := &s.Nodes[in.Node]
			if in.Skin >= 0 {
				st.Instances[i] = st.Worlds[in.Node]
				in.model.Bend(in.shape, &st.poses[n.pose], st.Bent[in.Skin])
			} else {
				st.Instances[i] = st.Worlds[in.Node].Mul(&st.poses[n.pose].Worlds[in.model.Shapes[in.shape].Node])
			}
		case in.wheel > 0:
			m := geom.RotateX(-geom.Degrees(s.rolled(&s.Nodes[in.Node], frame) / in.wheel)).At(in.axle)
			st.Instances[i] = st.Worlds[in.Node].Mul(&m)
		case in.leaf != nil:
			n := &s.Nodes[in.Node]
			m := in.leaf.Opened(n.animated(swing, frame, n.opened))
			st.Instances[i] = st.Worlds[in.Node].Mul(&m)
		default:
			st.Instances[i] = st.Worlds[in.Node]
		}
	}
	st.Look = s.LookIn(frame, nil)
}

// ready sizes the buffers of a state for the scene.
func (s *Scene) ready(st *State) {
	st.Worlds = resize(st.Worlds, len(s.Nodes))
	st.Instances = resize(st.Instances, len(s.Instances))
	st.Cameras = resize(st.Cameras, len(s.Cameras))
	st.Lamps = resize(st.Lamps, len(s.Lamps))
	st.eyes = resize(st.eyes, len(s.Nodes))
	if st.bentFor == s.Structure {
		return
	}
	st.bentFor = s.Structure
	st.poses = make([]kit.BundlePose, s.poses)
	st.Bent = make([]*kit.Mesh, len(s.bent))
	for i, b := range s.bent {
		m := &kit.Mesh{Colors: b.mesh.Colors, Indices: b.mesh.Indices, UVs: b.mesh.UVs, Texture: b.mesh.Texture, Sheer: b.mesh.Sheer, Form: b.mesh}
		m.Positions, m.Normals = make([]float32, len(b.mesh.Positions)), make([]float32, len(b.mesh.Normals))
		st.Bent[i] = m
	}
	st.Dyed = make([]*kit.Mesh, len(s.dyed))
	for i, m := range s.dyed {
		st.Dyed[i] = &kit.Mesh{Positions: m.Positions, Normals: m.Normals, Colors: make([]float32, len(m.Colors)), Indices: m.Indices, Bounds: m.Bounds, Form: m}
	}
}

// colorAt is the linear colour of a piece at a frame.
func (n *Node) colorAt(frame float64) (c [3]float32) {
	for i, ch := range [...]int{red, green, blue} {
		c[i] = float32(max(0, min(1, n.animated(ch, frame, float64(n.color[i])))))
	}
	return c
}

// poseModels poses the imported models: by the clip that their action plays, or
// one that is called like what they do, or at rest.
func (s *Scene) poseModels(frame float64, st *State) {
	for i := range s.Nodes {
		n := &s.Nodes[i]
		if n.model == nil || n.Hidden {
			continue
		}
		clip, since := -1, 0.0
		if k := n.acting(frame); k >= 0 {
			clip, since = n.acts[k].clip, n.acts[k].in
		}
		n.model.Pose(&st.poses[n.pose], clip, (frame-since)/s.rate)
	}
}

// animated returns the value of a channel, or the still value without keys.
func (n *Node) animated(channel int, frame, still float64) float64 {
	if c := &n.channels[channel]; c.Len() > 0 {
		return c.At(frame)
	}
	return still
}

// local returns the node's place in its parent's space and the heading of its
// path in degrees.
func (s *Scene) local(n *Node, frame float64) (m geom.Mat4, yaw, pitch float64) {
	e := &n.Entity
	at := r3.Vec{X: n.animated(posX, frame, e.Position[0]), Y: n.animated(posY, frame, e.Position[1]), Z: n.animated(posZ, frame, e.Position[2])}
	if n.path != nil {
		p, dir := n.path.Heading(n.animated(travel, frame, 0) * n.path.Length())
		at = r3.Add(at, p)
		yaw, pitch = geom.Toward(dir)
	}
	p := n.animated(pan, frame, e.Turn[0])
	if e.AlongYaw && e.Camera == nil {
		p += yaw
	}
	sway, rock, heave := 0.0, 0.0, 0.0
	if n.own != (own{}) {
		sway, rock, heave = s.ownMotion(n, frame)
	}
	m = geom.PanTiltRoll(p, n.animated(tilt, frame, e.Turn[1])+sway, n.animated(roll, frame, e.Turn[2])+rock)
	at.Y += heave
	if e.Scale != 0 && e.Scale != 1 {
		m = m.Scaled(e.Scale)
	}
	return m.At(at), yaw, pitch
}

// instanceJoint returns the world matrix of a joint of a cast node.
func (s *Scene) jointWorld(st *State, node, joint int) geom.Mat4 {
	n := &s.Nodes[node]
	if n.Hidden || n.model != nil || n.Entity.Model != "" {
		return st.Worlds[node]
	}
	return st.Instances[n.first+joint]
}

// hung returns a node's world matrix from its place in its parent's space.
func (s *Scene) hung(n *Node, m geom.Mat4, st *State) geom.Mat4 {
	if n.parent < 0 {
		return m
	}
	base := st.Worlds[n.parent]
	if n.joint >= 0 {
		base = s.jointWorld(st, n.parent, n.joint)
	}
	return base.Mul(&m)
}

func (s *Scene) node(i int, frame float64, st *State) {
	n := &s.Nodes[i]
	if n.fixed {
		st.Worlds[i] = n.world
		return
	}
	m, yaw, pitch := s.local(n, frame)
	if r := n.riding(frame); r == nil {
		m = s.hung(n, m, st)
	} else if frame >= r.out {
		m = r.rest
	} else {
		base := st.Worlds[r.on]
		if r.joint >= 0 {
			base = s.jointWorld(st, r.on, r.joint)
		}
		pan, _, _ := st.Worlds[r.on].Angles()
		m = r.carried(&base, pan)
	}
	switch {
	case n.Entity.Cast != nil:
		s.cast(i, frame, m, st)
		return
	case n.Entity.Camera != nil:
		s.camera(n, frame, m, yaw, pitch, i, st)
		return
	case n.lamp >= 0:
		l := n.Entity.Lamp
		c := kit.Hex(l.Color)
		k := n.animated(strength, frame, l.Strength)
		out := LampState{At: m.Origin(), Reach: l.Reach, Dir: r3.Unit(m.Dir(r3.Vec{Z: -1})), Shadow: l.Shadow}
		for x := range out.Color {
			out.Color[x] = k * max(0, n.animated(red+x, frame, float64(c[x])))
		}
		if l.Spot > 0 {
			out.Outer = math.Cos(geom.Radians(l.Spot / 2))
			out.Inner = math.Cos(geom.Radians(l.Spot/2*(1-l.Soft))) + 1e-4
		}
		st.Lamps[n.lamp] = out
	}
	st.Worlds[i] = m
}

// Subject returns the point in the world that cameras aim at for a node of an
// evaluated state.
func (s *Scene) Subject(i int, st *State) r3.Vec {
	if s.Nodes[i].Entity.Cast != nil {
		return st.eyes[i]
	}
	return st.Worlds[i].Point(s.Nodes[i].center)
}
