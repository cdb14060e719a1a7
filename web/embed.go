// Package web carries the built front end.
package web

import "embed"

// Dist is the built front end; it holds only a placeholder until it is built.
//
//go:embed all:dist
var Dist embed.FS
