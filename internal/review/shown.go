package review

import (
	"context"
	"fmt"
	"slices"
	"time"

	"amberproof/internal/fault"
	"amberproof/internal/identity"
	"amberproof/internal/round"
	"amberproof/internal/store"
)

// Round is a round as somebody sees it.
type Round struct {
	ID      int64         `json:"id"`
	Project int64         `json:"project"`
	Number  int           `json:"number" doc:"Within the project, from 1"`
	Kind    round.Kind    `json:"kind" enum:"clay,light,finish,final,other"`
	Title   string        `json:"title"`
	Due     string        `json:"due" doc:"A day; empty for none"`
	Late    bool          `json:"late"`
	Needs   bool          `json:"needs" doc:"The round before has to be approved before anything is put up"`
	Note    string        `json:"note" doc:"For those who answer"`
	Anyway  string        `json:"anyway" doc:"Why it was begun before that"`
	Blocked bool          `json:"blocked" doc:"It waits for the round before"`
	Version int64         `json:"version"`
	Verdict round.Verdict `json:"verdict" enum:"approved,approved with remarks,changes asked,waiting,nothing put up"`
	Asked   []Asked       `json:"asked" nullable:"false"`
	Proofs  []Proof       `json:"proofs" nullable:"false" doc:"In the order they were put up"`
	Carried []Carried     `json:"carried" nullable:"false" doc:"What was asked for when its scenes were up before"`
}

// Asked is somebody who has to answer in a round.
type Asked struct {
	ID    int64      `json:"id"`
	Name  string     `json:"name"`
	Waits int        `json:"waits" doc:"Newest proofs without an answer of theirs"`
	Since *time.Time `json:"since" doc:"When the first of them was put up"`
}

// Proof is what was put up.
type Proof struct {
	ID      int64             `json:"id"`
	Round   int64             `json:"round"`
	Number  int               `json:"number" doc:"Within the round, from 1"`
	Scene   string            `json:"scene"`
	View    string            `json:"view"`
	Run     int64             `json:"run" doc:"It came of; may be gone"`
	SHA256  string            `json:"sha256" doc:"Of all that it is"`
	Slug    string            `json:"slug"`
	Passes  []store.ProofPass `json:"passes" nullable:"false"`
	Width   int               `json:"width" doc:"Of the frame, pixels"`
	Height  int               `json:"height"`
	Area    [4]int            `json:"area" nullable:"false" doc:"Of the frame that was computed: left, top, right, bottom in pixels"`
	By      string            `json:"by"`
	Created time.Time         `json:"created"`
	Newest  bool              `json:"newest" doc:"No later proof of the round supersedes it"`
	Verdict round.Verdict     `json:"verdict" enum:"approved,approved with remarks,changes asked,waiting"`
	Answers []Answered        `json:"answers" nullable:"false" doc:"In the order they came"`
	Remarks int               `json:"remarks" doc:"Made on it and still open"`
}

// Answered is an answer to a proof.
type Answered struct {
	Person  int64         `json:"person"`
	Name    string        `json:"name"`
	Verdict round.Verdict `json:"verdict" enum:"approved,approved with remarks,changes asked"`
	Words   string        `json:"words"`
	SHA256  string        `json:"sha256" doc:"Of the proof that was seen"`
	At      time.Time     `json:"at"`
}

// Carried is something that was asked for in an earlier round.
type Carried struct {
	Round   int           `json:"round" doc:"Its number"`
	View    string        `json:"view"`
	Name    string        `json:"name"`
	Verdict round.Verdict `json:"verdict" enum:"approved with remarks,changes asked"`
	Words   string        `json:"words"`
}

// showing shows the rounds of a project to somebody.
type showing struct {
	all    []store.RoundWhole
	people map[int64]string
	open   map[int64]int    // open remarks, by the proof they were made on
	at     map[int64][2]int // places of proofs: of the round in all, and of the proof in that
	now    time.Time
}

func (s *Service) showing(ctx context.Context, project int64) (v showing, err error) {
	if v.all, err = s.store.Rounds(ctx, project); err != nil {
		return v, err
	}
	if v.open, err = s.store.OpenRemarks(ctx, project); err != nil {
		return v, err
	}
	v.at = map[int64][2]int{}
	for i := range v.all {
		for k := range v.all[i].Proofs {
			v.at[v.all[i].Proofs[k].ID] = [2]int{i, k}
		}
	}
	people, err := s.store.People(ctx)
	v.people, v.now = map[int64]string{}, s.now().UTC()
	for _, p := range people {
		v.people[p.ID] = p.Name
	}
	return v, err
}

// round is the i-th round.
func (v *showing) round(i int) Round {
	r, j := &v.all[i], judge(&v.all[i])
	out := Round{
		ID: r.ID, Project: r.Project, Number: r.Number, Kind: r.Kind, Title: r.Title, Needs: r.Needs, Note: r.Note, Anyway: r.Anyway,
		Blocked: blocked(v.all, i), Version: r.Version, Verdict: j.verdict, Late: round.Late(j.verdict, r.Due, v.now),
		Asked: []Asked{}, Proofs: []Proof{}, Carried: []Carried{},
	}
	if r.Due != nil {
		out.Due = r.Due.Format(day)
	}
	for k := range r.Proofs {
		out.Proofs = append(out.Proofs, v.proof(r, &j, &r.Proofs[k]))
	}
	for _, p := range r.Asked {
		a := Asked{ID: p.ID, Name: p.Name}
		for _, q := range out.Proofs {
			if q.Newest && slices.Contains(j.of[q.ID].Waits, p.ID) {
				if a.Waits++; a.Since == nil {
					a.Since = &q.Created
				}
			}
		}
		out.Asked = append(out.Asked, a)
	}
	for _, scene := range scenesOf(v.all, i) {
		for k := i - 1; k >= 0; k-- {
			if shows(&v.all[k], scene) {
				out.Carried = append(out.Carried, carried(&v.all[k], scene)...)
				break
			}
		}
	}
	return out
}

