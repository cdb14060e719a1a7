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
	"amberproof/core/finish"
)

// Hashed ID mattes after the published open specification (Friedman & Jones
// 2015, version 1.2): for each pixel the names that cover it, as hashes held in
// the bits of floats, with their coverage, by rank. Any matte can be made from
// them afterwards.

// IDs are hashed ID mattes, one by part and one by finish.
const IDs Kind = "ids"

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

type ids struct {
	layer string            // its name in the file: letters, digits and underscores
	names map[uint32]string // of parts
}

func (ids) kind() Kind                           { return IDs }
func (ids) needs(*Wanted, []string) []film.Plane { return nil } // coverage is always kept

func (ids) list(p *picture) []Pass {
	byPart, byFinish := map[uint32]string{}, map[uint32]string{}
	for i, k := range p.scene.Titles() {
		if !p.bare(i) {
			byPart[uint32(i)], byFinish[uint32(i)] = k, p.scene.FinishName(i)
		}
	}
	return []Pass{
		{Key: "ids_part", Title: "ID matte by part", shown: ids{"ids_part", byPart}},
		{Key: "ids_finish", Title: "ID matte by finish", shown: ids{"ids_finish", byFinish}},
	}
}

// The layers hold ranks two by two. Readers find them by their names, also alone in
// a file, and IDs are all 32 bits of a float.
func (d ids) form() form {
	var c []string
	for i := range idLayers {
		for _, one := range "RGBA" {
			c = append(c, fmt.Sprintf("%s%02d.%c", d.layer, i, one))
		}
	}
	return form{channels: c, whole: true, float: true, noMean: true}
}

func (d ids) metadata() map[string]string {
	manifest := map[string]string{}
	for _, n := range d.names {
		manifest[n] = fmt.Sprintf("%08x", idOf(n))
	}
	list, err := json.Marshal(manifest)
	if err != nil {
		panic(err) // text always marshals
	}
	key := fmt.Sprintf("cryptomatte/%07x/", murmur3(d.layer)>>4)
	return map[string]string{
		key + "name": d.layer, key + "hash": "MurmurHash3_32", key + "conversion": "uint32_to_float32", key + "manifest": string(list),
	}
}

// value computes the pairs of ID and coverage at a pixel, the greatest first.
func (d ids) value(t *film.Sums, i, _ int, v *values) {
	w := t.Covered(i)
	type share struct {
		id     uint32
		weight float32
	}
	var all []share
	for e := t.Heads[i]; e >= 0; e = t.Entries[e].Next {
		n, ok := d.names[t.Entries[e].Part]
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
}

// view shows each name in a colour of its own, by coverage.
func (ids) view(ranks [][]float32, to *finish.Picture) {
	n := len(ranks[0])
	to.R, to.G, to.B = make([]float32, n), make([]float32, n), make([]float32, n)
	for i := range n {
		for k := 0; k < len(ranks); k += 2 {
			cover := ranks[k+1][i]
			if cover == 0 {
				break
			}
			r, g, b := tint(math.Float32bits(ranks[k][i]))
			to.R[i] += r * cover
			to.G[i] += g * cover
			to.B[i] += b * cover
		}
	}
}

// tint is a colour to tell a name by.
func tint(id uint32) (r, g, b float32) {
	part := func(shift uint) float32 { return 0.15 + 0.85*float32(id>>shift&255)/255 }
	return part(0), part(8), part(16)
}
