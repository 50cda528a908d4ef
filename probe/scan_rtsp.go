package probe

import (
	"context"
	"net/netip"
	"strings"
	"time"

	"github.com/bluenviron/gortsplib/v4"
	"github.com/bluenviron/gortsplib/v4/pkg/base"

	"kaiku/core/dossier"
	"kaiku/core/matching"
)

// rtsp asks a source for the description of its stream (RFC 2326, section 10.2).
func (s *segmentScan) rtsp(ctx context.Context, at netip.AddrPort, one service) matching.Question {
	locator := "/" + strings.TrimPrefix(one.path, "/")
	where, err := base.ParseURL("rtsp://" + at.String() + locator)
	if err != nil {
		return matching.Question{Ended: matching.NotAsked, Detail: err.Error()}
	}
	c := gortsplib.Client{Scheme: where.Scheme, Host: where.Host, DialContext: s.guard.Dial, ReadTimeout: s.guard.lag.patient(hostTime) - time.Second, WriteTimeout: s.guard.lag.patient(time.Second)}
	if err := c.Start2(); err != nil {
		return matching.Question{Ended: endOf(err), Detail: err.Error()}
	}
	stop := context.AfterFunc(ctx, c.Close)
	defer stop()
	defer c.Close()
	described, answer, err := c.Describe(where)
	switch {
	case answer != nil && answer.StatusCode == base.StatusUnauthorized:
		s.rtspSource(at, locator, one.name, answer)
		return matching.Question{Ended: matching.Denied, Detail: "asks for a password"}
	case answer != nil && answer.StatusCode == base.StatusNotFound:
		s.host(at.Addr(), func(h *matching.Host) { addRole(h, dossier.RoleServer, matching.ByRTSP) })
		return matching.Question{Ended: matching.Empty, Detail: "nothing at " + locator}
	case err != nil && strings.Contains(err.Error(), "timed out"):
		return matching.Question{Ended: matching.Silent, Detail: err.Error()}
	case err != nil:
		return matching.Question{Ended: endOf(err), Detail: err.Error()}
	}
	name := one.name
	if name == "" {
		name = described.Title
	}
	s.rtspSource(at, locator, name, answer)
	return matching.Question{Ended: matching.Answered, Answers: len(described.Medias), Detail: described.Title}
}

func (s *segmentScan) rtspSource(at netip.AddrPort, locator, name string, answer *base.Response) {
	s.source(at, dossier.ProtocolRTSP, locator, name, matching.ByRTSP, func(h *matching.Host, _ int) {
		addRole(h, dossier.RoleServer, matching.ByRTSP)
		saySoftware(h, strings.Join(answer.Header["Server"], " "), dossier.SoftwareStream, matching.ByRTSP)
	})
}
