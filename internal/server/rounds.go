package server

import (
	"context"
	"encoding/json"
	"fmt"

	"github.com/danielgtaylor/huma/v2"

	"amberproof/core/colour"
	"amberproof/internal/identity"
	"amberproof/internal/review"
	"amberproof/internal/sheet"
)

// rounds are operations on approval rounds and what is put up in them.
func (s *Server) rounds() {
	handle(s, "GET", "/api/projects/{id}/board", "get-board", "The rounds of a project, what is up in them, and who is asked",
		func(ctx context.Context, who identity.Actor, in *ByID) (review.Board, error) {
			return s.app.Review.Board(ctx, who, in.ID)
		})
	handle(s, "POST", "/api/projects/{id}/rounds", "make-round", "Make the next round of a project", func(ctx context.Context, who identity.Actor, in *struct {
		ByID
		Body review.Terms
	}) (review.Round, error) {
		return s.app.Review.Make(ctx, who, in.ID, in.Body)
	})
	handle(s, "GET", "/api/rounds/{id}", "get-round", "A round with its proofs and answers",
		func(ctx context.Context, who identity.Actor, in *ByID) (review.Round, error) {
			return s.app.Review.Get(ctx, who, in.ID)
		})
	handle(s, "PUT", "/api/rounds/{id}", "change-round", "Give a round other terms, over the version that was seen",
		func(ctx context.Context, who identity.Actor, in *struct {
			ByID
			Body struct {
				Version int64        `json:"version"`
				Terms   review.Terms `json:"terms"`
			}
		}) (review.Round, error) {
			return s.app.Review.Change(ctx, who, in.ID, in.Body.Version, in.Body.Terms)
		})
	perform(s, "DELETE", "/api/rounds/{id}", "remove-round", "Remove a round in which nothing was put up",
		func(ctx context.Context, who identity.Actor, in *ByID) error {
			return s.app.Review.Remove(ctx, who, in.ID)
		})
	handle(s, "PUT", "/api/rounds/{id}/begin", "begin-round", "Put things up before the round before is approved, and say why",
		func(ctx context.Context, who identity.Actor, in *struct {
			ByID
			Body struct {
				Why string `json:"why" maxLength:"4000"`
			}
		}) (review.Round, error) {
			return s.app.Review.Begin(ctx, who, in.ID, in.Body.Why)
		})
	handle(s, "POST", "/api/rounds/{id}/proofs", "put-up", "Freeze pictures of a run and put them up in a round",
		func(ctx context.Context, who identity.Actor, in *struct {
			ByID
			Body review.ToPutUp
		}) (review.Round, error) {
			return s.app.Review.PutUp(ctx, who, in.ID, in.Body)
		})
	handle(s, "POST", "/api/rounds/{id}/answers", "answer-round", "Answer to proofs of a round, as they were seen",
		func(ctx context.Context, who identity.Actor, in *struct {
			ByID
			Body review.Said
		}) (review.Round, error) {
			return s.app.Review.Answer(ctx, who, in.ID, in.Body)
		})
	s.sheets()
	s.proofsPutUp()
	s.compared()
	s.remarks()
}

