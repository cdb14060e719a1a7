package accounts

// Exhaust counts tries until there are too many, and tells how many were let through.
func Exhaust(s *Service, try func(i int) (address, name string)) (n int) {
	for s.tries.Allow(try(n)) == nil {
		n++
	}
	return n
}
