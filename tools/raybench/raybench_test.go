package main

import (
	"bytes"
	"encoding/binary"
	"encoding/json"
	"math"
	"os"
	"path/filepath"
	"strings"
	"testing"
)

func file(t *testing.T, v ...float32) string {
	t.Helper()
	var b []byte
	for _, x := range v {
		b = binary.LittleEndian.AppendUint32(b, math.Float32bits(x))
	}
	p := filepath.Join(t.TempDir(), "f32")
	if err := os.WriteFile(p, b, 0o600); err != nil {
		t.Fatal(err)
	}
	return p
}

var inf = float32(math.Inf(1))

func TestAnswersAreTheKnownOnes(t *testing.T) {
	tris := file(t,
		-1, -1, 0, 1, -1, 0, 0, 1, 0,
		-1, -1, -2, 1, -1, -2, 0, 1, -2)
	rays := file(t,
		0, 0, 3, 0, 0, 0, -1, inf, // meets the first at 3
		0, 0, -1, 0, 0, 0, -2, inf, // between both: meets the second at half its length
		5, 5, 3, 0, 0, 0, -1, inf, // beside
		0, 0, 3, 0, 0, 0, -1, 2) // ends before
	for _, c := range []struct {
		any  bool
		want []answer
	}{
		{false, []answer{{3, 0}, {0.5, 1}, {inf, missed}, {inf, missed}}},
		{true, []answer{{0, missed}, {0, missed}, {inf, missed}, {inf, missed}}},
	} {
		out := filepath.Join(t.TempDir(), "out")
		args := []string{tris, rays, "--threads", "3", "--reps", "2", "--out", out}
		if c.any {
			args = append(args, "--any")
		}
		var line bytes.Buffer
		if err := run(args, &line); err != nil {
			t.Fatal(err)
		}
		got, err := os.ReadFile(out)
		if err != nil {
			t.Fatal(err)
		}
		if !bytes.Equal(got, encode(c.want)) {
			t.Errorf("any %v: % x, want % x", c.any, got, encode(c.want))
		}
		var r report
		if err := json.Unmarshal(line.Bytes(), &r); err != nil || r.Hits != 2 || r.MraysCPU <= 0 || r.BytesPerTriangle <= 0 {
			t.Errorf("%s: %v", line.String(), err)
		}
	}
}

func TestBadInputIsNamed(t *testing.T) {
	tris := file(t, 0, 0, 0, 1, 0, 0, 0, 1, 0)
	rays := file(t, 0, 0, 1, 0, 0, 0, -1, 1)
	for want, args := range map[string][]string{
		"two files":       {tris},
		"whole number":    {file(t, 1, 2, 3), rays},
		"not finite":      {file(t, 0, 0, 0, 1, 0, 0, 0, inf, 0), rays},
		"a direction":     {tris, file(t, 0, 0, 1, 0, 0, 0, 0, 1)},
		"--threads":       {tris, rays, "--threads", "0"},
		"--reps":          {tris, rays, "--reps", "0"},
		"no such file":    {tris, rays + "x"},
		"not defined: -z": {tris, rays, "-z"},
	} {
		if err := run(args, &bytes.Buffer{}); err == nil || !strings.Contains(err.Error(), want) {
			t.Errorf("%v: %v, want %q", args, err, want)
		}
	}
}
