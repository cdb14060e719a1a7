package round

import (
	"slices"
	"testing"
	"time"
)

var noon = time.Date(2031, 3, 12, 12, 0, 0, 0, time.UTC)

func answers(said ...Answer) []Answer {
	for i := range said {
		said[i].At = noon.Add(time.Duration(i) * time.Second)
	}
	return said
}

func TestTheVerdictOnAProof(t *testing.T) {
	for _, c := range []struct {
		name    string
		asked   []int64
		answers []Answer
		want    Verdict
		waits   []int64
	}{
		{"nobody asked", nil, nil, Waiting, nil},
		{"nobody asked, somebody answers", nil, answers(Answer{Person: 1, Verdict: Approved}), Waiting, nil},
		{"none has answered", []int64{1, 2}, nil, Waiting, []int64{1, 2}},
		{"one of two", []int64{1, 2}, answers(Answer{Person: 1, Verdict: Approved}), Waiting, []int64{2}},
		{"both", []int64{1, 2}, answers(Answer{Person: 1, Verdict: Approved}, Answer{Person: 2, Verdict: Approved}), Approved, nil},
		{"one with remarks", []int64{1, 2}, answers(Answer{Person: 1, Verdict: WithRemarks}, Answer{Person: 2, Verdict: Approved}), WithRemarks, nil},
		{"one asks for changes, the other has not answered", []int64{1, 2}, answers(Answer{Person: 2, Verdict: Changes}), Changes, []int64{1}},
		{"a remark after changes", []int64{1, 2}, answers(Answer{Person: 1, Verdict: Changes}, Answer{Person: 2, Verdict: WithRemarks}), Changes, nil},
		{"somebody changes their mind", []int64{1}, answers(Answer{Person: 1, Verdict: Changes}, Answer{Person: 1, Verdict: Approved}), Approved, nil},
		{"and back", []int64{1}, answers(Answer{Person: 1, Verdict: Approved}, Answer{Person: 1, Verdict: Changes}), Changes, nil},
		{"who is not asked decides nothing", []int64{1}, answers(Answer{Person: 1, Verdict: Approved}, Answer{Person: 9, Verdict: Changes}), Approved, nil},
	} {
		got := Of(c.asked, c.answers)
		if got.Verdict != c.want || !slices.Equal(got.Waits, c.waits) {
			t.Errorf("%s: %+v, not %s waiting for %v", c.name, got, c.want, c.waits)
		}
	}
}

func TestTheVerdictOfARound(t *testing.T) {
	for _, c := range []struct {
		proofs []Verdict
		want   Verdict
	}{
		{nil, Empty},
		{[]Verdict{Approved, Approved}, Approved},
		{[]Verdict{Approved, WithRemarks}, WithRemarks},
		{[]Verdict{Approved, Waiting}, Waiting},
		{[]Verdict{Waiting, Changes, Approved}, Changes},
	} {
		if got := All(c.proofs); got != c.want {
			t.Errorf("%v: %s, not %s", c.proofs, got, c.want)
		}
	}
}

func TestTheNextRound(t *testing.T) {
	for _, c := range []struct {
		last     Kind
		approved bool
		want     Kind
	}{
		{Clay, true, Light}, {Clay, false, Clay}, {Light, true, Finish}, {Finish, true, Final}, {Final, true, Final}, {Other, true, Other},
	} {
		if got := Next(c.last, c.approved); got != c.want {
			t.Errorf("after %s, approved %t: %s, not %s", c.last, c.approved, got, c.want)
		}
	}
}

// The whole of the day is left; what is approved is never late.
func TestLate(t *testing.T) {
	day := time.Date(2031, 3, 12, 0, 0, 0, 0, time.UTC)
	for _, c := range []struct {
		v    Verdict
		due  *time.Time
		now  time.Time
		late bool
	}{
		{Waiting, nil, noon, false}, {Waiting, &day, noon, false}, {Waiting, &day, day.AddDate(0, 0, 1), true},
		{WithRemarks, &day, day.AddDate(0, 1, 0), false}, {Empty, &day, day.AddDate(0, 1, 0), true},
	} {
		if got := Late(c.v, c.due, c.now); got != c.late {
			t.Errorf("%s at %v: %t", c.v, c.now, got)
		}
	}
}
