package demo

import (
	"math"

	"amberproof/core/geom"
)

// block is a box of a size (mm) around its middle whose edges are broken by a bevel (mm)
// that shades round. Its texture is in metres along each face.
func block(w, h, d, bevel float64) *shape {
	s := &shape{}
	half := [3]float64{w / 2, h / 2, d / 2}
	// at[corner][axis] is the corner's vertex on the face across an axis; bits of a corner
	// are its sides.
	var at [8][3]uint32
	for c := range 8 {
		for axis := range 3 {
			var p, n [3]float64
			for k := range 3 {
				sign := -1.0
				if c>>k&1 == 1 {
					sign = 1
				}
				p[k] = sign * half[k]
				if k == axis {
					n[k] = sign
				} else {
					p[k] -= sign * bevel
				}
			}
			at[c][axis] = uint32(len(s.pos))
			s.pos = append(s.pos, mm(p[0], p[1], p[2]))
			s.nrm = append(s.nrm, geom.V(float32(n[0]), float32(n[1]), float32(n[2])))
			u, v := (axis+1)%3, (axis+2)%3
			if axis == 0 { // grain along the longer side
				u, v = v, u
			}
			if half[u] < half[v] {
				u, v = v, u
			}
			s.uv = append(s.uv, [2]float32{float32(p[u] / 1000), float32(p[v] / 1000)})
		}
	}
	quad := func(a, b, c, d uint32) { s.idx = append(s.idx, a, b, c, a, c, d) }
	for axis := range 3 {
		u, v := 1<<((axis+1)%3), 1<<((axis+2)%3)
		for _, side := range []int{0, 1 << axis} {
			quad(at[side][axis], at[side|u][axis], at[side|u|v][axis], at[side|v][axis])
		}
		if bevel <= 0 {
			continue
		}
		// The edges along this axis.
		i, j := (axis+1)%3, (axis+2)%3
		for _, c := range []int{0, u, v, u | v} {
			quad(at[c][i], at[c|1<<axis][i], at[c|1<<axis][j], at[c][j])
		}
	}
	if bevel > 0 {
		for c := range 8 {
			s.idx = append(s.idx, at[c][0], at[c][1], at[c][2])
		}
	}
	return s
}

// drape is a cloth of a width (mm) along X that was folded into layers and laid down: a
// profile that goes to and fro, with a little of the unevenness that cloth has.
func drape(width, depth float64, layers int) *shape {
	s := &shape{}
	const thick, steps, across = 4.6, 26, 40
	type station struct{ z, y, nz, ny float64 }
	var line []station
	for l := range layers {
		y := thick * (float64(l) + 0.5) * 1.5
		for i := range steps {
			t := float64(i) / (steps - 1)
			if l%2 == 1 {
				t = 1 - t
			}
			reach := depth * (1 - 0.012*float64(l%3))
			line = append(line, station{z: (t - 0.5) * reach, y: y})
		}
		if l+1 < layers { // the fold
			sign := 1.0
			if l%2 == 1 {
				sign = -1
			}
			end := line[len(line)-1]
			for i := 1; i < 7; i++ {
				a := math.Pi * float64(i) / 7
				line = append(line, station{z: end.z + sign*thick*0.75*math.Sin(a)*1.6, y: y + thick*0.75*(1-math.Cos(a))})
			}
		}
	}
	n := len(line)
	for i := range line {
		a, b := line[max(i-1, 0)], line[min(i+1, n-1)]
		l := math.Hypot(b.z-a.z, b.y-a.y)
		line[i].nz, line[i].ny = -(b.y-a.y)/l, (b.z-a.z)/l
	}
	// There along the outside, back along the inside.
	var all []station
	for _, q := range line {
		all = append(all, station{q.z + q.nz*thick/2, q.y + q.ny*thick/2, q.nz, q.ny})
	}
	for i := n - 1; i >= 0; i-- {
		q := line[i]
		all = append(all, station{q.z - q.nz*thick/2, q.y - q.ny*thick/2, -q.nz, -q.ny})
	}
	all = append(all, all[0])
	low := thick * 0.25
	var along float64
	for k, q := range all {
		if k > 0 {
			along += math.Hypot(q.z-all[k-1].z, q.y-all[k-1].y)
		}
		for i := 0; i <= across; i++ {
			x := (float64(i)/across - 0.5) * width
			edge := math.Abs(float64(i)/across-0.5) * 2
			lift := 0.9 * (noise(x/40+9, q.z/40+9, 97, 3) - 0.5) * q.y / (thick * float64(layers))
			sag := -0.5 * math.Pow(edge, 6) * q.y / thick * 0.3
			s.pos = append(s.pos, mm(x+1.2*noise(q.z/30+3, q.y/3, 83, 8)*math.Copysign(math.Pow(edge, 8), x), q.y-low+lift*2+sag, q.z))
			s.nrm = append(s.nrm, geom.V(0, float32(q.ny), float32(q.nz)))
			s.uv = append(s.uv, [2]float32{float32(x / 100), float32(along / 100)})
		}
	}
	w := uint32(across + 1)
	for k := uint32(0); k+1 < uint32(len(all)); k++ {
		for i := range uint32(across) {
			a := k*w + i
			s.idx = append(s.idx, a, a+1, a+w+1, a, a+w+1, a+w)
		}
	}
	// Its cut sides, from the outside to the inside.
	for _, i := range []uint32{0, across} {
		n32 := uint32(n)
		side := geom.V(float32(int(i)*2/across-1), 0, 0)
		first := uint32(len(s.pos))
		for k := range 2 * n32 {
			s.pos, s.nrm = append(s.pos, s.pos[k*w+i]), append(s.nrm, side)
			s.uv = append(s.uv, s.uv[k*w+i])
		}
		for k := uint32(0); k+1 < n32; k++ {
			a, b, c, d := first+k, first+k+1, first+2*n32-2-k, first+2*n32-1-k
			s.idx = append(s.idx, a, b, c, a, c, d)
		}
	}
	return s
}
