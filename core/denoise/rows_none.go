//go:build !goexperiment.simd || !amd64

package denoise

func unlikeRow(da, db []float32, c *colours) { unlikeFrom(0, da, db, c) }
func apartRow(far []float32, g *guides)      { apartFrom(0, far, g) }
func threeRow(sum, x, y, z []float32)        { threeFrom(0, sum, x, y, z) }
func weighRow(w, colour, guide []float32, perColour, perGuide float32) {
	weighFrom(0, w, colour, guide, perColour, perGuide)
}
func addRow(sum, w []float32, stride, count int)       { addFrom(0, sum, w, stride, count) }
func gatherRow(sum, w, x []float32, stride, count int) { gatherFrom(0, sum, w, x, stride, count) }
func blendRow(w, v, u, fw, fv, fu []float32)           { blendFrom(0, w, v, u, fw, fv, fu) }
