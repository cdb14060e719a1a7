package denoise

import (
	"fmt"
	"testing"

	"amberproof/core/film"
)

// BenchmarkRun takes the noise out of a picture of 512 x 256 pixels on one core, with no
// elements and with eight: nanoseconds a pixel are what counts.
func BenchmarkRun(b *testing.B) {
	for _, elements := range []int{0, 8} {
		for _, quick := range []bool{false, true} {
			b.Run(fmt.Sprintf("elements=%d,quick=%v", elements, quick), func(b *testing.B) {
				var planes []film.Plane
				for i := range elements {
					planes = append(planes, film.ElementPlane(i, true))
				}
				f := shootInto(film.NewLayout(false, append(planes, film.GuidePlane)...), 512, 256, 4, 1, step)
				o := Order{Film: f, Elements: elements, Behind: -1, Workers: 1, Quick: quick}
				for b.Loop() {
					if _, err := o.Run(b.Context(), nil); err != nil {
						b.Fatal(err)
					}
				}
				b.ReportMetric(float64(b.Elapsed().Nanoseconds())/float64(b.N)/(512*256), "ns/pixel")
			})
		}
	}
}
