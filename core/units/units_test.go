package units

import "testing"

func TestLengthsAreSaidInTheUnitThatSuitsThem(t *testing.T) {
	for mm, want := range map[float64]string{0: "0.00 mm", 0.0042: "4.2 µm", 999.7: "1 m", 4: "4.00 mm", 41.26: "41.3 mm",
		104: "104 mm", 999: "999 mm", 5000: "5 m", 12345: "12.3 m"} {
		if got := Length(mm); got != want {
			t.Errorf("%g mm is said as %q, not %q", mm, got, want)
		}
	}
}
