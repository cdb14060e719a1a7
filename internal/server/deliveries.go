package server

import (
	"archive/zip"
	"io"
	"net/http"
	"os"
	"path"
	"path/filepath"
	"strconv"
	"strings"

	"github.com/gin-gonic/gin"

	"amberproof/internal/identity"
	"amberproof/internal/ticket"
)

// deliveries are files, and streamed: they may be larger than memory, so they go past
// the JSON operations.
func (s *Server) deliveries(g *gin.RouterGroup) {
	g.GET("/runs/:id/deliveries/:number/files/*path", s.file)
	g.GET("/runs/:id/deliveries/:number/delivery.zip", s.deliveryZip)
}

// pathNumber is the number of a delivery in a request's path; they count from 1, so
// what is none is not found.
func pathNumber(c *gin.Context) int {
	n, err := strconv.Atoi(c.Param("number"))
	if err != nil {
		return 0
	}
	return n
}

// file sends one file of a delivery. Which files there are is what its manifest says:
// a path is looked up there and never joined to a folder as it came.
func (s *Server) file(c *gin.Context) {
	want := strings.TrimPrefix(c.Param("path"), "/")
	p, err := s.app.Runs.DeliveredFile(c.Request.Context(), identity.From(c.Request.Context()), pathID(c), pathNumber(c), want)
	if err != nil {
		s.fail(c, err)
		return
	}
	c.FileAttachment(p, path.Base(want))
}

// deliveryZip sends a whole delivery as it is packed, without a copy on disk. An error
// in the middle comes after the status has gone, so nothing but a broken archive can
// tell of it.
func (s *Server) deliveryZip(c *gin.Context) {
	id, number := pathID(c), pathNumber(c)
	dir, m, err := s.app.Runs.Delivered(c.Request.Context(), identity.From(c.Request.Context()), id, number)
	if err != nil {
		s.fail(c, err)
		return
	}
	c.Header("Content-Type", "application/zip")
	c.Header("Content-Disposition", `attachment; filename="delivery-run-`+strconv.FormatInt(id, 10)+"-"+strconv.Itoa(number)+`.zip"`)
	c.Status(http.StatusOK)
	z := zip.NewWriter(c.Writer)
	names := []string{ticket.ManifestName}
	for _, f := range m.Files {
		names = append(names, f.Path)
	}
	for _, n := range names {
		// Pictures are packed already: they are stored as they are.
		w, err := z.CreateHeader(&zip.FileHeader{Name: n, Method: zip.Store, Modified: m.Finished})
		if err == nil {
			err = copyFile(w, filepath.Join(dir, filepath.FromSlash(n)))
		}
		if err != nil {
			s.log.Warn("a delivery could not be sent to its end", "run", id, "error", err)
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
