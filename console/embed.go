// Package console holds the built console.
package console

import "embed"

// Dist is the built console, below dist. Before it is built it holds nothing to serve.
//
//go:embed all:dist
var Dist embed.FS
