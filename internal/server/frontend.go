package server

import (
	"io/fs"
	"net/http"
	"path"
	"strings"

	"github.com/gin-gonic/gin"

	"amberproof/web"
)

// frontEnd serves the built pages: files as they are, and for what else a
// browser asks for as a page the application's own, which knows its addresses.
func (s *Server) frontEnd() error {
	dist, err := fs.Sub(web.Dist, "dist")
	if err != nil {
		return err
	}
	files := http.FileServerFS(dist)
	s.engine.NoRoute(func(c *gin.Context) {
		p := strings.TrimPrefix(c.Request.URL.Path, "/")
		if f, err := fs.Stat(dist, p); err == nil && !f.IsDir() {
			if strings.HasPrefix(p, "assets/") { // named by content
				c.Header("Cache-Control", "public, max-age=31536000, immutable")
			}
			files.ServeHTTP(c.Writer, c.Request)
			return
		}
		// A path that names a file or the interface, or a client that is no browser looking for a
		// page, must not be given one with status 200: it would take it for an answer.
		get := c.Request.Method == http.MethodGet || c.Request.Method == http.MethodHead
		if !get || strings.HasPrefix(p, "api/") || path.Ext(p) != "" || !strings.Contains(c.GetHeader("Accept"), "text/html") {
			refuse(c, http.StatusNotFound, "There is nothing at this address.")
			return
		}
		name := "index.html"
		if p == "look" { // of who has a link
			name = "look.html"
			c.Header("Referrer-Policy", "no-referrer")
			c.Header("X-Robots-Tag", "noindex, nofollow")
		}
		page, err := fs.ReadFile(dist, name)
		if err != nil {
			c.String(http.StatusNotFound, "The front end has not been built; ./run builds it.")
			return
		}
		c.Header("Cache-Control", "no-cache")
		c.Data(http.StatusOK, "text/html; charset=utf-8", page)
	})
	return nil
}
