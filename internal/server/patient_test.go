package server

import (
	"context"
	"io"
	"net"
	"net/http"
	"net/http/httptest"
	"strings"
	"testing"
	"time"

	"github.com/gin-gonic/gin"
)

// An answer that takes longer than bytes may stay away is computed to its end; who sends
// nothing of a body, or takes nothing of an answer, is cut off.
func TestPatienceIsForBytesAndNotForWork(t *testing.T) {
	was := idle
	t.Cleanup(func() { idle = was })
	idle = 1100 * time.Millisecond
	e := gin.New()
	e.Use(patience)
	work := func(c *gin.Context) {
		if _, err := io.Copy(io.Discard, c.Request.Body); err != nil {
			c.String(http.StatusRequestTimeout, "%v", err)
			return
		}
		select {
		case <-c.Request.Context().Done():
			c.String(http.StatusTeapot, "the work was cancelled: %v", context.Cause(c.Request.Context()))
		case <-time.After(3 * idle):
			c.String(http.StatusOK, "worked out")
		}
	}
	e.GET("/work", work)
	e.POST("/work", work)
	s := httptest.NewServer(e)
	t.Cleanup(s.Close)
	for name, ask := range map[string]func() (*http.Response, error){
		"a GET":                 func() (*http.Response, error) { return http.Get(s.URL + "/work") },
		"a POST without a body": func() (*http.Response, error) { return http.Post(s.URL+"/work", "", nil) },
		"a POST":                func() (*http.Response, error) { return http.Post(s.URL+"/work", "text/plain", strings.NewReader("x")) },
	} {
		t.Run(name, func(t *testing.T) {
			t.Parallel()
			r, err := ask()
			if err != nil {
				t.Fatal(err)
			}
			defer r.Body.Close()
			if b, _ := io.ReadAll(r.Body); string(b) != "worked out" {
				t.Errorf("%d %s", r.StatusCode, b)
			}
		})
	}
	t.Run("a body that does not come", func(t *testing.T) {
		c, err := net.Dial("tcp", strings.TrimPrefix(s.URL, "http://"))
		if err != nil {
			t.Fatal(err)
		}
		defer c.Close()
		if _, err := io.WriteString(c, "POST /work HTTP/1.1\r\nHost: x\r\nContent-Length: 5\r\n\r\n1"); err != nil {
			t.Fatal(err)
		}
		answer, _ := io.ReadAll(c) // until it is cut off
		if strings.Contains(string(answer), "worked out") {
			t.Errorf("%s", answer)
		}
	})
}
