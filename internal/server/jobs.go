package server

import (
	"context"

	"github.com/danielgtaylor/huma/v2"

	"amberproof/internal/app"
	"amberproof/internal/job"
	"amberproof/internal/store"
)

func (s *Server) jobs() {
	huma.Register(s.api, op("GET", "/api/jobs", "list-jobs", "All jobs, last changed first"), func(ctx context.Context, _ *struct{}) (*Reply[[]store.Job], error) {
		v, err := s.app.Store.Jobs(ctx)
		return reply(v), s.problem(err)
	})
	huma.Register(s.api, op("POST", "/api/jobs", "create-job", "Make a job for a scene"), func(ctx context.Context, in *struct {
		Body struct {
			Scene  int64       `json:"scene"`
			Name   string      `json:"name" maxLength:"120"`
			Ticket *job.Ticket `json:"ticket,omitempty"`
		}
	}) (*Reply[store.Job], error) {
		v, err := s.app.CreateJob(ctx, in.Body.Scene, in.Body.Name, in.Body.Ticket)
		return reply(v), s.problem(err)
	})
	huma.Register(s.api, op("GET", "/api/jobs/{id}", "get-job", "A job with its ticket"), func(ctx context.Context, in *ByID) (*Reply[store.Job], error) {
		v, err := s.app.Store.Job(ctx, in.ID)
		return reply(v), s.problem(err)
	})
	huma.Register(s.api, op("PUT", "/api/jobs/{id}/ticket", "save-ticket", "Save a ticket over the version it was made from"), func(ctx context.Context, in *struct {
		ByID
		Body struct {
			Version int64      `json:"version"`
			Ticket  job.Ticket `json:"ticket"`
		}
	}) (*Reply[store.Job], error) {
		v, err := s.app.SaveTicket(ctx, in.ID, in.Body.Version, in.Body.Ticket)
		return reply(v), s.problem(err)
	})
	huma.Register(s.api, op("PATCH", "/api/jobs/{id}", "rename-job", "Rename a job"), func(ctx context.Context, in *struct {
		ByID
		Body struct {
			Name string `json:"name" maxLength:"120"`
		}
	}) (*Reply[store.Job], error) {
		v, err := s.app.RenameJob(ctx, in.ID, in.Body.Name)
		return reply(v), s.problem(err)
	})
	huma.Register(s.api, op("GET", "/api/jobs/{id}/outlook", "get-outlook", "What running the job now would do"), func(ctx context.Context, in *ByID) (*Reply[app.Outlook], error) {
		v, err := s.app.Outlook(ctx, in.ID)
		return reply(v), s.problem(err)
	})
	huma.Register(s.api, op("POST", "/api/jobs/{id}/runs", "start-run", "Queue a run of the ticket as it is now"), func(ctx context.Context, in *ByID) (*Reply[store.Run], error) {
		v, err := s.app.StartRun(ctx, in.ID)
		return reply(v), s.problem(err)
	})
}

type runBody struct {
	Run    store.Run  `json:"run"`
	Job    string     `json:"job" doc:"Name of the job"`
	Slug   string     `json:"slug" doc:"Says exactly what the picture is"`
	Width  int        `json:"width"`
	Height int        `json:"height"`
	Window [4]int     `json:"window" nullable:"false" doc:"Computed part of the frame: left, top, right, bottom in pixels"`
	Passes []passBody `json:"passes" nullable:"false"`
	Files  []fileBody `json:"files" nullable:"false"`
	Live   *app.Event `json:"live" doc:"Newest progress while it runs"`
}

type passBody struct {
	Key   string `json:"key"`
	Title string `json:"title"`
	Kind  string `json:"kind"`
	Data  bool   `json:"data"`
}

type fileBody struct {
	Path   string `json:"path"`
	Bytes  int64  `json:"bytes"`
	SHA256 string `json:"sha256"`
}

