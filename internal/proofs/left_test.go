package proofs

import (
	"strings"
	"testing"
)

// A line for each tile, smaller ones at the edges; what is not known stays empty.
func TestTheTableOfNoise(t *testing.T) {
	a, b := 1.25, 0.5
	m := NoiseMap{Side: 16, Window: [4]int{10, 20, 30, 36}, Columns: 2, Rows: 1, Plain: []*float64{&a, nil}, Left: []*float64{&b, nil},
		Samples: []int{8, 1}, Settled: []bool{true, false}}
	var out strings.Builder
	if err := m.WriteCSV(&out); err != nil {
		t.Fatal(err)
	}
	want := "left,top,right,bottom,samples,settled,noise_percent,noise_before_denoising_percent\r\n10,20,26,36,8,true,0.5,1.25\r\n26,20,30,36,1,false,,\r\n"
	if out.String() != want {
		t.Errorf("%q", out.String())
	}
}
