package notify

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"amberproof/core/names"
	"amberproof/internal/identity"
	"amberproof/internal/review"
	"amberproof/internal/round"
	"amberproof/internal/store"
	"amberproof/internal/ticket"
)

// concerned are the people who are to be told of an event by mail: those who can be reached
// and want that, and never who did it.
func (s *Service) concerned(ctx context.Context, e *store.Event) ([]int64, error) {
	want := identity.Remarks
	switch {
	case e.Kind == store.ProofPutUp:
		want = identity.Answers
	case e.Kind == store.RunEnded && (e.State == string(ticket.Done) || e.State == string(ticket.Failed)):
		want = identity.Runs
	case e.Kind != store.ProofAnswered && e.Kind != store.RemarkMade && e.Kind != store.RemarkAnswered:
		return nil, nil
	}
	reachable, err := s.Store.Reachable(ctx, e.Project)
	if err != nil {
		return nil, err
	}
	reachable = slices.DeleteFunc(reachable, func(p store.Reachable) bool {
		return p.Mail == "" || p.ID == e.By.ID || !slices.Contains(p.Wants, want)
	})
	if len(reachable) == 0 {
		return nil, nil
	}
	is, err := s.is(ctx, e)
	if gone(err) {
		return nil, nil
	}
	var out []int64
	for _, p := range reachable {
		if is(&p) {
			out = append(out, p.ID)
		}
	}
	return out, err
}

// is tells whom an event concerns.
func (s *Service) is(ctx context.Context, e *store.Event) (func(p *store.Reachable) bool, error) {
	if e.Kind == store.RunEnded {
		_, maker, err := s.Store.Owner(ctx, string(identity.RunKind), e.Run)
		return func(p *store.Reachable) bool { return p.ID == maker }, err
	}
	if e.Kind == store.ProofPutUp {
		r, err := s.Store.Round(ctx, e.Round)
		return func(p *store.Reachable) bool {
			return slices.ContainsFunc(r.Asked, func(a store.Person) bool { return a.ID == p.ID })
		}, err
	}
	_, maker, err := s.Store.Owner(ctx, string(identity.ProofKind), e.Proof)
	if err != nil || e.Kind == store.ProofAnswered {
		return func(p *store.Reachable) bool { return p.ID == maker || p.Role == identity.Lead }, err
	}
	r, err := s.Store.Remark(ctx, e.Remark)
	return func(p *store.Reachable) bool {
		named := len(round.Mentions(e.Words, func(yield func(string) bool) { yield(p.Name) })) > 0
		return named || p.ID == maker || p.ID == r.Maker ||
			slices.ContainsFunc(r.Lines, func(l store.RemarkLine) bool { return l.Person == p.ID })
	}, err
}

// mostNotices is how many events go into one mail.
const mostNotices = 200

// mail writes to a person of all that they are still to be told, a mail for each project.
func (s *Service) mail(ctx context.Context, person int64) error {
	events, err := s.Store.Notices(ctx, person, mostNotices)
	if err != nil || len(events) == 0 {
		return err
	}
	var projects []int64
	for _, e := range events {
		if !slices.Contains(projects, e.Project) {
			projects = append(projects, e.Project)
		}
	}
	var out []store.Message
	for _, project := range projects {
		m, err := s.letter(ctx, person, project, events)
		if err != nil {
			return err
		}
		if m != nil {
			out = append(out, *m)
		}
	}
	return s.Store.Notify(ctx, person, events[len(events)-1].ID, out)
}

