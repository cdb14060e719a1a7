package preflight

import (
	"context"
	"fmt"
	"math"

	"amberproof/core/accel"
	"amberproof/core/geom"
	"amberproof/core/scene"
)

const (
	// mostChord is how far a straight edge may lie beside the round outline that it
	// stands for, pixels, and leastOutline how much of such an outline is told, pixels.
	mostChord    = 1.0
	leastOutline = 24
	// goodChord is what smoothing is to bring it to.
	goodChord = 0.5
	// mostLooks is how many edges of a part are looked for in a view.
	mostLooks = 4000
	// roundAngle is the angle up to which edges of a mesh without normals are held to
	// stand for something round.
	roundAngle = 35 * math.Pi / 180
)

// facets finds parts whose outline in a view is seen to be made of straight edges:
// edges between a face that looks here and one that looks away, along which the
// normals of a smooth mesh turn. An arc whose ends' normals differ by a along an edge of
// length l lies l a / 8 beside its chord. A long straight wall between small roundings has
// such normals, too, and stands for nothing round: an edge counts as no longer than the
// longer of those that go on at its ends.
func (b *body) facets(ctx context.Context) (out []Finding, err error) {
	worst := make([]outline, len(b.solids))
	err = each(ctx, len(b.solids), nil, func(i int) {
		v := b.solids[i]
		if v == nil || b.around[i] {
			return
		}
		bends := b.bends(ctx, v)
		st := accel.NewStack(b.all)
		for k := range b.of.Views {
			if o := b.outline(st, v, bends, k); o.chord > worst[i].chord {
				worst[i] = o
			}
		}
	})
	if err != nil {
		return nil, err
	}
	for i, o := range worst {
		if o.length < leastOutline {
			continue
		}
		n := min(4, 1+int(math.Log(o.chord/goodChord)/math.Log(4)))
		out = append(out, Finding{
			Check: Facets, Part: i, Other: -1, View: o.view, Value: o.chord, Unit: "px", Sure: Likely, Where: o.where,
			Says: fmt.Sprintf("The outline of %s shows its facets in %s: they lie up to %.2g px beside the round shape at %.0f lines.",
				b.of.Scene.Parts[i].Name, b.of.Views[o.view].Name, o.chord, b.of.lines()),
			Fix: &Fix{Says: "Smooth just this", Parts: []int{i}, Smooth: n},
		})
	}
	return out, nil
}

// outline is how an outline in a view departs from the round shape it stands for.
type outline struct {
	chord  float64 // at worst, pixels
	length float64 // of what departs by too much, pixels
	view   int
	where  geom.Box
}

// bend is a seam along which a surface is round: how far the arc lies beside its chord,
// metres, and in which direction.
type bend struct {
	seam
	beside float32
	out    geom.Vec3
}

// bends lists the seams of a part along which its surface turns.
func (b *body) bends(ctx context.Context, v *solid) (out []bend) {
	s := b.of.Scene
	m, world := &s.Meshes[s.Parts[v.part].Mesh], s.World(v.part)
	order := [3]int{0, 1, 2}
	if world.Det() < 0 { // as newSolid turned them
		order = [3]int{0, 2, 1}
	}
	back, ok := world.Inverse()
	if !ok {
		return nil
	}
	if len(m.Normals) == 0 {
		made := scene.Mesh{Positions: m.Positions, Indices: m.Indices}
		made.AddNormals(ctx, roundAngle)
		m = &made
	}
	normal := func(tri int32, side int) geom.Vec3 {
		n := m.Normals[m.Indices[int(tri)*3+order[side%3]]]
		return geom.V(back[0]*n.X+back[4]*n.Y+back[8]*n.Z, back[1]*n.X+back[5]*n.Y+back[9]*n.Z, back[2]*n.X+back[6]*n.Y+back[10]*n.Z).Unit()
	}
	onward := v.onward()
	for k, e := range v.seams {
		p, q := v.side(int(e.tri[0]), int(e.side))
		along := q.Sub(p)
		if l := along.Len(); onward[k] < l {
			along = along.Scale(onward[k] / l)
		}
		best := bend{seam: e}
		look := func(n, to geom.Vec3) {
			if h := geom.Abs(along.Dot(to.Sub(n))) / 8; h > best.beside {
				best.beside, best.out = h, n.Add(to).Unit()
			}
		}
		look(normal(e.tri[0], int(e.side)), normal(e.tri[0], int(e.side)+1))
		// Of the other triangle, the corners that lie nearest to the ends.
		if a, c := v.cornerAt(e.tri[1], p), v.cornerAt(e.tri[1], q); a >= 0 && c >= 0 {
			look(normal(e.tri[1], a), normal(e.tri[1], c))
		}
		if best.beside > 0 {
			out = append(out, best)
		}
	}
	return out
}

