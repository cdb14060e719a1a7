package arch

import (
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"runtime"
	"slices"
	"strconv"
	"strings"
	"testing"
)

// instruction is one line of the compiler's own listing.
type instruction struct {
	pc       int
	op, args string
	line     string // of the source
}

// listings are the compiled functions of a package by name, as the compiler lists them.
// (go tool objdump takes instructions with a VEX prefix for their legacy namesakes.)
func listings(t *testing.T, pkg string) map[string][]instruction {
	t.Helper()
	sources, err := filepath.Glob(filepath.Join("../..", pkg, "*.go"))
	if err != nil || len(sources) == 0 {
		t.Fatalf("no sources in %s: %v", pkg, err)
	}
	for _, path := range sources { // so that a result is not kept over a change of them
		if _, err := os.ReadFile(path); err != nil {
			t.Fatal(err)
		}
	}
	cmd := exec.Command("go", "build", "-gcflags=amberproof/"+pkg+"=-S", "./"+pkg)
	cmd.Dir = "../.."
	out, err := cmd.CombinedOutput()
	if err != nil {
		t.Fatalf("%v: %s", err, out)
	}
	return parseListing(string(out))
}

var (
	startOfFunction = regexp.MustCompile(`^(\S+) STEXT`)
	oneInstruction  = regexp.MustCompile(`^\t0x[0-9a-f]+ (\d+) \((.*)\)\t([A-Z][A-Z0-9]*)\t?(.*)$`)
	upperRegister   = regexp.MustCompile(`\b[YZ]([0-9]|[12][0-9]|3[01])\b`)
	lowerRegister   = regexp.MustCompile(`\bX([0-9]|1[0-5])\b`)
)

func parseListing(text string) map[string][]instruction {
	all := map[string][]instruction{}
	name := ""
	for line := range strings.Lines(text) {
		line = strings.TrimRight(line, "\n")
		if m := startOfFunction.FindStringSubmatch(line); m != nil {
			name = m[1]
		} else if m := oneInstruction.FindStringSubmatch(line); m != nil && name != "" {
			switch m[3] {
			case "TEXT", "PCDATA", "FUNCDATA", "NOP", "XCHGL":
				continue // no instruction, or one that does nothing
			}
			pc, _ := strconv.Atoi(m[1])
			all[name] = append(all[name], instruction{pc, m[3], m[4], m[2][strings.LastIndexByte(m[2], '/')+1:]})
		}
	}
	return all
}

// calledIn are the functions that any of these calls.
func calledIn(all map[string][]instruction) map[string]bool {
	called := map[string]bool{}
	for _, code := range all {
		for _, in := range code {
			if in.op == "CALL" || in.op == "JMP" {
				called[strings.TrimSuffix(in.args, "(SB)")] = true
			}
		}
	}
	return called
}

// mixedUp follows a function along all its ways and tells where legacy SSE instructions,
// calls or returns are met while the upper halves of the vector registers are in use.
func mixedUp(code []instruction) (faults []string, vectors bool) {
	at := map[int]int{}
	for i, in := range code {
		if _, ok := at[in.pc]; !ok {
			at[in.pc] = i
		}
	}
	type state struct {
		i   int
		use bool
	}
	seen := map[state]bool{}
	for todo := []state{{0, false}}; len(todo) > 0; {
		s := todo[len(todo)-1]
		todo = todo[:len(todo)-1]
		if s.i >= len(code) || seen[s] {
			continue
		}
		seen[s] = true
		in, use := code[s.i], s.use
		fault := func(what string) {
			if use {
				faults = append(faults, fmt.Sprintf("%s: %s %s: %s", in.line, in.op, in.args, what))
			}
		}
		switch {
		case in.op == "VZEROUPPER":
			use = false
		case upperRegister.MatchString(in.args):
			use, vectors = true, true
		case strings.HasPrefix(in.op, "DUFF"), !strings.HasPrefix(in.op, "V") && lowerRegister.MatchString(in.args):
			fault("legacy SSE among vectors")
		case in.op == "CALL" && !strings.Contains(in.args, "runtime.panic") && !strings.Contains(in.args, "runtime.morestack"):
			fault("a call among vectors")
		case in.op == "RET":
			fault("the upper halves are not cleared")
			continue
		case in.op == "UNDEF":
			continue
		}
		if strings.HasPrefix(in.op, "J") {
			if to, err := strconv.Atoi(in.args); err == nil {
				todo = append(todo, state{at[to], use})
			} else {
				fault("a jump among vectors that cannot be followed")
			}
			if in.op == "JMP" {
				continue
			}
		}
		todo = append(todo, state{s.i + 1, use})
	}
	slices.Sort(faults)
	return slices.Compact(faults), vectors
}

