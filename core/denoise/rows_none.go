//go:build !goexperiment.simd || !amd64

package denoise

func addRow(sum, x []float32)           { addFrom(0, sum, x) }
func gatherRow(sum, w, x []float32)     { gatherFrom(0, sum, w, x) }
func shareRow(w, chosen, sum []float32) { shareFrom(0, w, chosen, sum) }
func unlikeRows(da, db, ap, aq, bp, bq, v, u []float32) {
	unlikeFrom(0, da, db, ap, aq, bp, bq, v, u)
}
func threeRow(sum, x, y, z []float32)     { threeFrom(0, sum, x, y, z) }
func apartRow(far, p, q, tight []float32) { apartFrom(0, far, p, q, tight) }
func weighRow(w, colour, guide []float32, perColour, perGuide float32) {
	weighFrom(0, w, colour, guide, perColour, perGuide)
}
