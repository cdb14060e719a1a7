package film

import "fmt"

// ElementPlane keeps the light of element i, and by halves if so said.
func ElementPlane(i int, halves bool) Plane {
	return Plane{Name: ElementName(i), Values: 3, Halves: halves, Of: ElementLight, Element: i}
}

// ElementName is the name of the plane of element i.
func ElementName(i int) string { return fmt.Sprint("element ", i) }
