package main

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

// Whoever lets it be reached from a network without TLS is told so.
func TestPasswordsInTheOpenAreSaid(t *testing.T) {
	for _, c := range []struct {
		s    settings
		open bool
	}{
		{settings{listen: "127.0.0.1:7440"}, false}, {settings{listen: "[::1]:7440"}, false}, {settings{listen: "localhost:7440"}, false},
		{settings{listen: "0.0.0.0:7440"}, true}, {settings{listen: ":7440"}, true}, {settings{listen: "10.20.4.9:7440"}, true},
		{settings{listen: "0.0.0.0:7440", certificate: "chain.pem"}, false}, {settings{listen: "0.0.0.0:7440", publicURL: "https://kaiku.example.org"}, false},
		{settings{listen: "0.0.0.0:7440", publicURL: "http://kaiku.example.org"}, true},
	} {
		assert.Equal(t, c.open, c.s.inTheOpen(), "%+v", c.s)
	}
}
