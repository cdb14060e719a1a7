package server

import (
	"context"
	"errors"
	"maps"
	"math"
	"net/http"
	"strconv"
	"syscall"

	"github.com/danielgtaylor/huma/v2"
	"github.com/gin-gonic/gin"

	"amberproof/core/parallel"
	"amberproof/internal/fault"
	"amberproof/internal/store"
)

// problem turns an error into an HTTP one, in words for people (RFC 9457). Those that
// are known are told by kind, in the words the use case found; all others are our own
// mistakes, which are logged and not explained to strangers.
func (s *Server) problem(err error) error {
	var b *fault.Input
	var slow *fault.Slow
	switch {
	case err == nil:
		return nil
	case errors.As(err, &slow):
		wait := strconv.Itoa(int(math.Ceil(slow.Wait.Seconds())))
		return huma.ErrorWithHeaders(huma.Error429TooManyRequests(err.Error()), http.Header{"Retry-After": {wait}})
	case errors.Is(err, fault.ErrSignedOut):
		return huma.Error401Unauthorized(err.Error())
	case errors.As(err, &b):
		var details []error
		for _, f := range b.Faults {
			details = append(details, &huma.ErrorDetail{Location: f.Path, Message: f.Message})
		}
		return huma.Error422UnprocessableEntity(b.Message, details...)
	case errors.Is(err, fault.ErrNotFound):
		return huma.Error404NotFound(err.Error())
	case errors.Is(err, fault.ErrForbidden):
		return huma.Error403Forbidden(err.Error())
	case errors.Is(err, fault.ErrChanged), errors.Is(err, fault.ErrState), errors.Is(err, fault.ErrTaken):
		return huma.Error409Conflict(err.Error())
	case errors.Is(err, fault.ErrBusy):
		return huma.Error503ServiceUnavailable(err.Error())
	case store.Gone(err):
		return huma.Error503ServiceUnavailable("The database cannot be reached at the moment; it is being started again. Try once more in a few seconds.")
	case errors.Is(err, context.Canceled), errors.Is(err, context.DeadlineExceeded):
		return huma.NewError(499, "the request was given up")
	}
	var programming *parallel.Panic
	switch {
	case errors.Is(err, syscall.ENOSPC), errors.Is(err, syscall.EDQUOT), store.Full(err):
		s.log.Error("the disk is full", "error", err)
		return huma.NewError(http.StatusInsufficientStorage,
			"The disk is full: nothing was saved. Make room in the data folder (old deliveries and films take most), then do it again.")
	case errors.As(err, &programming):
		s.log.Error("a request failed by a programming error", "error", programming.What, "stack", programming.Stack)
	default:
		s.log.Error("a request failed", "error", err)
	}
	return huma.Error500InternalServerError("Something went wrong inside; the server's log says what.")
}

// fail answers a request that is not JSON's with an error.
func (s *Server) fail(c *gin.Context, err error) {
	err = s.problem(err)
	var e *huma.ErrorModel
	if h, ok := errors.AsType[huma.HeadersError](err); ok {
		maps.Copy(c.Writer.Header(), h.GetHeaders())
	}
	if errors.As(err, &e) {
		c.AbortWithStatusJSON(e.Status, e)
		return
	}
	c.AbortWithStatusJSON(http.StatusInternalServerError, gin.H{"title": "Internal error", "status": 500, "detail": "Something went wrong inside."})
}

// refuse answers with a status and a sentence.
func refuse(c *gin.Context, status int, detail string) {
	c.AbortWithStatusJSON(status, gin.H{"title": http.StatusText(status), "status": status, "detail": detail})
}