// proofsPutUp are operations on one proof of a round.
func (s *Server) proofsPutUp() {
	perform(s, "DELETE", "/api/proofs/{id}", "withdraw-proof", "Take down a proof that nobody has answered to",
		func(ctx context.Context, who identity.Actor, in *ByID) error {
			return s.app.Review.Withdraw(ctx, who, in.ID)
		})
	handle(s, "GET", "/api/proofs/{id}/changed", "compare-proof", "What changed since the same view was put up before",
		func(ctx context.Context, who identity.Actor, in *ByID) (review.Compared, error) {
			return s.app.Review.Compare(ctx, who, in.ID)
		})
	handle(s, "GET", "/api/proofs/{id}/difference", "get-difference", "What changed in the picture since the same view was put up before",
		func(ctx context.Context, who identity.Actor, in *ByID) (review.Difference, error) {
			return s.app.Review.Differ(ctx, who, in.ID)
		})
	sendPNG(s, "GET", "/api/proofs/{id}/difference.png", "get-difference-picture", "The picture, dark but for what changed",
		func(ctx context.Context, who identity.Actor, in *ByID) ([]byte, error) {
			return s.app.Review.DifferencePicture(ctx, who, in.ID)
		})
	sendPNG(s, "GET", "/api/proofs/{id}/picture.png", "get-proof-picture", "A picture of a proof, as it was put up or looked at otherwise",
		func(ctx context.Context, who identity.Actor, in *struct {
			ByID
			Pass     string  `query:"pass" maxLength:"200" doc:"Its key; empty for the first"`
			Side     int     `query:"side" minimum:"0" maximum:"16384" doc:"Of its longer side, pixels at most; 0 for all of it"`
			Display  string  `query:"display" enum:"as put up,filmic,plain" default:"as put up"`
			Exposure float64 `query:"ev" minimum:"-20" maximum:"20" doc:"Stops; counts with a display of its own"`
		}) ([]byte, error) {
			seen := review.Seen{Pass: in.Pass, Side: in.Side}
			if in.Display != "as put up" {
				look := LookQuery{Exposure: in.Exposure, Display: in.Display}.look()
				seen.Look = &look
			}
			return s.app.Review.Picture(ctx, who, in.ID, seen)
		})
}

// TileQuery is a part of a picture of a proof.
type TileQuery struct {
	ByID
	Pass     string  `query:"pass" maxLength:"200" doc:"Its key; empty for the first"`
	Level    int     `query:"level" minimum:"0" maximum:"16" doc:"0 for the full size; each is half of the one before"`
	X        int     `query:"x" minimum:"0" maximum:"65536" doc:"Tiles from the left, of 256 pixels each"`
	Y        int     `query:"y" minimum:"0" maximum:"65536" doc:"And from the top"`
	Display  string  `query:"display" enum:"as put up,filmic,plain" default:"as put up"`
	Exposure float64 `query:"ev" minimum:"-20" maximum:"20" doc:"Stops beside those of the proof as it was put up, or with a display of its own"`
	Less     int64   `query:"less" minimum:"0" doc:"A proof to be taken off, so that the difference is seen; 0 for none"`
	LessPass string  `query:"lessPass" maxLength:"200"`
	Gain     float64 `query:"gain" minimum:"1" maximum:"1000" default:"1" doc:"Of the difference"`
}

// compared are operations by which proofs are laid beside and over each other.
func (s *Server) compared() {
	handle(s, "GET", "/api/proofs/{id}/lay", "lay-proof", "Where the frame of another proof lies in the frame of this one",
		func(ctx context.Context, who identity.Actor, in *struct {
			ByID
			Over int64 `query:"over" minimum:"1" required:"true" doc:"The other proof"`
		}) (review.Lay, error) {
			return s.app.Review.Over(ctx, who, in.ID, in.Over)
		})
	sendPNG(s, "GET", "/api/proofs/{id}/tile.png", "get-tile", "A part of a picture of a proof at the size it is looked at, or of its difference from another",
		func(ctx context.Context, who identity.Actor, in *TileQuery) ([]byte, error) {
			t := review.Tile{Pass: in.Pass, Level: in.Level, X: in.X, Y: in.Y, Stops: in.Exposure, Less: in.Less, LessPass: in.LessPass, Gain: float32(in.Gain)}
			if in.Display != "as put up" {
				t.Display = colour.Transform(in.Display)
			}
			return s.app.Review.Tile(ctx, who, in.ID, t)
		})
}

