package importer

import "amberproof/core/geom"

// Bounds of the work of cutting polygons: of one, in corners, and of all in a
// file, in comparisons. Beyond them polygons are fanned.
const (
	mostCorners  = 512
	mostClipping = 2_000_000_000
)

// cutter cuts the polygons of a file into triangles.
type cutter struct {
	compared int
}

// cut cuts a polygon into triangles by clipping ears, so that concave ones
// come out right; what cannot be clipped (coinciding corners) is fanned.
func (c *cutter) cut(pos []geom.Vec3, idx []uint32) []uint32 {
	if len(idx) == 3 {
		return idx
	}
	var n geom.Vec3 // Newell's normal
	for i := range idx {
		a, b := pos[idx[i]], pos[idx[(i+1)%len(idx)]]
		n = n.Add(geom.V((a.Y-b.Y)*(a.Z+b.Z), (a.Z-b.Z)*(a.X+b.X), (a.X-b.X)*(a.Y+b.Y)))
	}
	rest := append([]uint32(nil), idx...)
	var out []uint32
	for len(rest) > 3 {
		ear := -1
		for i := range rest {
			k := len(rest)
			u, v, w := pos[rest[(i+k-1)%k]], pos[rest[i]], pos[rest[(i+1)%k]]
			if v.Sub(u).Cross(w.Sub(v)).Dot(n) <= 0 {
				continue
			}
			inside := false
			c.compared += k
			for j := range rest {
				if j == i || j == (i+k-1)%k || j == (i+1)%k {
					continue
				}
				p := pos[rest[j]]
				inside = inside || v.Sub(u).Cross(p.Sub(u)).Dot(n) >= 0 && w.Sub(v).Cross(p.Sub(v)).Dot(n) >= 0 && u.Sub(w).Cross(p.Sub(w)).Dot(n) >= 0
			}
			if !inside {
				ear = i
				break
			}
		}
		if ear < 0 || len(rest) > mostCorners || c.compared > mostClipping {
			for i := 2; i < len(rest); i++ {
				out = append(out, rest[0], rest[i-1], rest[i])
			}
			return out
		}
		k := len(rest)
		out = append(out, rest[(ear+k-1)%k], rest[ear], rest[(ear+1)%k])
		rest = append(rest[:ear], rest[ear+1:]...)
	}
	return append(out, rest...)
}
