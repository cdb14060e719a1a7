package server

import (
	"context"
	"net/http"
	"strings"
	"time"

	"github.com/gin-gonic/gin"

	"amberproof/internal/accounts"
	"amberproof/internal/identity"
)

// kinds are what the numbers in paths are of, by the word before them.
var kinds = map[string]identity.Kind{
	"scenes": identity.SceneKind, "views": identity.ViewKind, "kept": identity.KeptPictureKind, "jobs": identity.JobKind, "runs": identity.RunKind,
	"rounds": identity.RoundKind, "proofs": identity.ProofKind, "remarks": identity.RemarkKind, "links": identity.LinkKind,
	"projects": "project",
}

// asksOnly are operations that change nothing although they are posted.
var asksOnly = map[string]bool{}

func init() {
	for id := range strings.FieldsSeq("compare-ticket drop-parts grow-faces frame-scene move-parts compare-setup render-small work-out-stage") {
		asksOnly[id] = true
	}
}

// past are the names of what is done past the description of the interface.
var past = map[string]string{
	"PUT /api/me": "act-as", "PUT /api/session": "sign-in", "DELETE /api/session": "sign-out", "PUT /api/me/password": "set-password",
	"PUT /api/invitation": "accept-invitation",
	"POST /api/link/open": "open-link", "POST /api/surrounds": "import-surround", "POST /api/pictures": "import-picture",
	"POST /api/scenes": "import-scene",
}

// namedKey keeps who says to be somebody, where nobody is signed in.
const namedKey = "named"

// operations names what routes do.
func (s *Server) operations() map[string]string {
	out := map[string]string{}
	for path, item := range s.api.OpenAPI().Paths {
		route := strings.NewReplacer("{", ":", "}", "").Replace(path)
		if item.Post != nil {
			out["POST "+route] = item.Post.OperationID
		}
		if item.Put != nil {
			out["PUT "+route] = item.Put.OperationID
		}
		if item.Patch != nil {
			out["PATCH "+route] = item.Patch.OperationID
		}
		if item.Delete != nil {
			out["DELETE "+route] = item.Delete.OperationID
		}
	}
	for route, id := range past {
		out[route] = id
	}
	return out
}

// record adds what was done to the audit trail, and what was tried and refused. Requests of
// nobody, and those that come too often, would only fill it.
func (s *Server) record(c *gin.Context) {
	did := s.names[c.Request.Method+" "+c.FullPath()]
	if did == "" || asksOnly[did] {
		return
	}
	ctx := c.Request.Context()
	d := accounts.Deed{Did: did, Address: c.ClientIP()}
	if word, _, _ := strings.Cut(strings.TrimPrefix(strings.Replace(c.FullPath(), guestPath, "/api/", 1), "/api/"), "/"); c.Param("id") != "" {
		d.Kind, d.Thing = string(kinds[word]), pathID(c)
		d.Project = s.app.Accounts.Of(ctx, d.Kind, d.Thing) // before it may be gone
	}
	c.Next()
	if d.Status = c.Writer.Status(); d.Status == http.StatusUnauthorized || d.Status == http.StatusTooManyRequests {
		return
	}
	if did == past["POST /api/link/open"] && d.Status < 400 && c.GetString(namedKey) == "" {
		return // the page looked what the link asks for; nobody came in yet
	}
	who := identity.From(c.Request.Context())
	if d.Person, d.Name = who.ID, who.Name; who.ID == 0 {
		d.Name = c.GetString(namedKey)
	}
	// Also if who asked has gone meanwhile.
	ctx, cancel := context.WithTimeout(context.WithoutCancel(ctx), 5*time.Second)
	defer cancel()
	if err := s.app.Accounts.Done(ctx, d); err != nil {
		s.log.Error("the audit trail could not be kept", "did", did, "person", d.Person, "error", err)
	}
}

// AuditQuery chooses lines of the audit trail.
type AuditQuery struct {
	Project int64     `query:"project" doc:"0: all that who asks leads"`
	Person  int64     `query:"person" doc:"0: anybody"`
	Did     string    `query:"did" maxLength:"64" doc:"Operation of this interface; empty: any"`
	From    time.Time `query:"from" doc:"RFC 3339"`
	To      time.Time `query:"to" doc:"RFC 3339, exclusive"`
	Before  int64     `query:"before" doc:"Number of a line: only earlier ones"`
}

func (q *AuditQuery) asked() accounts.Asked {
	return accounts.Asked{Project: q.Project, Person: q.Person, Did: q.Did, From: q.From, To: q.To, Before: q.Before}
}

// audit are operations on the audit trail.
func (s *Server) audit() {
	handle(s, "GET", "/api/audit", "list-audit", "Who did what, the newest first, 200 lines at a time",
		func(ctx context.Context, who identity.Actor, in *AuditQuery) (list[accounts.Deed], error) {
			return listed(s.app.Accounts.Deeds(ctx, who, in.asked()))
		})
}

// auditCSV sends all of the audit trail that is chosen.
func (s *Server) auditCSV(c *gin.Context) {
	var q struct {
		Project int64  `form:"project"`
		Person  int64  `form:"person"`
		Did     string `form:"did"`
		From    string `form:"from"`
		To      string `form:"to"`
	}
	a := accounts.Asked{}
	err := c.ShouldBindQuery(&q)
	for _, t := range []struct {
		from string
		to   *time.Time
	}{{q.From, &a.From}, {q.To, &a.To}} {
		if t.from != "" && err == nil {
			*t.to, err = time.Parse(time.RFC3339, t.from)
		}
	}
	if err != nil {
		refuse(c, http.StatusUnprocessableEntity, "Choose by project and person as numbers, and by from and to as times, as 2031-03-12T08:00:00Z.")
		return
	}
	a.Project, a.Person, a.Did = q.Project, q.Person, q.Did
	ctx := c.Request.Context()
	if _, err := s.app.Accounts.Deeds(ctx, identity.From(ctx), a); err != nil {
		s.fail(c, err)
		return
	}
	c.Header("Content-Type", "text/csv; charset=utf-8")
	c.Header("Content-Disposition", `attachment; filename="audit-trail.csv"`)
	c.Status(http.StatusOK)
	if err := s.app.Accounts.DeedsCSV(ctx, identity.From(ctx), a, c.Writer); err != nil {
		s.log.Warn("an audit trail was not sent whole", "error", err)
		_ = http.NewResponseController(c.Writer).SetWriteDeadline(time.Now()) // a cut answer is seen to be cut
	}
}