// On some processors each change between 256 bit vectors and legacy SSE, which the compiler
// uses for scalar floats and to zero memory, costs about 70 cycles while the upper halves of
// the registers are in use: kernels took three times as long there.
func TestVectorsAreNotMixedWithLegacySSE(t *testing.T) {
	if !strings.Contains(os.Getenv("GOEXPERIMENT"), "simd") || runtime.GOARCH != "amd64" {
		t.Skip("built without vectors")
	}
	for pkg, kernels := range map[string][]string{
		"core/accel":   {"closestSIMD", "blockedSIMD", "aim", "partitionEight", "around", "sweepEight", "sort"},
		"core/denoise": {"tightRow", "unlikeRow", "threeRow", "weighEight", "addRow", "gatherRow", "blendRow"},
	} {
		var names []string
		all := listings(t, pkg)
		called := calledIn(all)
		for name, code := range all {
			faults, vectors := mixedUp(code)
			if !vectors || !called[name] {
				continue // helpers that take and return vectors are inlined wherever they are used
			}
			names = append(names, name[strings.LastIndexByte(name, '.')+1:])
			for _, f := range faults {
				t.Errorf("%s: %s", name, f)
			}
		}
		for _, k := range kernels {
			if !slices.Contains(names, k) {
				t.Errorf("no vectors were found in %s of %s; found in %v", k, pkg, names)
			}
		}
	}
}

func TestMixedUpSeesEveryWay(t *testing.T) {
	list := func(lines ...string) []instruction {
		text := "f STEXT size=1\n"
		for i, l := range lines {
			text += fmt.Sprintf("\t0x0000 %05d (/a/f.go:%d)\t%s\n", i, i+1, strings.Replace(l, " ", "\t", 1))
		}
		return parseListing(text)["f"]
	}
	for _, c := range []struct {
		name   string
		code   []instruction
		faults int
	}{
		{"clean", list("MOVSS (AX), X0", "VADDPS Y1, Y2, Y3", "VMOVSS (AX), X0", "VZEROUPPER", "ADDSS X0, X1", "RET"), 0},
		{"a load among vectors", list("VADDPS Y1, Y2, Y3", "MOVSS (AX), X0", "VZEROUPPER", "RET"), 1},
		{"zeroing among vectors", list("VADDPS Y1, Y2, Y3", "MOVUPS X15, (AX)", "VZEROUPPER", "RET"), 1},
		{"not cleared", list("VADDPS Y1, Y2, Y3", "RET"), 1},
		{"on the way back of a loop only", list("MOVSS (AX), X0", "VADDPS Y1, Y2, Y3", "JNE 0", "VZEROUPPER", "RET"), 1},
		{"jumped over", list("VADDPS Y1, Y2, Y3", "JMP 3", "MOVSS (AX), X0", "VZEROUPPER", "RET"), 0},
		{"a call", list("VADDPS Y1, Y2, Y3", "CALL a.f(SB)", "VZEROUPPER", "RET"), 1},
		{"a bound that fails", list("VADDPS Y1, Y2, Y3", "JNE 4", "VZEROUPPER", "RET", "CALL runtime.panicIndex(SB)", "UNDEF"), 0},
	} {
		if got, _ := mixedUp(c.code); len(got) != c.faults {
			t.Errorf("%s: %q, wanted %d faults", c.name, got, c.faults)
		}
	}
}
