package optics

import "amberproof/core/geom"

// Brushed surfaces lose energy by roughness, anisotropy, angle and azimuth:
// the split albedo of tableAB once more over these four.
const (
	brushedN      = 20 // roughness, cosine
	brushedDrawn  = 12 // anisotropy
	brushedAlong  = 9  // cosine of the azimuth, with which the width that is seen goes evenly
	brushedPoints = 768
)

// brushedRow is that of a roughness and an anisotropy.
type brushedRow [brushedN][brushedAlong][2]float32

var brushedTable = newRows(brushedN*brushedDrawn, func(i int) *brushedRow {
	t := &brushedRow{}
	a := float32(i/brushedDrawn) / (brushedN - 1)
	g := drawnGloss(a*a, float32(i%brushedDrawn)/(brushedDrawn-1))
	for k := range t {
		c := float32(k) / (brushedN - 1)
		mu := max(c*c, 1e-3)
		for l := range t[k] {
			cos := float32(l) / (brushedAlong - 1)
			sin := geom.Sqrt(1 - cos*cos)
			r := geom.Sqrt(1 - mu*mu)
			va, vb := integrateGloss(g, geom.V(r*cos, r*sin, mu), brushedPoints, 1)
			t[k][l] = [2]float32{va, vb}
		}
	}
	return t
})

// drawnGloss widens a lobe along the first tangent, as the open glTF 2.0
// anisotropy extension does.
func drawnGloss(a, anisotropy float32) gloss {
	a = max(a, smooth)
	return gloss{a + (1-a)*anisotropy*anisotropy, a}
}

// brushedAB is tablesAB for an anisotropic surface seen along wo.
func brushedAB(rough, anisotropy float32, wo geom.Vec3) (a, b float32) {
	along := geom.Abs(wo.X) / geom.Sqrt(max(wo.X*wo.X+wo.Y*wo.Y, 1e-12))
	at := [4]float32{
		geom.Clamp01(rough) * (brushedN - 1), geom.Clamp01(anisotropy) * (brushedDrawn - 1),
		geom.Sqrt(geom.Clamp01(wo.Z)) * (brushedN - 1), geom.Clamp01(along) * (brushedAlong - 1),
	}
	size := [4]int{brushedN, brushedDrawn, brushedN, brushedAlong}
	var lo [4]int
	for d := range at {
		lo[d] = min(int(at[d]), size[d]-2)
		at[d] -= float32(lo[d])
	}
	for corner := range 16 {
		w := float32(1)
		var i [4]int
		for d := range i {
			i[d] = lo[d] + corner>>d&1
			if corner>>d&1 == 1 {
				w *= at[d]
			} else {
				w *= 1 - at[d]
			}
		}
		e := &brushedTable.row(i[0]*brushedDrawn + i[1])[i[2]][i[3]]
		a, b = a+e[0]*w, b+e[1]*w
	}
	return a, b
}
