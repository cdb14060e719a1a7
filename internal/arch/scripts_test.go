package arch

import (
	"os/exec"
	"strings"
	"testing"
)

// What ./test says by its exit code is what its two halves say, and nothing goes on after it.
func TestChecksBesideOthers(t *testing.T) {
	for _, c := range []struct {
		name, beside, main string
		fails              bool
		said               string
	}{
		{"both pass", "echo heard", "true", false, "heard\nall passed\n"},
		{"what is beside fails", "eval 'echo heard; false'", "true", true, "heard\nfailed beside\n"},
		{"the main pass fails", "sleep 600", "false", true, ""},
	} {
		t.Run(c.name, func(t *testing.T) {
			script := "set -euo pipefail\nsource ../../scripts/beside.sh\nstart_beside " + c.beside + "\n" + c.main +
				"\nend_beside || { echo failed beside; exit 1; }\necho all passed\n"
			// A command that went on would hold the pipe, and this would not return.
			out, err := exec.Command("bash", "-c", script).Output()
			if (err != nil) != c.fails {
				t.Errorf("the script ended with %v", err)
			}
			if got := string(out); got != c.said {
				t.Errorf("it said %q, not %q", strings.TrimSpace(got), c.said)
			}
		})
	}
}