func (v *showing) proof(r *store.RoundWhole, j *judged, p *store.Proof) Proof {
	out := Proof{
		ID: p.ID, Round: p.Round, Number: p.Number, Scene: p.Scene, View: p.View, Run: p.Run, SHA256: p.SHA256, Slug: p.Slug, Passes: p.Passes,
		Width: p.Width, Height: p.Height, Area: p.Area,
		By: v.people[p.Maker], Created: p.Created, Newest: j.newest[p.ID], Verdict: j.of[p.ID].Verdict, Answers: []Answered{}, Remarks: v.open[p.ID],
	}
	for _, a := range r.Answers {
		if a.Proof == p.ID {
			out.Answers = append(out.Answers, Answered{a.Person, a.Name, a.Verdict, a.Words, a.SHA256, a.Created})
		}
	}
	return out
}

// scenesOf are the scenes that a round is about: those that are up in it, or in the one before
// while nothing is.
func scenesOf(all []store.RoundWhole, i int) (out []string) {
	if len(all[i].Proofs) == 0 && i > 0 {
		i--
	}
	for _, p := range all[i].Proofs {
		if !slices.Contains(out, p.Scene) {
			out = append(out, p.Scene)
		}
	}
	return out
}

func shows(r *store.RoundWhole, scene string) bool {
	return slices.ContainsFunc(r.Proofs, func(p store.Proof) bool { return p.Scene == scene })
}

// carried is what people asked for of a scene in a round, by what each said last of its newest
// proofs.
func carried(r *store.RoundWhole, scene string) []Carried {
	j, out := judge(r), []Carried{}
	for _, p := range r.Proofs {
		if !j.newest[p.ID] || p.Scene != scene {
			continue
		}
		last := map[int64]store.Answer{}
		for _, a := range r.Answers {
			if a.Proof == p.ID {
				last[a.Person] = a
			}
		}
		for _, q := range r.Asked {
			if a, ok := last[q.ID]; ok && a.Verdict != round.Approved {
				out = append(out, Carried{r.Number, p.View, a.Name, a.Verdict, a.Words})
			}
		}
	}
	return out
}

// Get is one round.
func (s *Service) Get(ctx context.Context, who identity.Actor, id int64) (Round, error) {
	v, i, err := s.seen(ctx, who, id)
	if err != nil {
		return Round{}, err
	}
	return v.round(i), nil
}

// seen reads the rounds of a project, and the place of one of them.
func (s *Service) seen(ctx context.Context, who identity.Actor, id int64) (v showing, i int, err error) {
	project, err := s.project(ctx, who, identity.See, id)
	if err != nil {
		return v, 0, err
	}
	if v, err = s.showing(ctx, project); err != nil {
		return v, 0, err
	}
	if i = slices.IndexFunc(v.all, func(r store.RoundWhole) bool { return r.ID == id }); i < 0 {
		err = fmt.Errorf("round %d: %w", id, fault.ErrNotFound)
	}
	return v, i, err
}

// Board is all rounds of a project, and what they show.
type Board struct {
	Rounds []Round    `json:"rounds" nullable:"false" doc:"In their order"`
	Views  []ViewLine `json:"views" nullable:"false" doc:"What was put up in any of them, in the order it came"`
	Next   round.Kind `json:"next" enum:"clay,light,finish,final,other" doc:"What the next round is likely to be of"`
}

// ViewLine is a view of a scene in all rounds.
type ViewLine struct {
	Scene string  `json:"scene"`
	View  string  `json:"view"`
	Cells []int64 `json:"cells" nullable:"false" doc:"Of each round, the newest proof of the view; 0 for none"`
}

// Board shows a project at a glance.
func (s *Service) Board(ctx context.Context, who identity.Actor, project int64) (Board, error) {
	b := Board{Rounds: []Round{}, Views: []ViewLine{}, Next: round.Clay}
	if err := s.guard.In(who, identity.See, project); err != nil {
		return b, err
	}
	v, err := s.showing(ctx, project)
	if err != nil {
		return b, err
	}
	for i := range v.all {
		r := v.round(i)
		for k := range r.Proofs {
			p := &r.Proofs[k]
			at := slices.IndexFunc(b.Views, func(l ViewLine) bool { return l.Scene == p.Scene && l.View == p.View })
			if at < 0 {
				at = len(b.Views)
				b.Views = append(b.Views, ViewLine{p.Scene, p.View, make([]int64, len(v.all))})
			}
			b.Views[at].Cells[i] = p.ID // later ones come later
		}
		b.Rounds = append(b.Rounds, r)
		b.Next = round.Next(r.Kind, r.Verdict.Approves())
	}
	return b, nil
}