// letter is what a person is told of a project; nil where there is nothing to tell any more.
func (s *Service) letter(ctx context.Context, person, project int64, events []store.Event) (*store.Message, error) {
	people, err := s.Store.Reachable(ctx, project)
	if err != nil {
		return nil, err
	}
	i := slices.IndexFunc(people, func(p store.Reachable) bool { return p.ID == person && p.Mail != "" })
	if i < 0 {
		return nil, nil // they have left the project, or cannot be reached any more
	}
	to := &people[i]
	var parts []part
	var subject, first string // first is what stands in the subject: an answer, if there is one
	waits := 0
	for k := range events {
		if events[k].Project != project {
			continue
		}
		a, err := s.about(ctx, &events[k])
		if err != nil {
			return nil, err
		}
		subject = a.project.Name
		head, url, line := s.line(&events[k], &a, to)
		if line == "" {
			continue
		}
		switch {
		case events[k].Kind == store.ProofPutUp:
			waits++
		case first == "" || events[k].Kind == store.ProofAnswered:
			first = strings.TrimSuffix(strings.SplitN(line, "\n", 2)[0], ".")
		}
		if n := len(parts); n == 0 || parts[n-1].head != head {
			parts = append(parts, part{head, url, nil})
		}
		last := &parts[len(parts)-1]
		last.lines = append(last.lines, line)
	}
	if len(parts) == 0 {
		return nil, nil
	}
	switch lines := count(parts); {
	case waits == 1:
		subject += ": a picture waits for your answer"
	case waits > 1:
		subject += fmt.Sprintf(": %d pictures wait for your answer", waits)
	case lines == 1:
		subject += ": " + first
	default:
		subject += fmt.Sprintf(": %s, and %d more", first, lines-1)
	}
	return &store.Message{Project: project, Address: to.Mail, Subject: names.Cut(names.Text(subject), 200), Body: body(to.Name, parts, s.Site)}, nil
}

// part is what is told of one round, or of the runs.
type part struct {
	head, url string
	lines     []string
}

func count(parts []part) (n int) {
	for _, p := range parts {
		n += len(p.lines)
	}
	return n
}

func body(name string, parts []part, site string) string {
	var b strings.Builder
	fmt.Fprintf(&b, "Hello %s,\n", name)
	for _, p := range parts {
		fmt.Fprintf(&b, "\n%s\n", p.head)
		for _, l := range p.lines {
			fmt.Fprintf(&b, "- %s\n", strings.ReplaceAll(l, "\n", "\n  "))
		}
		fmt.Fprintf(&b, "%s\n", p.url)
	}
	fmt.Fprintf(&b, "\nYou choose what you get mail about under your name, in the upper right of\n%s/\n", site)
	return b.String()
}

// line is what a person is told of an event, and under which head; empty where there is nothing
// to tell any more.
func (s *Service) line(e *store.Event, a *about, to *store.Reachable) (head, url, line string) {
	if r := a.run; r != nil {
		line = fmt.Sprintf("%s, run %d, is %s.", r.JobName, r.Number, r.State)
		if r.Fault != "" {
			line += " " + r.Fault
		}
		return "Runs", s.Site + "/queue", line
	}
	if a.round == nil || a.proof == nil {
		return "", "", ""
	}
	head = fmt.Sprintf("Round %d, %s", a.round.Number, a.round.Title)
	url = s.roundURL(a.round.ID)
	on := fmt.Sprintf("%s, proof %d", a.proof.View, a.proof.Number)
	switch e.Kind {
	case store.ProofPutUp:
		asked := slices.ContainsFunc(a.round.Asked, func(p review.Asked) bool { return p.ID == to.ID })
		answered := slices.ContainsFunc(a.proof.Answers, func(v review.Answered) bool { return v.Person == to.ID })
		if asked && !answered && a.proof.Newest {
			line = fmt.Sprintf("%s put up %s. It waits for your answer.", e.By.Name, on)
		}
	case store.ProofAnswered:
		line = fmt.Sprintf("%s said of %s: %s.%s", e.By.Name, on, e.State, quoted(e.Words))
	default:
		if a.remark == nil {
			return "", "", ""
		}
		what := "remarked on " + on
		if e.Kind == store.RemarkAnswered {
			what = "answered in a remark on " + on
		}
		if e.State != "" && e.Kind == store.RemarkAnswered {
			what = fmt.Sprintf("set a remark on %s to %s", on, e.State)
		}
		line = fmt.Sprintf("%s %s (remark %d).%s", e.By.Name, what, a.remark.Number, quoted(e.Words))
	}
	return head, url, line
}

// quoted are somebody's words under a line.
func quoted(words string) string {
	if words == "" {
		return ""
	}
	return "\n\"" + names.Cut(words, 600) + "\""
}
