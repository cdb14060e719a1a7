package review

import (
	"context"
	"strings"

	"amberproof/core/surface"
	"amberproof/internal/frozen"
	"amberproof/internal/identity"
	"amberproof/internal/round"
	"amberproof/internal/sheet"
)

// Sheet is a round with all that was said in it, to be printed or read by other programs. With
// pictures is asked for those as well, which takes longer.
func (s *Service) Sheet(ctx context.Context, who identity.Actor, id int64, pictures bool) (*sheet.Sheet, error) {
	r, err := s.Get(ctx, who, id)
	if err != nil {
		return nil, err
	}
	p, err := s.store.Project(ctx, r.Project)
	if err != nil {
		return nil, err
	}
	out := &sheet.Sheet{
		Form: sheet.Form, Version: sheet.Version, Project: p.Name, Number: r.Number, Kind: string(r.Kind), Title: r.Title, Due: r.Due, Note: r.Note,
		Verdict: string(r.Verdict), Anyway: r.Anyway, Asked: []string{}, Made: s.now().UTC(), Pictures: []sheet.Picture{},
	}
	for _, a := range r.Asked {
		out.Asked = append(out.Asked, a.Name)
	}
	for i := range r.Proofs {
		v, err := s.sheetPicture(ctx, who, &r.Proofs[i])
		if err != nil {
			return nil, err
		}
		if pictures && v.Newest {
			if v.JPEG, err = s.Picture(ctx, who, r.Proofs[i].ID, Seen{Side: frozen.ScreenSide, JPEG: true}); err != nil {
				return nil, err
			}
		}
		out.Pictures = append(out.Pictures, v)
	}
	return out, nil
}

func (s *Service) sheetPicture(ctx context.Context, who identity.Actor, q *Proof) (sheet.Picture, error) {
	v := sheet.Picture{
		Number: q.Number, Scene: q.Scene, View: q.View, Newest: q.Newest, Verdict: string(q.Verdict), SHA256: q.SHA256, Slug: q.Slug,
		Width: q.Width, Height: q.Height, Area: q.Area, By: q.By, At: q.Created, Parts: []string{}, Settings: []string{},
		Answers: []sheet.Answer{}, Remarks: []sheet.Remark{},
	}
	for _, a := range q.Answers {
		v.Answers = append(v.Answers, sheet.Answer{Name: a.Name, Verdict: string(a.Verdict), Words: a.Words, SHA256: a.SHA256, At: a.At})
	}
	c, err := s.Compare(ctx, who, q.ID)
	if err != nil {
		return v, err
	}
	if c.Before != nil {
		v.Before, v.Parts, v.Settings = c.Round, c.Parts, c.Words
		d, err := s.Differ(ctx, who, q.ID)
		if err != nil {
			return v, err
		}
		if d.Why == "" && d.Measured {
			v.Changed = &d.Share
		}
	}
	all, err := s.Remarks(ctx, who, q.ID)
	if err != nil {
		return v, err
	}
	for i := range all {
		m := &all[i]
		if m.Proof != q.ID && m.State != round.Open {
			continue
		}
		r := sheet.Remark{Number: m.Number, Round: m.Round, Part: m.Part, State: string(m.State), Seen: string(m.Seen), X: m.X, Y: m.Y, Lines: []sheet.Line{}}
		if m.Seen != surface.Visible {
			r.X, r.Y = 0, 0
		}
		for _, l := range m.Lines {
			r.Lines = append(r.Lines, sheet.Line{Name: l.Name, Words: strings.TrimSpace(l.Words), State: string(l.State), At: l.At})
		}
		v.Remarks = append(v.Remarks, r)
	}
	return v, nil
}
