// Package round holds the rules of approval rounds: what follows from what people answered,
// and what may be done then. They are pure, and ask neither clock nor database.
package round

import (
	"slices"
	"time"
)

// Kind is what a round is about.
type Kind string

// Kinds of rounds, in the order in which a project goes through them.
const (
	Clay   Kind = "clay"   // shape
	Light  Kind = "light"  // stage and lights
	Finish Kind = "finish" // materials
	Final  Kind = "final"
	Other  Kind = "other" // named by the team
)

// Kinds are all of them.
var Kinds = []Kind{Clay, Light, Finish, Final, Other}

// Next is the kind of the round that follows one: the same again where it was not approved.
func Next(last Kind, approved bool) Kind {
	i := slices.Index(Kinds, last)
	if !approved || i < 0 || last == Final || last == Other {
		return last
	}
	return Kinds[i+1]
}

// Verdict is what somebody answered, or what follows from all answers.
type Verdict string

// Verdicts. People answer with one of the first three.
const (
	Approved    Verdict = "approved"
	WithRemarks Verdict = "approved with remarks"
	Changes     Verdict = "changes asked"
	Waiting     Verdict = "waiting"        // somebody has yet to answer
	Empty       Verdict = "nothing put up" // there is nothing to answer to
)

// Answers are the verdicts that people give.
var Answers = []Verdict{Approved, WithRemarks, Changes}

// Approves tells whether it is a yes.
func (v Verdict) Approves() bool { return v == Approved || v == WithRemarks }

// Answer is what one person said of a proof.
type Answer struct {
	Person  int64
	Verdict Verdict
	At      time.Time
}

// latest is what each person said last.
func latest(answers []Answer) map[int64]Answer {
	out := map[int64]Answer{}
	for _, a := range answers {
		if have, ok := out[a.Person]; !ok || !a.At.Before(have.At) {
			out[a.Person] = a
		}
	}
	return out
}

// Judged is a proof as far as it was answered: its verdict, and who has yet to answer.
type Judged struct {
	Verdict Verdict
	Waits   []int64
}

// Of is the verdict on a proof, by what those who are asked said last. Changes are asked as
// soon as one of them asks for some. It is approved once all of them have said so, with
// remarks if one of them had some. Answers of people who are not asked decide nothing. With
// nobody asked it waits.
func Of(asked []int64, answers []Answer) Judged {
	said := latest(answers)
	j := Judged{Verdict: Approved, Waits: []int64{}}
	for _, p := range asked {
		a, ok := said[p]
		switch {
		case !ok:
			j.Waits = append(j.Waits, p)
		case a.Verdict == Changes:
			j.Verdict = Changes
		case a.Verdict == WithRemarks && j.Verdict == Approved:
			j.Verdict = WithRemarks
		}
	}
	if j.Verdict != Changes && (len(j.Waits) > 0 || len(asked) == 0) {
		j.Verdict = Waiting
	}
	return j
}

// All is the verdict of a round, by those on its newest proofs: what one of them is asked to
// change, the round is; it waits while one of them waits, and is approved once all are.
func All(proofs []Verdict) Verdict {
	if len(proofs) == 0 {
		return Empty
	}
	for _, v := range []Verdict{Changes, Waiting, WithRemarks} {
		if slices.Contains(proofs, v) {
			return v
		}
	}
	return Approved
}

// Late tells whether a round that is not approved has passed its day: the whole of it is left
// to those who answer.
func Late(v Verdict, due *time.Time, now time.Time) bool {
	return due != nil && !v.Approves() && !now.Before(due.AddDate(0, 0, 1))
}
