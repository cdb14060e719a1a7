package server

import (
	"archive/zip"
	"errors"
	"io"
	"mime/multipart"
	"net/http"
	"os"
	"path"
	"path/filepath"
	"strconv"
	"strings"
	"time"

	"github.com/coder/websocket"
	"github.com/coder/websocket/wsjson"
	"github.com/danielgtaylor/huma/v2"
	"github.com/gin-gonic/gin"

	"amberproof/core/colour"
	"amberproof/core/imageio"
	"amberproof/core/importer"
	"amberproof/internal/deliver"
)

// LookQuery says how a picture is looked at.
type LookQuery struct {
	Exposure float64 `query:"ev" minimum:"-20" maximum:"20"`
	Display  string  `query:"display" enum:"filmic,plain" default:"filmic"`
}

func (q LookQuery) look() imageio.Look {
	return imageio.Look{Exposure: q.Exposure, Transform: colour.Transform(q.Display)}
}

// raw registers what is not JSON: uploads, pictures, files, live news.
func (s *Server) raw() {
	g := s.engine.Group("/api")
	g.POST("/scenes", s.uploadScene)
	g.POST("/surrounds", s.uploadSurround)
	g.GET("/scenes/:id/shape", s.sceneShape)
	g.GET("/runs/:id/picture/:pass", s.picture)
	g.GET("/runs/:id/files/*path", s.file)
	g.GET("/runs/:id/delivery.zip", s.deliveryZip)
	g.GET("/live", s.live)
}

func (s *Server) fail(c *gin.Context, err error) {
	err = s.problem(err)
	var e *huma.ErrorModel
	if errors.As(err, &e) {
		c.AbortWithStatusJSON(e.Status, e)
		return
	}
	c.AbortWithStatusJSON(http.StatusInternalServerError, gin.H{"title": "Internal error", "status": 500, "detail": "Something went wrong inside."})
}

func (s *Server) refuse(c *gin.Context, status int, detail string) {
	c.AbortWithStatusJSON(status, gin.H{"title": http.StatusText(status), "status": status, "detail": detail})
}

func pathID(c *gin.Context) int64 {
	id, err := strconv.ParseInt(c.Param("id"), 10, 64)
	if err != nil {
		return 0 // no row has the number 0: it is not found
	}
	return id
}

// upload reads the files of a multipart form within the limits.
func (s *Server) upload(c *gin.Context, each func(name string, data []byte) error) bool {
	lim := importer.DefaultLimits
	c.Request.Body = http.MaxBytesReader(c.Writer, c.Request.Body, lim.Bytes)
	form, err := c.Request.MultipartReader()
	if err != nil {
		s.refuse(c, http.StatusBadRequest, "The upload is not a form with files.")
		return false
	}
	for n := 0; ; n++ {
		part, err := form.NextPart()
		if err == io.EOF {
			if n == 0 {
				s.refuse(c, http.StatusUnprocessableEntity, "The upload holds no file.")
				return false
			}
			return true
		}
		var data []byte
		if err == nil {
			data, err = io.ReadAll(part)
		}
		if err == nil && n >= lim.Files {
			s.refuse(c, http.StatusUnprocessableEntity, "The upload holds too many files; pack them in a zip.")
			return false
		}
		var big *http.MaxBytesError
		switch {
		case errors.As(err, &big):
			s.refuse(c, http.StatusRequestEntityTooLarge, "The files are larger than "+strconv.FormatInt(lim.Bytes>>20, 10)+" MB together.")
			return false
		case err != nil:
			s.refuse(c, http.StatusBadRequest, "The upload broke off; send the files again.")
			return false
		}
		if err := each(fileNameOf(part), data); err != nil {
			s.fail(c, err)
			return false
		}
	}
}

// fileNameOf keeps the folders of a multi-file upload, which the browser's own
// file name leaves out: the form field is named by the relative path.
func fileNameOf(p *multipart.Part) string {
	name := p.FormName()
	if name == "" || name == "file" {
		name = p.FileName()
	}
	return strings.TrimPrefix(path.Clean("/"+strings.ReplaceAll(name, "\\", "/")), "/")
}

func (s *Server) uploadScene(c *gin.Context) {
	b := importer.Bundle{}
	ok := s.upload(c, func(name string, data []byte) error {
		if strings.EqualFold(path.Ext(name), ".zip") {
			return s.app.Unpack(b, data)
		}
		b[name] = data
		return nil
	})
	if !ok {
		return
	}
	projects, err := s.app.Store.Projects(c)
	if err != nil || len(projects) == 0 {
		s.fail(c, errors.Join(errors.New("no project"), err))
		return
	}
	project := projects[0].ID
	if q, err := strconv.ParseInt(c.Query("project"), 10, 64); err == nil {
		project = q
	}
	row, err := s.app.ImportScene(c, project, b)
	if err != nil {
		s.fail(c, err)
		return
	}
	c.JSON(http.StatusOK, row)
}