func (s *Server) runs() {
	huma.Register(s.api, op("GET", "/api/runs", "list-runs", "Runs, newest first: of a job, or all"), func(ctx context.Context, in *struct {
		Job int64 `query:"job"`
	}) (*Reply[[]runBody], error) {
		runs, err := s.app.Store.Runs(ctx, in.Job)
		if err != nil {
			return nil, s.problem(err)
		}
		out := make([]runBody, 0, len(runs))
		for _, r := range runs {
			b, err := s.describeRun(ctx, r)
			if err != nil {
				return nil, s.problem(err)
			}
			out = append(out, b)
		}
		return reply(out), nil
	})
	huma.Register(s.api, op("GET", "/api/runs/{id}", "get-run", "A run with its passes and files"), func(ctx context.Context, in *ByID) (*Reply[runBody], error) {
		r, err := s.app.Store.Run(ctx, in.ID)
		if err != nil {
			return nil, s.problem(err)
		}
		b, err := s.describeRun(ctx, r)
		if err != nil {
			return nil, s.problem(err)
		}
		p, err := s.app.PassesOf(ctx, &r)
		if err != nil {
			return nil, s.problem(err)
		}
		for i := range p {
			b.Passes = append(b.Passes, passBody{p[i].Key, p[i].Title, string(p[i].Kind), p[i].Data()})
		}
		m, err := s.app.Manifest(in.ID)
		if err != nil {
			return nil, s.problem(err)
		}
		for _, f := range m.Files {
			b.Files = append(b.Files, fileBody{f.Path, f.Bytes, f.SHA256})
		}
		return reply(b), nil
	})
	act := func(path, id, summary string, f func(context.Context, int64) error) {
		huma.Register(s.api, op("POST", path, id, summary), func(ctx context.Context, in *ByID) (*Reply[store.Run], error) {
			if err := f(ctx, in.ID); err != nil {
				return nil, s.problem(err)
			}
			v, err := s.app.Store.Run(ctx, in.ID)
			return reply(v), s.problem(err)
		})
	}
	act("/api/runs/{id}/stop", "stop-run", "Stop a run; what it has is kept for resuming", func(ctx context.Context, id int64) error { return s.app.StopRun(ctx, id, false) })
	act("/api/runs/{id}/keep", "keep-run", "Stop a run and deliver what it has", func(ctx context.Context, id int64) error { return s.app.StopRun(ctx, id, true) })
	act("/api/runs/{id}/resume", "resume-run", "Go on with a stopped or failed run", s.app.ResumeRun)
	huma.Register(s.api, op("GET", "/api/runs/{id}/reading", "read-pixel", "What lies under a pixel"), func(ctx context.Context, in *struct {
		ByID
		LookQuery
		Pass string `query:"pass" required:"true" maxLength:"200"`
		X    int    `query:"x" required:"true"`
		Y    int    `query:"y" required:"true"`
	}) (*Reply[app.Reading], error) {
		p, err := s.app.OpenProof(ctx, in.ID)
		if err != nil {
			return nil, s.problem(err)
		}
		v, err := p.Read(in.Pass, in.X, in.Y, in.look())
		return reply(v), s.problem(err)
	})
}

func (s *Server) describeRun(ctx context.Context, r store.Run) (runBody, error) {
	t := &r.Resolved.Ticket
	size, w := t.Size(), t.Window()
	b := runBody{Run: r, Width: size.X, Height: size.Y, Window: [4]int{w.Min.X, w.Min.Y, w.Max.X, w.Max.Y}, Passes: []passBody{}, Files: []fileBody{}}
	if e, ok := s.app.Hub().Last(r.ID); ok {
		b.Live = &e
	}
	j, err := s.app.Store.Job(ctx, r.Job)
	if err != nil {
		return b, err
	}
	b.Job, b.Slug = j.Name, app.Slug(j.Name, &r)
	return b, nil
}
