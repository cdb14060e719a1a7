package setup

import (
	"context"

	"amberproof/core/scene"
)

// Lost is something that a set-up says and a scene has nothing for.
type Lost struct {
	Part string `json:"part"`
	Why  string `json:"why"`
}

// Match finds the part of a scene that each change is of, -1 for none: by its key;
// where that has changed, as in a newer file, by its place in the tree if just one
// part that no other change is of stands there.
func (u *Setup) Match(s *scene.Scene) []int {
	byKey, byPath := map[string]int{}, map[string][]int{}
	keys, paths := s.Keys(), s.Paths()
	for i, p := range s.Parts {
		byKey[keys[i]] = i
		byPath[paths[p.Object]] = append(byPath[paths[p.Object]], i)
	}
	out, taken := make([]int, len(u.Parts)), map[int]bool{}
	for k, c := range u.Parts {
		out[k] = -1
		if i, ok := byKey[c.Part]; ok {
			out[k], taken[i] = i, true
		}
	}
	for k, c := range u.Parts {
		if there := byPath[c.Path]; out[k] < 0 && c.Path != "" && len(there) == 1 && !taken[there[0]] {
			out[k], taken[there[0]] = there[0], true
		}
	}
	return out
}

// Found is a part that was found again by its place in the tree, under another key.
type Found struct {
	Part string `json:"part"` // its key now
	Was  string `json:"was"`
}

// Fitted is the set-up with its changes under the keys and places that the scene has
// for their parts now; those without one stay as they are. found are those whose keys
// have changed.
func (u *Setup) Fitted(ctx context.Context, s *scene.Scene) (fitted Setup, found []Found, err error) {
	if s, err = u.Parted(ctx, s); err != nil {
		return fitted, nil, err
	}
	keys, paths := s.Keys(), s.Paths()
	fitted = u.With()
	for k, i := range fitted.Match(s) {
		if i < 0 {
			continue
		}
		c := &fitted.Parts[k]
		if c.Part != keys[i] {
			found = append(found, Found{keys[i], c.Part})
		}
		c.Part, c.Path = keys[i], paths[s.Parts[i].Object]
	}
	fitted.Tidy()
	return fitted, found, nil
}
