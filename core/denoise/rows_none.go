//go:build !goexperiment.simd || !amd64

package denoise

func tightRow(n int, half, g []float32, stride int)      { tightFrom(0, n, half, g, stride) }
func unlikeRow(n int, da, db, p, q []float32, plane int) { unlikeFrom(0, n, da, db, p, q, plane) }
func threeRow(n int, sum, x []float32)                   { threeFrom(0, n, sum, x) }
func weighRow(n int, w *[len(ways)][2][]float32, across *[2][]float32, stride int, p, q, tp, tq []float32, plane int) {
	weighFrom(0, n, w, across, stride, p, q, tp, tq, plane)
}
func addRow(n int, sum, x []float32, stride, count int) { addFrom(0, n, sum, x, stride, count) }
func gatherRow(n int, sum, x []float32, plane int, w []float32, stride, count int) {
	gatherFrom(0, n, sum, x, plane, w, stride, count)
}
func blendRow(n int, w, v, u, fw, fv, fu []float32) { blendFrom(0, n, w, v, u, fw, fv, fu) }
