package server

import (
	"context"
	"errors"
	"io"
	"mime/multipart"
	"net/http"
	"strconv"

	"github.com/gin-gonic/gin"

	"amberproof/core/importer"
	"amberproof/internal/fault"
	"amberproof/internal/identity"
	"amberproof/internal/scenes"
)

// uploads come as forms with files, which go to disk as they arrive: nothing of an
// upload is held in memory but a buffer.
func (s *Server) uploads(g *gin.RouterGroup) {
	g.POST("/scenes", s.uploadScene)
	g.POST("/surrounds", s.uploadSurround)
	g.POST("/pictures", s.uploadPictures)
}

// formSlack is what a form may have beside its files: their headers.
const formSlack = 1 << 20

// upload takes the files of a multipart form in; false when that was answered
// with an error.
func (s *Server) upload(c *gin.Context, u *scenes.Upload) bool {
	c.Request.Body = http.MaxBytesReader(c.Writer, c.Request.Body, importer.DefaultLimits.Bytes+formSlack)
	form, err := c.Request.MultipartReader()
	if err != nil {
		refuse(c, http.StatusBadRequest, "The upload is not a form with files.")
		return false
	}
	for {
		part, err := form.NextPart()
		if err == io.EOF {
			break
		}
		if err == nil {
			err = u.Add(fileNameOf(part), part)
		}
		var big *http.MaxBytesError
		var input *fault.Input
		switch {
		case errors.As(err, &big):
			refuse(c, http.StatusRequestEntityTooLarge, "The files are larger than "+strconv.FormatInt(importer.DefaultLimits.Bytes>>20, 10)+" MB together.")
			return false
		case errors.As(err, &input):
			s.fail(c, err)
			return false
		case err != nil:
			refuse(c, http.StatusBadRequest, "The upload broke off; send the files again.")
			return false
		}
	}
	if u.Empty() {
		refuse(c, http.StatusUnprocessableEntity, "The upload holds no file.")
		return false
	}
	return true
}

// fileNameOf keeps the folders of a multi-file upload, which the browser's own
// file name leaves out: the form field is named by the relative path.
func fileNameOf(p *multipart.Part) string {
	if name := p.FormName(); name != "" && name != "file" {
		return name
	}
	return p.FileName()
}

// taking runs f on the files of an upload, which are gone afterwards.
func (s *Server) taking(c *gin.Context, f func(who identity.Actor, u *scenes.Upload) (any, error)) {
	who := identity.From(c.Request.Context())
	u, err := s.app.Scenes.NewUpload(who)
	if err != nil {
		s.fail(c, err)
		return
	}
	defer func() {
		if err := u.Close(); err != nil {
			s.log.Warn("an upload cannot be removed", "error", err)
		}
	}()
	if !s.upload(c, u) {
		return
	}
	v, err := f(who, u)
	if err != nil {
		s.fail(c, err)
		return
	}
	c.JSON(http.StatusOK, v)
}

// uploadScene imports a scene: /api/scenes?project=1&word=abc; by the word its
// place in the line can be asked for meanwhile.
func (s *Server) uploadScene(c *gin.Context) {
	s.taking(c, func(who identity.Actor, u *scenes.Upload) (any, error) {
		ctx := c.Request.Context()
		projects, err := s.app.Projects.List(ctx, who)
		if err != nil {
			return nil, err
		}
		if len(projects) == 0 {
			return nil, fault.Bad("There is no project to put the scene into")
		}
		project := projects[0].ID
		if q, err := strconv.ParseInt(c.Query("project"), 10, 64); err == nil {
			project = q
		}
		word := c.Query("word")
		if len(word) > 64 {
			word = ""
		}
		return s.app.Scenes.Import(ctx, who, project, u, word)
	})
}

// uploadSurround takes environment pictures in: /api/surrounds?project=1, or for the whole
// studio without.
func (s *Server) uploadSurround(c *gin.Context) {
	s.takingPictures(c, s.app.Scenes.ImportSurrounds)
}

// uploadPictures takes pictures for finishes and backings in, as uploadSurround.
func (s *Server) uploadPictures(c *gin.Context) {
	s.takingPictures(c, s.app.Scenes.ImportPictures)
}

func (s *Server) takingPictures(c *gin.Context,
	f func(ctx context.Context, who identity.Actor, project int64, u *scenes.Upload) (scenes.PictureFile, error)) {
	s.taking(c, func(who identity.Actor, u *scenes.Upload) (any, error) {
		var project int64
		if q := c.Query("project"); q != "" {
			var err error
			if project, err = strconv.ParseInt(q, 10, 64); err != nil || project < 0 {
				return nil, fault.Bad("The project is a number, or left out for the whole studio")
			}
		}
		return f(c.Request.Context(), who, project, u)
	})
}