func (s *Server) uploadSurround(c *gin.Context) {
	var out any
	ok := s.upload(c, func(name string, data []byte) error {
		v, err := s.app.ImportSurround(c, name, data)
		out = v
		return err
	})
	if ok {
		c.JSON(http.StatusOK, out)
	}
}

func (s *Server) sceneShape(c *gin.Context) {
	row, sc, err := s.app.Scene(c, pathID(c))
	if err != nil {
		s.fail(c, err)
		return
	}
	tag := `"` + row.SHA256 + `"`
	c.Header("ETag", tag)
	if c.GetHeader("If-None-Match") == tag {
		c.Status(http.StatusNotModified)
		return
	}
	c.Data(http.StatusOK, "application/octet-stream", shapeOf(sc))
}

// picture serves a pass as a PNG: /picture/beauty.png?ev=0&display=filmic&side=800
func (s *Server) picture(c *gin.Context) {
	q := LookQuery{Display: c.DefaultQuery("display", "filmic")}
	var err1, err2 error
	q.Exposure, err1 = strconv.ParseFloat(c.DefaultQuery("ev", "0"), 64)
	side, err2 := strconv.Atoi(c.DefaultQuery("side", "0"))
	if err1 != nil || err2 != nil || !(q.Exposure >= -20 && q.Exposure <= 20) || side < 0 || q.Display != "filmic" && q.Display != "plain" {
		s.refuse(c, http.StatusBadRequest, "ev must be between -20 and 20, side a size in pixels, display filmic or plain.")
		return
	}
	p, err := s.app.OpenProof(c, pathID(c))
	if err != nil {
		s.fail(c, err)
		return
	}
	c.Header("Content-Type", "image/png")
	c.Header("Cache-Control", "no-cache")
	if c.Query("v") != "" { // the address changes with the picture
		c.Header("Cache-Control", "private, max-age=3600")
	}
	if err := p.PNG(c.Writer, strings.TrimSuffix(c.Param("pass"), ".png"), q.look(), side); err != nil && !c.Writer.Written() {
		c.Header("Content-Type", "application/json")
		s.fail(c, err)
	}
}

func (s *Server) file(c *gin.Context) {
	id := pathID(c)
	want := strings.TrimPrefix(c.Param("path"), "/")
	m, err := s.app.Manifest(id)
	if err != nil {
		s.fail(c, err)
		return
	}
	listed := want == deliver.ManifestName && len(m.Files) > 0
	for _, f := range m.Files {
		listed = listed || f.Path == want
	}
	if !listed { // only what the manifest names is served
		s.refuse(c, http.StatusNotFound, "The delivery has no such file.")
		return
	}
	c.FileAttachment(filepath.Join(s.app.DeliveryDir(id), filepath.FromSlash(want)), path.Base(want))
}

func (s *Server) deliveryZip(c *gin.Context) {
	id := pathID(c)
	m, err := s.app.Manifest(id)
	if err != nil {
		s.fail(c, err)
		return
	}
	if len(m.Files) == 0 {
		s.refuse(c, http.StatusNotFound, "The run has delivered nothing yet.")
		return
	}
	c.Header("Content-Type", "application/zip")
	c.Header("Content-Disposition", `attachment; filename="delivery-run-`+strconv.FormatInt(id, 10)+`.zip"`)
	z := zip.NewWriter(c.Writer)
	names := []string{deliver.ManifestName}
	for _, f := range m.Files {
		names = append(names, f.Path)
	}
	for _, n := range names {
		// Pictures are packed already: they are stored as they are.
		w, err := z.CreateHeader(&zip.FileHeader{Name: n, Method: zip.Store, Modified: m.Finished})
		if err == nil {
			err = copyFile(w, filepath.Join(s.app.DeliveryDir(id), filepath.FromSlash(n)))
		}
		if err != nil {
			s.log.Error("a delivery could not be sent", "run", id, "error", err)
			return // the archive stays without its end, so the browser reports a broken download
		}
	}
	if err := z.Close(); err != nil {
		s.log.Warn("a delivery was not fetched to its end", "run", id, "error", err)
	}
}

func copyFile(w io.Writer, p string) error {
	f, err := os.Open(p)
	if err != nil {
		return err
	}
	defer f.Close()
	_, err = io.Copy(w, f)
	return err
}

// live sends news of runs over a web socket for as long as the page listens.
func (s *Server) live(c *gin.Context) {
	conn, err := websocket.Accept(c.Writer, c.Request, nil)
	if err != nil {
		return // the answer has been written
	}
	defer conn.CloseNow()
	ctx := conn.CloseRead(c.Request.Context())
	sub := s.app.Hub().Subscribe()
	defer sub.Close()
	beat := time.NewTicker(20 * time.Second)
	defer beat.Stop()
	for {
		select {
		case <-ctx.Done():
			return
		case <-beat.C:
			if conn.Ping(ctx) != nil {
				return
			}
		case <-sub.Wake():
			for _, e := range sub.Take() {
				if wsjson.Write(ctx, conn, e) != nil {
					return
				}
			}
		}
	}
}