// remarks are operations on what is said of places in proofs.
func (s *Server) remarks() {
	handle(s, "GET", "/api/proofs/{id}/remarks", "list-remarks", "Remarks about the scene of a proof, and where they are seen in it",
		func(ctx context.Context, who identity.Actor, in *ByID) ([]review.Remark, error) {
			return s.app.Review.Remarks(ctx, who, in.ID)
		})
	handle(s, "GET", "/api/proofs/{id}/spot", "get-spot", "What a remark at a point of a proof would be about",
		func(ctx context.Context, who identity.Actor, in *struct {
			ByID
			X float64 `query:"x" minimum:"0" maximum:"1" required:"true" doc:"Share of the frame's width"`
			Y float64 `query:"y" minimum:"0" maximum:"1" required:"true" doc:"And of its height"`
		}) (review.Spot, error) {
			return s.app.Review.AtSpot(ctx, who, in.ID, in.X, in.Y)
		})
	handle(s, "GET", "/api/proofs/{id}/topics", "list-topics", "Settings of the ticket that a remark on a proof can be about",
		func(ctx context.Context, who identity.Actor, in *ByID) (list[string], error) {
			return listed(s.app.Review.Topics(ctx, who, in.ID))
		})
	handle(s, "GET", "/api/jobs/{id}/remarks", "list-wanted", "Open remarks about settings of a job, with what its ticket has otherwise than what was remarked on",
		func(ctx context.Context, who identity.Actor, in *ByID) (list[review.Wanted], error) {
			return listed(s.app.Review.Wanted(ctx, who, in.ID))
		})
	handle(s, "GET", "/api/proofs/{id}/parts", "list-proof-parts", "Parts that are seen in a proof, and where",
		func(ctx context.Context, who identity.Actor, in *ByID) ([]review.PartSpot, error) {
			return s.app.Review.Parts(ctx, who, in.ID)
		})
	handle(s, "POST", "/api/proofs/{id}/remarks", "make-remark", "Make a remark on a proof", func(ctx context.Context, who identity.Actor, in *struct {
		ByID
		Body review.ToRemark
	}) ([]review.Remark, error) {
		return s.app.Review.Remark(ctx, who, in.ID, in.Body)
	})
	handle(s, "POST", "/api/remarks/{id}/lines", "say-in-remark", "Answer in a remark, or say what became of it",
		func(ctx context.Context, who identity.Actor, in *struct {
			ByID
			Body review.Say
		}) ([]review.Remark, error) {
			return s.app.Review.SayIn(ctx, who, in.ID, in.Body)
		})
}

// sheetReply is a round laid out.
type sheetReply struct {
	ContentType string `header:"Content-Type"`
	Disposition string `header:"Content-Disposition"`
	Body        []byte
}

// sheets are a round laid out: to be printed, shown or read by other programs.
func (s *Server) sheets() {
	lay := func(path, id, summary, kind, name string, f func(*sheet.Sheet, string) ([]byte, error)) {
		o := huma.Operation{Method: "GET", Path: "/api/rounds/{id}/" + path, OperationID: id, Summary: summary}
		huma.Register(s.api, o, func(ctx context.Context, in *struct {
			ByID
			Paper string `query:"paper" enum:"a4,letter" default:"a4" doc:"That a sheet is printed on"`
		}) (*sheetReply, error) {
			v, err := s.app.Review.Sheet(ctx, identity.From(ctx), in.ID, kind != "application/json")
			if err != nil {
				return nil, s.problem(err)
			}
			b, err := f(v, in.Paper)
			if err != nil {
				return nil, s.problem(err)
			}
			return &sheetReply{kind, fmt.Sprintf(`attachment; filename="round-%d-%s"`, v.Number, name), b}, nil
		})
	}
	lay("sheet.pdf", "get-round-sheet", "The round to be printed and signed, as PDF", "application/pdf", "sheet.pdf",
		func(v *sheet.Sheet, paper string) ([]byte, error) { return v.PDF(paper) })
	lay("contact.png", "get-contact-sheet", "All that is up in the round in one picture", "image/png", "contact.png",
		func(v *sheet.Sheet, _ string) ([]byte, error) { return v.Contact() })
	lay("round.json", "get-round-document", "The whole round for other programs, as docs/round.md says", "application/json", "round.json",
		func(v *sheet.Sheet, _ string) ([]byte, error) { return json.MarshalIndent(v, "", "  ") })
}
