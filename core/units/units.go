// Package units says quantities as people do.
package units

import "fmt"

// Length writes a length of so many millimetres to three digits, in the unit that suits it.
func Length(mm float64) string {
	switch {
	case mm >= 999.5:
		return fmt.Sprintf("%.3g m", mm/1000)
	case mm >= 100:
		return fmt.Sprintf("%.0f mm", mm)
	case mm >= 10:
		return fmt.Sprintf("%.1f mm", mm)
	case mm >= 0.01 || mm <= 0:
		return fmt.Sprintf("%.2f mm", mm)
	}
	return fmt.Sprintf("%.2g µm", 1000*mm)
}
