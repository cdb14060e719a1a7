package review

import (
	"amberproof/internal/round"
	"amberproof/internal/store"
)

// judged is what a round's answers come to.
type judged struct {
	verdict round.Verdict
	of      map[int64]round.Judged // of each proof
	newest  map[int64]bool         // proofs that no later one of the round supersedes
}

// sight is what a proof shows: of two in one round, the later one supersedes the other.
type sight struct{ scene, view string }

func sightOf(p *store.Proof) sight { return sight{p.Scene, p.View} }

// judge applies the rules to a round.
func judge(r *store.RoundWhole) judged {
	j := judged{of: map[int64]round.Judged{}, newest: map[int64]bool{}}
	asked := make([]int64, len(r.Asked))
	for i, p := range r.Asked {
		asked[i] = p.ID
	}
	said := map[int64][]round.Answer{}
	for _, a := range r.Answers {
		said[a.Proof] = append(said[a.Proof], round.Answer{Person: a.Person, Verdict: a.Verdict, At: a.Created})
	}
	last := map[sight]int64{}
	for i := range r.Proofs {
		p := &r.Proofs[i]
		j.of[p.ID] = round.Of(asked, said[p.ID])
		last[sightOf(p)] = p.ID
	}
	var verdicts []round.Verdict
	for _, id := range last {
		j.newest[id] = true
		verdicts = append(verdicts, j.of[id].Verdict)
	}
	j.verdict = round.All(verdicts)
	return j
}

// before finds the newest proof of what one shows that was put up before it, in its round or
// an earlier one of the project; nil where there is none.
func before(all []store.RoundWhole, of *store.Proof) *store.Proof {
	var found *store.Proof
	for i := range all {
		for k := range all[i].Proofs {
			p := &all[i].Proofs[k]
			if p.ID == of.ID {
				return found
			}
			if sightOf(p) == sightOf(of) {
				found = p
			}
		}
	}
	return nil
}
