package round

import (
	"iter"
	"slices"
	"strings"
)

// Mentions finds people named as @Name in words, each once; of two names that both begin there,
// the longer.
func Mentions(words string, people iter.Seq[string]) []string {
	out := []string{}
	for i := range len(words) {
		if words[i] != '@' {
			continue
		}
		best := ""
		for name := range people {
			if rest := words[i+1:]; len(name) > len(best) && len(rest) >= len(name) && strings.EqualFold(rest[:len(name)], name) {
				best = name
			}
		}
		if best != "" && !slices.Contains(out, best) {
			out = append(out, best)
		}
	}
	return out
}
