package passes

import (
	"cmp"
	"encoding/binary"
	"encoding/json"
	"fmt"
	"math"
	"math/bits"
	"slices"

	"amberproof/core/film"
)

// Hashed ID mattes after the published open specification (Friedman & Jones
// 2015, version 1.2): for each pixel the names that cover it, as hashes held in
// the bits of floats, with their coverage, by rank. Any matte can be made from
// them afterwards.

const (
	idRanks    = 6
	idLayers   = idRanks / 2
	mostValues = 4 * idLayers // of any pass
)

// murmur3 is the 32-bit hash of a name (Appleby 2011, seed 0).
func murmur3(name string) uint32 {
	const c1, c2 = 0xcc9e2d51, 0x1b873593
	mix := func(k uint32) uint32 { return bits.RotateLeft32(k*c1, 15) * c2 }
	b := []byte(name)
	var h uint32
	for ; len(b) >= 4; b = b[4:] {
		h = bits.RotateLeft32(h^mix(binary.LittleEndian.Uint32(b)), 13)*5 + 0xe6546b64
	}
	var k uint32
	for i := len(b) - 1; i >= 0; i-- {
		k = k<<8 | uint32(b[i])
	}
	h ^= mix(k)
	h ^= uint32(len(name))
	h ^= h >> 16
	h *= 0x85ebca6b
	h ^= h >> 13
	h *= 0xc2b2ae35
	return h ^ h>>16
}

// idOf is the hash with the exponents avoided that are no plain numbers.
func idOf(name string) uint32 {
	h := murmur3(name)
	if e := h >> 23 & 255; e == 0 || e == 255 {
		h ^= 1 << 23
	}
	return h
}

// idChannels are the layers of ranks, two to each, in one file of many layers.
func idChannels(layer string) []string {
	var out []string
	for i := range idLayers {
		for _, c := range "RGBA" {
			out = append(out, fmt.Sprintf("%s%02d.%c", layer, i, c))
		}
	}
	return out
}

// Metadata is what the file's header must say of an ID pass, nil for others.
func (p *Pass) Metadata() map[string]string {
	if p.ids == nil {
		return nil
	}
	manifest := map[string]string{}
	for _, n := range p.ids {
		manifest[n] = fmt.Sprintf("%08x", idOf(n))
	}
	list, err := json.Marshal(manifest)
	if err != nil {
		panic(err) // text always marshals
	}
	key := fmt.Sprintf("cryptomatte/%07x/", murmur3(p.layer())>>4)
	return map[string]string{
		key + "name": p.layer(), key + "hash": "MurmurHash3_32", key + "conversion": "uint32_to_float32", key + "manifest": string(list),
	}
}

// layer is the pass's name in the file: letters, digits and underscores.
func (p *Pass) layer() string { return Slug(p.Key) }

// ranks computes the pairs of ID and coverage at a pixel, the greatest first.
func (p *Pass) ranks(t *film.Sums, i int, w float32) (v [mostValues]float32) {
	type share struct {
		id     uint32
		weight float32
	}
	var all []share
	for e := t.Heads[i]; e >= 0; e = t.Entries[e].Next {
		n, ok := p.ids[t.Entries[e].Part]
		if !ok {
			continue
		}
		id := idOf(n)
		k := slices.IndexFunc(all, func(s share) bool { return s.id == id })
		if k < 0 {
			all = append(all, share{id: id})
			k = len(all) - 1
		}
		all[k].weight += max(0, t.Entries[e].Weight)
	}
	// Filters with lobes below zero can leave a name less than nothing.
	all = slices.DeleteFunc(all, func(s share) bool { return !(s.weight > 0) })
	slices.SortFunc(all, func(a, b share) int {
		return cmp.Or(cmp.Compare(b.weight, a.weight), cmp.Compare(a.id, b.id))
	})
	for k, s := range all[:min(len(all), idRanks)] {
		v[2*k], v[2*k+1] = math.Float32frombits(s.id), min(1, s.weight/w)
	}
	return v
}

// tint is a colour to tell a name by.
func tint(id uint32) (r, g, b float32) {
	part := func(shift uint) float32 { return 0.15 + 0.85*float32(id>>shift&255)/255 }
	return part(0), part(8), part(16)
}