// goesOn is the cosine from which an edge goes on in the direction of another.
const goesOn = 0.5

// onward tells for each seam how long the longer of the seams is that go on at its ends;
// where none does, its own length.
func (v *solid) onward() []float32 {
	// The seams at each place, one place after the other.
	most := int32(-1)
	for k := range v.seams {
		most = max(most, v.seams[k].ends[0], v.seams[k].ends[1])
	}
	begin, filled := make([]int32, most+2), make([]int32, most+1)
	for k := range v.seams {
		for _, p := range v.seams[k].ends {
			begin[p+1]++
		}
	}
	for i := range filled {
		begin[i+1] += begin[i]
	}
	at := make([]int32, 2*len(v.seams))
	for k := range v.seams {
		for _, p := range v.seams[k].ends {
			at[begin[p]+filled[p]] = int32(k)
			filled[p]++
		}
	}
	way := func(k int32, from int32) geom.Vec3 { // away from one of its ends
		p, q := v.side(int(v.seams[k].tri[0]), int(v.seams[k].side))
		if v.seams[k].ends[0] != from {
			p, q = q, p
		}
		return q.Sub(p)
	}
	out := make([]float32, len(v.seams))
	for k := range v.seams {
		own := way(int32(k), v.seams[k].ends[0])
		dir := own.Unit()
		found := false
		for e, p := range v.seams[k].ends {
			best, length := float32(goesOn), float32(0)
			for _, o := range at[begin[p]:begin[p+1]] {
				if o == int32(k) {
					continue
				}
				w := way(o, p)
				cos := w.Unit().Dot(dir)
				if e == 0 {
					cos = -cos
				}
				if cos > best {
					best, length, found = cos, w.Len(), true
				}
			}
			out[k] = max(out[k], length)
		}
		if !found {
			out[k] = own.Len()
		}
	}
	return out
}

// cornerAt is which corner of a triangle lies at a point, or -1.
func (v *solid) cornerAt(tri int32, p geom.Vec3) int {
	t := &v.tris[tri]
	for k, q := range [3]geom.Vec3{t.A, t.B, t.C} {
		if p == q {
			return k
		}
	}
	return -1
}

// outline looks at a part from a view.
func (b *body) outline(st *accel.Stack, v *solid, bends []bend, view int) (o outline) {
	w := &b.of.Views[view]
	o.view, o.where = view, geom.EmptyBox()
	eye, ahead := w.Camera.Origin(), w.Camera.Axis(2).Neg().Unit()
	right, upwards := w.Camera.Axis(0).Unit(), w.Camera.Axis(1).Unit()
	tan := math.Tan(float64(w.YFov) / 2)
	looks := 0
	for i := range bends {
		e := &bends[i]
		p, q := v.side(int(e.tri[0]), int(e.side))
		mid := p.Add(q).Scale(0.5)
		to := mid.Sub(eye)
		depth := float64(to.Dot(ahead))
		half := float64(w.YMag) // of the frame's height there, metres
		sight := ahead
		if w.YFov > 0 {
			half, sight = depth*tan, to.Unit()
		}
		if !(half > 0) || math.Abs(float64(to.Dot(upwards))-2*float64(w.Shift[1])*half) > half ||
			math.Abs(float64(to.Dot(right))-2*float64(w.Shift[0])*half*float64(w.Aspect)) > half*float64(w.Aspect) {
			continue
		}
		if (across(&v.tris[e.tri[0]]).Dot(sight) < 0) == (across(&v.tris[e.tri[1]]).Dot(sight) < 0) {
			continue // not at the outline
		}
		perMetre := b.of.lines() / (2 * half)
		flat := e.out.Dot(sight)
		chord := float64(e.beside) * perMetre * math.Sqrt(max(0, 1-float64(flat*flat)))
		if chord <= mostChord {
			continue
		}
		if looks++; looks > mostLooks {
			break
		}
		if b.hidden(st, eye, mid, sight, w.YFov > 0) {
			continue
		}
		o.chord = max(o.chord, chord)
		o.where = o.where.Extend(mid)
		along := q.Sub(p)
		o.length += perMetre * float64(along.Sub(sight.Scale(along.Dot(sight))).Len())
	}
	return o
}

// hidden tells whether something is before a point of an outline.
func (b *body) hidden(st *accel.Stack, eye, p, sight geom.Vec3, perspective bool) bool {
	t := p.Sub(eye).Len()
	o := eye
	if !perspective {
		t = p.Sub(eye).Dot(sight)
		o = p.Sub(sight.Scale(t))
	}
	h, ok := b.next(st, o, sight, func(part int) bool {
		f := b.of.Scene.FinishOf(part)
		return !f.Clear()
	})
	return ok && h.t < t-b.near
}
